"""Who has a seat of what, for people side by side."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol

from yugum.core.decisions import OriginKind
from yugum.core.seats import SeatState
from yugum.ports.pages import ListPage


@dataclass(frozen=True, slots=True, kw_only=True)
class SeatCell:
    """A seat somebody has or waits for, and why: the role, or the reason of the exception (``because``)."""

    person_id: str
    pool_id: str
    state: SeatState
    place: int | None
    since_at: datetime
    origin: OriginKind
    because: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SeatHeld:
    """A seat somebody held, from when until when; None while they have it."""

    id: str
    person_id: str | None
    person_name: str | None
    login: str | None
    application_name: str
    license: str
    since_at: datetime
    until_at: datetime | None


@dataclass(frozen=True, slots=True, kw_only=True)
class SeatsInMonth:
    """How many seats of a pool a department's people held at the end of a month, by its number among those asked for."""

    month: int
    department: str
    pool_id: str
    seats: int


@dataclass(frozen=True, slots=True, kw_only=True)
class MatrixColumn:
    """A license, without its counts: these are counted where pools are listed."""

    id: str
    application_id: str
    application_name: str
    license: str


class MatrixStore(Protocol):
    async def by_month(self, ends: Sequence[datetime]) -> Sequence[SeatsInMonth]:
        """The seats held just before each of some moments, by the departments that people have now."""
        ...

    async def columns(self, application_id: str | None) -> Sequence[MatrixColumn]:
        """The licenses of an application or of all, by name."""
        ...

    async def cells(
        self, person_ids: Sequence[str], application_id: str | None
    ) -> Sequence[SeatCell]:
        """The seats some people have or wait for, of one application or of all."""
        ...

    async def held_within(
        self,
        since: datetime,
        until: datetime,
        pool_id: str | None,
        cursor: str | None,
        limit: int,
    ) -> ListPage[SeatHeld]:
        """Who held a seat at any moment between two, of one pool or of all, by when they had it."""
        ...
