"""Making audit events: an id, a salt, and the digest that outlives the payload."""

from __future__ import annotations

import os
import uuid
from datetime import datetime

from yugum.core.documents import Document
from yugum.core.merkle import payload_digest
from yugum.ports.audit import Event


def make_event(
    at: datetime,
    actor: str,
    action: str,
    subject: str,
    payload: Document,
    docket_id: str | None = None,
) -> Event:
    salt = os.urandom(16)
    return Event(
        id=str(uuid.uuid4()),
        at=at,
        actor=actor,
        action=action,
        subject=subject,
        docket_id=docket_id,
        payload=payload,
        salt=salt,
        digest=payload_digest(salt, payload),
    )
