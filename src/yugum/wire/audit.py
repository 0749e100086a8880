"""The audit log."""

from __future__ import annotations

from yugum.wire.common import Document, EventName, Model, Moment


class AuditEvent(Model):
    id: str
    at: Moment
    machine_at: Moment
    actor: str
    action: EventName
    subject: str
    docket_id: str | None
    payload: Document | None
    leaf_index: int | None
