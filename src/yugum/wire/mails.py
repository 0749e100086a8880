"""Mail."""

from __future__ import annotations

from yugum.core.mails import MailKind
from yugum.wire.common import Model, Moment, Seen


class MailRow(Model):
    """A mail: when it was sent, or what keeps it. Links that open something are not kept."""

    id: str
    address: str
    subject: str
    text: str
    kind: Seen[MailKind]
    subject_id: str | None
    docket_id: str | None
    made_at: Moment
    sent_at: Moment | None
    tries: int
    problem: str
