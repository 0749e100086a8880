"""Dated obligations: rows that become short dockets on their day, and the calendar of all dates."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol

from yugum.core.obligations import ObligationKind, ObligationState
from yugum.core.verbs import Verb
from yugum.ports.pages import ListPage


@dataclass(frozen=True, slots=True, kw_only=True)
class Obligation:
    """Something that falls due; of a person ``account_id`` is the subject's own.

    ``docket_id`` carries it out; it has ``ended`` once that docket has.
    """

    id: str
    subject_id: str
    account_id: str
    kind: ObligationKind
    due_at: datetime
    basis: str
    state: ObligationState = ObligationState.OPEN
    docket_id: str | None = None
    ended: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class DatedLine:
    """Something with a date: a docket (then with its number) or an obligation."""

    id: str
    at: datetime
    kind: Verb | ObligationKind
    number: int | None
    person_id: str
    display_name: str
    application_name: str | None
    text: str


class ObligationStore(Protocol):
    async def of(self, subject_ids: Sequence[str]) -> Sequence[Obligation]:
        """The obligations of some subjects that have not ended, and closes and purges that were tried."""
        ...

    async def put(self, obligations: Sequence[Obligation]) -> None:
        """Store obligations as they are now, those that end first."""
        ...

    async def fall_due(self, now: datetime, limit: int) -> int:
        """Call what is due so and mark whose it is; reminders are left alone. How many it were."""
        ...

    async def reminders(self, now: datetime, limit: int) -> Mapping[str, str]:
        """End the reminders that are due; of whom, with what of."""
        ...

    async def next_moment(self, after: datetime) -> datetime | None:
        """The next business moment at which anything falls due."""
        ...

    async def calendar(
        self,
        begin: datetime,
        until: datetime,
        *,
        kinds: Sequence[str] = (),
        cursor: str | None = None,
        limit: int = 50,
    ) -> ListPage[DatedLine]:
        """Dockets that wait for their date, and obligations, in one list by date."""
        ...
