"""Findings, computed when asked for."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Protocol

from yugum.core.findings import Finding, FindingCount, FindingDay, FindingKind
from yugum.ports.pages import ListPage

Pair = tuple[str, str, str]
"""An application, a license, and a group that goes with a seat of it."""


@dataclass(frozen=True, slots=True, kw_only=True)
class NewAcceptance:
    """A finding that is not told until a moment."""

    kind: FindingKind
    key: str
    until_at: datetime
    author: str
    reason: str
    made_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class ChosenFindings:
    """Which findings: of one kind, those ``accepted`` or those that nobody has accepted.

    ``application`` is a name and ``person_id`` whose they are; with either the search ends after two seconds.
    """

    kind: FindingKind | None = None
    accepted: bool = False
    application: str = ""
    person_id: str = ""

    @property
    def narrow(self) -> bool:
        return bool(self.application or self.person_id)


EVERY = ChosenFindings()


class FindingStore(Protocol):
    async def page(
        self,
        now: datetime,
        chosen: ChosenFindings = EVERY,
        *,
        cursor: str | None,
        limit: int,
        pairs: Sequence[Pair] = (),
    ) -> ListPage[Finding]:
        """Findings by kind, each in its order.

        Raises:
            TooSlow: what is chosen takes longer than two seconds to find.
        """
        ...

    async def counts(
        self, now: datetime, *, priced: bool = True, pairs: Sequence[Pair] = ()
    ) -> Sequence[FindingCount]:
        """How many there are of each kind that there are any of; what they cost, unless not asked for."""
        ...

    async def is_kept(self, day: date) -> bool:
        """Whether it is kept how many there were on a day."""
        ...

    async def keep_counts(self, day: date, counts: Sequence[FindingCount]) -> None:
        """Keep how many there are on a day; the last word about one counts."""
        ...

    async def days(
        self, begin: date, end: date, cursor: str | None, limit: int
    ) -> ListPage[FindingDay]:
        """The days of which it is kept, both inside, the first day first."""
        ...

    async def there(
        self, now: datetime, kind: FindingKind, keys: Sequence[str], pairs: Sequence[Pair]
    ) -> Sequence[str]:
        """Which of some are found now."""
        ...

    async def accept(self, made: Sequence[NewAcceptance]) -> None:
        """Keep that findings are accepted; the last word about one counts."""
        ...

    async def end_acceptance(
        self, items: Sequence[tuple[FindingKind, str]]
    ) -> Sequence[tuple[FindingKind, str]]:
        """Findings are accepted no longer; those that were."""
        ...

    async def compare_names(self) -> None:
        """Note who is alike, in case it was missed."""
        ...

    async def put_aside(self, now: datetime) -> int:
        """Some of those who left and have nothing open are not looked at any more; how many."""
        ...
