"""Changes made outside, each to be kept or reverted."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol

from yugum.core.deviations import (
    Deviation,
    DeviationKind,
    DeviationState,
    Meaning,
    may_mean,
)
from yugum.ports.pages import ListPage


@dataclass(frozen=True, slots=True, kw_only=True)
class SeenDeviation:
    """A change made outside, as a reading found it."""

    id: str
    application_id: str
    account_id: str
    change: Deviation
    seen_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class DeviationLine:
    """A change made outside in a list, with what was decided about it and by whom.

    ``elsewhere`` are the person's open accounts in other applications.
    """

    id: str
    application_id: str
    application_name: str
    account_id: str
    login: str
    person_id: str | None
    person_name: str | None
    kind: DeviationKind
    item: str
    was: str
    now_is: str
    seen_at: datetime
    state: DeviationState
    decided_by: str
    elsewhere: Sequence[str] = ()

    @property
    def means(self) -> Sequence[Meaning]:
        """What it may mean, while the person is in with open accounts elsewhere."""
        offered = self.elsewhere and self.state is DeviationState.OPEN
        return may_mean(self.kind, self.was, self.now_is) if offered else ()


class DeviationStore(Protocol):
    async def add(
        self,
        found: Sequence[SeenDeviation],
        state: DeviationState = DeviationState.OPEN,
        by: str = "",
    ) -> None:
        """Keep changes made outside; one that is open already is brought up to date.

        What the rules decide at once is kept with that, decided ``by`` them.
        """
        ...

    async def times(
        self, account_ids: Collection[str], since: datetime
    ) -> Mapping[tuple[str, str], int]:
        """How often attributes of some accounts were changed outside since a moment, by name."""
        ...

    async def disputed(self, account_ids: Sequence[str]) -> frozenset[tuple[str, str]]:
        """Attributes (account, name) changed outside about which nobody has decided yet."""
        ...

    async def page(
        self, application_id: str, state: DeviationState | None, cursor: str | None, limit: int
    ) -> ListPage[DeviationLine]:
        """Changes made outside, the oldest first."""
        ...

    async def one(self, deviation_id: str) -> SeenDeviation:
        """One change made outside.

        Raises:
            NotFound: there is none of that id.
        """
        ...

    async def settle(
        self, deviation_id: str, state: DeviationState, by: str, docket_id: str | None
    ) -> None:
        """Keep or revert, once.

        Raises:
            Conflict: somebody has decided already.
        """
        ...
