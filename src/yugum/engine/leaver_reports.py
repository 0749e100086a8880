"""Reports about leavers of a period: when their access was to end, and when it did."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from zoneinfo import ZoneInfo

from yugum.core.cut_offs import BatchTimes, CutOff, Lateness
from yugum.engine.context import zone_of
from yugum.engine.periods import period
from yugum.errors import NotFound
from yugum.ports.clock import Clock
from yugum.ports.pages import ListPage
from yugum.ports.units import Database, UnitOfWork


@dataclass(frozen=True, slots=True, kw_only=True)
class CutOffTimes:
    """How long cut-offs of a period took, both days inside."""

    begin: date
    end: date
    counts: Sequence[tuple[Lateness, int]]


class LeaverReports:
    def __init__(self, database: Database, clock: Clock) -> None:
        self._database = database
        self._clock = clock

    async def cut_offs(
        self, begin: date | None, end: date | None, cursor: str | None, limit: int
    ) -> ListPage[CutOff]:
        """Every account that was to be shut of whose access ended from one day to another, both inside.

        Without an end it is today, without a beginning ninety days before; in the organisation's zone.

        Raises:
            InvalidInput: the period ends before it begins, or is longer than ten years.
        """
        now = await self._clock.now()
        async with self._database.unit(alone=True) as unit:
            since, until, _, _ = await _period(unit, now, begin, end)
            return await unit.reports.cut_offs(since, until, cursor, limit)

    async def times(self, begin: date | None, end: date | None) -> CutOffTimes:
        """How many of these there are by how long they took."""
        now = await self._clock.now()
        async with self._database.unit(alone=True) as unit:
            since, until, first, last = await _period(unit, now, begin, end)
            counts = await unit.reports.lateness(since, until)
        return CutOffTimes(begin=first, end=last, counts=counts)

    async def batch(self, batch_id: str) -> BatchTimes:
        """How the dockets stand that were confirmed together, and how long cutting off took.

        Raises:
            NotFound: nothing was confirmed under that id.
        """
        async with self._database.unit(alone=True) as unit:
            found = await unit.reports.batch(batch_id)
        if not found.dockets:
            raise NotFound(
                f"Nothing was confirmed as {batch_id}.", remedy="See: yugum dockets list."
            )
        return found


async def _period(
    unit: UnitOfWork, now: datetime, begin: date | None, end: date | None
) -> tuple[datetime, datetime, date, date]:
    zone = ZoneInfo(await zone_of(unit))
    first, last = period(now.astimezone(zone).date(), begin, end)
    since = datetime.combine(first, datetime.min.time(), zone)
    # Whoever has not left yet has nothing that could be late; whoever leaves at this moment has.
    passed = now + timedelta(microseconds=1)
    until = min(datetime.combine(last + timedelta(days=1), datetime.min.time(), zone), passed)
    return since, max(until, since), first, last
