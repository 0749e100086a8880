"""The standing difference: what people should have against what they have."""

from __future__ import annotations

from yugum.core.lines import LineKind, LineStatus, Side
from yugum.wire.common import Line, Model, Moment, Request, Seen, When, Words


class StandingRow(Model):
    """One thing that is not as it should be.

    ``code`` is what a line waits for, or why it cannot be planned; ``waits`` says it in words.
    ``docket`` is the number of the docket that has to do with it.
    """

    subject_id: str
    display_name: str
    user_name: str
    application_id: str
    application_name: str
    contact: str
    account_id: str
    login: str
    kind: Seen[LineKind]
    item: str
    side: Seen[Side]
    want: str
    held: str
    reason: str
    status: Seen[LineStatus]
    code: str
    waits: str
    docket: str | None
    since: Moment
    waits_since: Moment | None
    acceptance_id: str | None
    accepted_by: str
    accepted_why: str
    accepted_until: Moment | None


class Behind(Model):
    """How many people a change for many has still to reach, ``of`` how many.

    ``looked_at`` is when everybody was last looked at, ``faults`` how many were not in step then.
    """

    ahead: int
    of: int
    looked_at: Moment | None
    faults: int


class Accept(Request):
    """That a line may stay as it is, until ``ends`` (a date as typed) or for good."""

    who: Words
    application_id: Words
    kind: LineKind
    item: Line = ""
    side: Side
    reason: Words
    ends: When = ""


class Accepted(Model):
    id: str
    subject_id: str
    application_id: str
    kind: Seen[LineKind]
    item: str
    side: Seen[Side]
    author: str
    reason: str
    made: Moment
    ends: Moment | None
