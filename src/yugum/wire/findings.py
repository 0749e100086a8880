"""Findings, and changes made outside."""

from __future__ import annotations

from datetime import date
from typing import Annotated

from pydantic import AfterValidator, Field

from yugum.core.deviations import DeviationKind, DeviationState, Meaning
from yugum.core.findings import FindingKind
from yugum.wire.common import Model, Moment, Money, Request, Seen, Words
from yugum.wire.texts import one_line

MOST = 500
Key = Annotated[str, Field(min_length=1, max_length=1000), AfterValidator(one_line)]


class FindingCount(Model):
    """``cost`` is what the seats of these accounts cost a month, by currency.

    Counted to 10,000; where there are ``over`` as many, their cost is not added up.
    """

    kind: Seen[FindingKind]
    count: int
    cost: Money | None
    over: bool = False


class KindCount(Model):
    kind: Seen[FindingKind]
    count: int


class FindingDay(Model):
    """How many there were of each kind on a day, as last counted on it; of kinds in ``over`` more."""

    day: date
    found: int
    counts: list[KindCount]
    over: list[Seen[FindingKind]]


class Finding(Model):
    """``key`` is the id of the change for kind ``outside``."""

    kind: Seen[FindingKind]
    key: str
    cost: Money | None
    account_id: str | None
    person_id: str | None
    display_name: str | None
    login: str
    application_name: str
    since: Moment | None
    text: str
    accepted_until: Moment | None
    accepted_by: str
    accepted_why: str


class WhichFinding(Request):
    """A finding, by its kind and ``key``."""

    kind: FindingKind
    key: Key


class AcceptFindings(Request):
    """Findings that may be so until a moment at most 90 days ahead; of open accounts of leavers one at a time."""

    items: Annotated[list[WhichFinding], Field(min_length=1, max_length=MOST)]
    until: Words
    reason: Words


class ReopenFindings(Request):
    items: Annotated[list[WhichFinding], Field(min_length=1, max_length=MOST)]


class RefusedFinding(Model):
    """One that was not accepted, and why."""

    kind: Seen[FindingKind]
    key: str
    problem: str


class AcceptedFindings(Model):
    """How many were, and which were not."""

    accepted: int
    refused: list[RefusedFinding]


class Deviation(Model):
    """A change made outside Yugum.

    ``means`` is what it may mean for the person's open accounts in other applications, whose ids are
    ``elsewhere``: a leaver, an absence, a precaution.
    """

    id: str
    application_id: str
    application_name: str
    account_id: str
    login: str
    person_id: str | None
    person_name: str | None
    kind: Seen[DeviationKind]
    item: str
    was: str
    now_is: str
    seen_at: Moment
    state: Seen[DeviationState]
    decided_by: str
    means: list[Seen[Meaning]]
    elsewhere: list[str]


class Decided(Model):
    id: str
    state: Seen[DeviationState]
    docket: str | None
