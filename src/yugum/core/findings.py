"""Findings: what the readings show that should not be, in words."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, datetime
from enum import StrEnum

from yugum.core.deviations import Deviation
from yugum.core.seats import Money


class FindingKind(StrEnum):
    LEAVER_OPEN = "leaver-open"
    NOBODY_BEHIND = "nobody-behind"
    WITHOUT_OWNER = "without-owner"
    OWNER_LEFT = "owner-left"
    OWNED_STILL = "owned-still"
    SLEEPER = "sleeper"
    LEAVER_SEAT = "leaver-seat"
    PERSON_TWICE = "person-twice"
    OUTSIDE = "outside"
    CREDENTIAL_ENDS = "credential-ends"
    UNCOVERED = "uncovered"
    SEATS_OVER = "seats-over"
    SEATS_DIFFER = "seats-differ"
    SEAT_ALONE = "seat-alone"
    GROUP_ALONE = "group-alone"
    STILL_NAMED = "still-named"
    DELIVERED_NAME = "delivered-name"
    MISSING = "missing"
    TOO_MUCH = "too_much"
    DIFFERS = "differs"
    BOTH = "both"
    ASKED = "asked"


STANDING = frozenset(
    {FindingKind.MISSING, FindingKind.TOO_MUCH, FindingKind.DIFFERS, FindingKind.BOTH}
)
"""What differs of somebody: it is accepted as such, and is the same on their page."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """One finding. ``key`` is the deviation's id for kind ``outside``; ``cost`` is what its seats
    cost a month.

    ``about`` is what the sentence is about by kind: a license, a kind of account, another person's
    number, days, a holding; ``other_login`` that person's login, or why it should be otherwise. A ``deviation`` is what was changed outside.
    One that was accepted says until when, by whom and why.
    """

    kind: FindingKind
    key: str
    account_id: str | None
    person_id: str | None
    display_name: str | None
    login: str
    application_name: str
    since: datetime | None
    cost: Money | None
    about: str
    other_login: str
    deviation: Deviation | None = None
    accepted_until: datetime | None = None
    accepted_by: str = ""
    accepted_why: str = ""

    @property
    def text(self) -> str:
        """The finding in a sentence without its subject."""
        if self.kind is FindingKind.OUTSIDE:
            return _changed(self.deviation)
        return TEXTS[self.kind].format(about=self.about, other=self.other_login)


@dataclass(frozen=True, slots=True)
class FindingDay:
    """How many findings of each kind there were on a day; of the kinds in ``over`` as many and more."""

    day: date
    counts: Mapping[FindingKind, int]
    over: frozenset[FindingKind]

    @property
    def found(self) -> int:
        return sum(self.counts.values())


DELIVERED = (
    "admin",
    "administrator",
    "root",
    "sysadmin",
    "sysop",
    "superuser",
    "supervisor",
    "system",
)
"""Logins that administrator accounts are delivered with: nobody can tell who uses them."""

TEXTS: Mapping[FindingKind, str] = {
    FindingKind.LEAVER_OPEN: "has left and the account is open",
    FindingKind.DELIVERED_NAME: "has the name it was delivered with; one of their own takes its place: "
    "yugum rename WHO --account {about}",
    FindingKind.NOBODY_BEHIND: "an open account with nobody behind it",
    FindingKind.WITHOUT_OWNER: "a {about} account that nobody owns",
    FindingKind.OWNER_LEFT: "a {about} account whose owner has left{other}",
    FindingKind.OWNED_STILL: "{other} and owns still: {about}",
    FindingKind.SLEEPER: "not used for {about} days",
    FindingKind.LEAVER_SEAT: "a leaver holds a seat of {about}",
    FindingKind.PERSON_TWICE: "the same name and department as no. {about} ({other})",
    FindingKind.CREDENTIAL_ENDS: "the credential Yugum signs in with runs out",
    FindingKind.UNCOVERED: "is reached through a sign-on that Yugum does not cut off",
    FindingKind.SEATS_OVER: "{other} more of {about} are held than were bought",
    FindingKind.SEATS_DIFFER: "says another number of {about} than was entered ({other})",
    FindingKind.SEAT_ALONE: "has a seat of {about} without the group {other} that goes with it",
    FindingKind.GROUP_ALONE: "has the group {other} without a seat of {about}",
    FindingKind.STILL_NAMED: "has left and is named still: {about}",
    FindingKind.MISSING: "{about} is missing ({other})",
    FindingKind.TOO_MUCH: "{about} is too much ({other})",
    FindingKind.DIFFERS: "{about} is another ({other})",
    FindingKind.BOTH: "{about} is held beside what excludes it ({other})",
    FindingKind.ASKED: "{about} was asked for and is not done ({other})",
}


def _changed(change: Deviation | None) -> str:
    if change is None:
        return "was changed outside"
    what = f"{change.kind.value} {change.item}".strip()
    return f"{what}: {change.was} before, {change.now_is} now"


@dataclass(frozen=True, slots=True)
class FindingCount:
    """How many of a kind there are, and what their seats cost a month.

    Where there are ``over`` as many, ``cost`` is None: nobody has added them up.
    """

    kind: FindingKind
    count: int
    cost: Money | None
    over: bool = False
