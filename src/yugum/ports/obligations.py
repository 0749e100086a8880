"""Dated obligations: rows that become short dockets on their day, and the calendar of all dates."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol

from yugum.core.obligations import ObligationKind, ObligationState
from yugum.core.verbs import Verb
from yugum.ports.pages import ListPage


@dataclass(frozen=True, slots=True, kw_only=True)
class Obligation:
    """Something that falls due; without ``account_id`` it is about the person."""

    subject_id: str
    account_id: str | None
    kind: ObligationKind
    due_at: datetime
    basis: str
    id: str = ""


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
    async def replace(self, subject_ids: Sequence[str], obligations: Sequence[Obligation]) -> None:
        """Make ``obligations`` the open ones of the subjects; others are cancelled."""
        ...

    async def due(self, now: datetime, limit: int) -> Sequence[Obligation]:
        """Open obligations that are due, locked for whoever takes them up."""
        ...

    async def settle(self, ids: Sequence[str], state: ObligationState) -> None:
        """Say what became of obligations."""
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
