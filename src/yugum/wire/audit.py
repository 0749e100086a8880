"""The audit log."""

from __future__ import annotations

from yugum.wire.common import Document, EventName, Model, Moment


class AuditEvent(Model):
    """``subject_name`` is of whoever it is about, where that is somebody who is known still."""

    id: str
    at: Moment
    machine_at: Moment
    actor: str
    action: EventName
    subject: str
    docket_id: str | None
    payload: Document | None
    leaf_index: int | None
    subject_name: str | None = None
