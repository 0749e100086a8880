"""Putting mails where they are sent from: in the transaction of what they tell of."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import replace
from datetime import datetime

from yugum.core.mails import Mail
from yugum.ports.mails import StoredMail
from yugum.ports.services import Vault
from yugum.ports.units import UnitOfWork


async def post(unit: UnitOfWork, mails: Sequence[Mail], vault: Vault, now: datetime) -> None:
    """Store mails to be sent; the secret part is encrypted."""
    sealed = [vault.seal(m.secret) if m.secret else None for m in mails]
    await unit.mails.post(
        [replace(plain(m, now), sealed=part) for m, part in zip(mails, sealed, strict=True)]
    )


def plain(mail: Mail, now: datetime) -> StoredMail:
    """A mail as it is stored, without its secret part."""
    return StoredMail(
        id=str(uuid.uuid4()),
        address=mail.address,
        subject=mail.subject,
        text=mail.text,
        kind=mail.kind,
        subject_id=mail.subject_id,
        docket_id=mail.docket_id,
        event=mail.event,
        made_at=now,
    )
