"""What a forecast is made of, and forecasts kept to be compared."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Protocol

from yugum.core.forecast import KeptForecast


@dataclass(frozen=True, slots=True, kw_only=True)
class SeatEnding:
    """An account that has a seat or waits for one, and when access to it ends."""

    account_id: str
    access_ends: datetime
    time_zone: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SeatMove:
    """What a docket that is dated will do about a seat of a pool: take it or free it, at a moment."""

    person_id: str
    account_id: str
    takes: bool
    due_at: datetime
    time_zone: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SeatAway:
    """Somebody who is absent or will be, and whether they have a seat of a pool or wait for one."""

    person_id: str
    has: bool
    absent_from: datetime
    absent_until: datetime | None
    access_ends: datetime | None
    time_zone: str


class ForecastStore(Protocol):
    async def ending(self, pool_id: str, now: datetime) -> Sequence[SeatEnding]:
        """Of those who hold a seat of a pool or wait for one, whose access will end, and when."""
        ...

    async def moves(self, application_id: str, license: str) -> Sequence[SeatMove]:
        """What moves and returns that are dated will do about seats of a license."""
        ...

    async def away(self, pool_id: str, now: datetime, limit: int) -> Sequence[SeatAway]:
        """Who is away without a seat and is to come back, or has one and will be away, by their ids."""
        ...

    async def past(self, pool_id: str, days: Sequence[date]) -> Sequence[int]:
        """How many held a seat of a pool at the end of some days (UTC)."""
        ...

    async def missing(self, day: date, limit: int) -> Sequence[str]:
        """Pools with a limit whose forecast of a day is not kept yet."""
        ...

    async def keep(self, pool_id: str, kept: KeptForecast) -> None:
        """Keep a forecast, and the one before it; the first of a day counts."""
        ...

    async def before(self, pool_id: str, day: date) -> KeptForecast | None:
        """The last that was kept of a pool before a day."""
        ...
