"""Findings: what the readings show that should not be, in words."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

from yugum.core.deviations import Deviation


class FindingKind(StrEnum):
    LEAVER_OPEN = "leaver-open"
    NOBODY_BEHIND = "nobody-behind"
    WITHOUT_OWNER = "without-owner"
    SLEEPER = "sleeper"
    LEAVER_SEAT = "leaver-seat"
    PERSON_TWICE = "person-twice"
    OUTSIDE = "outside"
    CREDENTIAL_ENDS = "credential-ends"
    UNCOVERED = "uncovered"


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """One finding. ``key`` is the deviation's id for kind ``outside``; ``cents`` a month.

    ``about`` is what the sentence is about by kind: a license, a kind of account, another person's
    number, days; ``other_login`` that person's login. A ``deviation`` is what was changed outside.
    """

    kind: FindingKind
    key: str
    account_id: str | None
    person_id: str | None
    display_name: str | None
    login: str
    application_name: str
    since: datetime | None
    cents: int
    about: str
    other_login: str
    deviation: Deviation | None = None

    @property
    def text(self) -> str:
        """The finding in a sentence without its subject."""
        match self.kind:
            case FindingKind.LEAVER_OPEN:
                return "has left and the account is open"
            case FindingKind.NOBODY_BEHIND:
                return "an open account with nobody behind it"
            case FindingKind.WITHOUT_OWNER:
                return f"a {self.about} account that nobody owns"
            case FindingKind.SLEEPER:
                return f"not used for {self.about} days"
            case FindingKind.LEAVER_SEAT:
                return f"a leaver holds a seat of {self.about}"
            case FindingKind.PERSON_TWICE:
                return f"the same name and department as no. {self.about} ({self.other_login})"
            case FindingKind.OUTSIDE:
                return _changed(self.deviation)
            case FindingKind.CREDENTIAL_ENDS:
                return "the credential Yugum signs in with runs out"
            case FindingKind.UNCOVERED:
                return "is reached through a sign-on that Yugum does not cut off"


def _changed(change: Deviation | None) -> str:
    if change is None:
        return "was changed outside"
    what = f"{change.kind.value} {change.item}".strip()
    return f"{what}: {change.was} before, {change.now_is} now"


@dataclass(frozen=True, slots=True)
class FindingCount:
    """How many of a kind there are, and what their seats cost a month in cents."""

    kind: FindingKind
    count: int
    cents: int
