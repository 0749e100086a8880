"""What is due, late, stuck or about to be lost; findings; handovers; numbers."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime, timedelta
from zoneinfo import ZoneInfo

from yugum.core.findings import Finding, FindingCount, FindingDay
from yugum.core.licenses import pairs
from yugum.core.people import day_begins
from yugum.engine.context import load_rules
from yugum.engine.periods import period
from yugum.engine.seats import today
from yugum.ports.clock import Clock
from yugum.ports.decisions import PrecautionLine
from yugum.ports.findings import ChosenFindings
from yugum.ports.obligations import DatedLine
from yugum.ports.pages import ListPage
from yugum.ports.standing import StandingLine
from yugum.ports.units import Database, UnitOfWork
from yugum.ports.views import Counts, DayRows, Figures, HandoverLine, Window

WEEK = timedelta(days=7)
YEAR = timedelta(days=366)
FEED_ENTRIES = 10_000
PORTION = 1000


@dataclass(frozen=True, slots=True, kw_only=True)
class DaySheet:
    """Today and the week ahead."""

    now: datetime
    rows: DayRows
    standing: Sequence[StandingLine]
    reviews: Sequence[PrecautionLine]


@dataclass(frozen=True, slots=True, kw_only=True)
class Health:
    """How the service is, in numbers."""

    database_ms: float
    counts: Counts
    working: int


DAY_ROWS = 100
"""Precautions on one day sheet."""


class Overview:
    def __init__(self, database: Database, clock: Clock) -> None:
        self._database = database
        self._clock = clock

    async def day(self, zone: str) -> DaySheet:
        """What is due and when, who is past their time, what is stuck, what is about to be lost."""
        now = await self._clock.now()
        today = now.astimezone(ZoneInfo(zone)).date()
        begin = day_begins(today, zone)
        end = begin + timedelta(days=1)
        async with self._database.unit(alone=True) as unit:
            hours = (await load_rules(unit)).working_hours
            return DaySheet(
                now=now,
                rows=await unit.views.day(begin, now, end, WEEK),
                standing=await unit.standing.day(now, hours.next(end, zone)),
                reviews=(await unit.decisions.precautions(now, None, DAY_ROWS, today)).items,
            )

    async def findings(
        self,
        chosen: ChosenFindings,
        cursor: str | None,
        limit: int,
        *,
        application: str = "",
        who: str = "",
    ) -> ListPage[Finding]:
        """What is chosen; of an application by its id, of somebody by whatever names them."""
        now = await self._clock.now()
        # The two seconds that a search may take are those of a transaction.
        async with self._database.unit(alone=not (application or who)) as unit:
            if application:
                found = await unit.applications.connection_of(application)
                chosen = replace(chosen, application=found.name)
            if who:
                chosen = replace(chosen, person_id=(await unit.people.resolve(who)).id)
            known = pairs((await load_rules(unit)).licenses)
            return await unit.findings.page(now, chosen, cursor=cursor, limit=limit, pairs=known)

    async def finding_counts(self) -> Sequence[FindingCount]:
        now = await self._clock.now()
        async with self._database.unit(alone=True) as unit:
            known = pairs((await load_rules(unit)).licenses)
            return await unit.findings.counts(now, pairs=known)

    async def finding_days(
        self, begin: date | None, end: date | None, cursor: str | None, limit: int
    ) -> ListPage[FindingDay]:
        """How many findings there were on each day that was counted, in a period of the organisation's.

        Raises:
            InvalidInput: the period ends before it begins, or is longer than ten years.
        """
        now = await self._clock.now()
        async with self._database.unit(alone=True) as unit:
            first, last = period(await today(unit, now), begin, end)
            return await unit.findings.days(first, last, cursor, limit)

    async def handovers(
        self, docket: str, who: str, cursor: str | None, limit: int
    ) -> ListPage[HandoverLine]:
        """Every thing that got a new home, the newest first: of a docket, of a person, or all."""
        async with self._database.unit(alone=True) as unit:
            docket_id = (await unit.dockets.by_name(docket)).id if docket else ""
            person_id = (await unit.people.resolve(who)).id if who else ""
            return await unit.views.handovers(docket_id, person_id, cursor, limit)

    async def last_call(
        self, application_id: str, days: int, cursor: str | None, limit: int
    ) -> ListPage[Window]:
        """Deleted accounts that can come back for so many days, the one lost first at the top."""
        now = await self._clock.now()
        until = now + timedelta(days=days)
        async with self._database.unit(alone=True) as unit:
            return await unit.views.windows(now, until, application_id, cursor, limit)

    async def calendar(
        self,
        begin: datetime | None,
        until: datetime | None,
        kinds: Sequence[str],
        cursor: str | None,
        limit: int,
    ) -> ListPage[DatedLine]:
        """Dated dockets and obligations from ``begin`` (now) until ``until`` (a year on)."""
        begin = begin or await self._clock.now()
        async with self._database.unit(alone=True) as unit:
            return await unit.obligations.calendar(
                begin, until or begin + YEAR, kinds=kinds, cursor=cursor, limit=limit
            )

    async def year(self) -> tuple[datetime, Sequence[DatedLine]]:
        """Now, and what has a date within the next year, so much as a calendar program takes."""
        now = await self._clock.now()
        found: list[DatedLine] = []
        cursor = None
        async with self._database.unit() as unit:
            while len(found) < FEED_ENTRIES:
                page = await unit.obligations.calendar(
                    now, now + YEAR, cursor=cursor, limit=PORTION
                )
                found += page.items
                cursor = page.next
                if cursor is None:
                    break
        return now, found

    async def ping(self) -> float:
        """Milliseconds that the database takes for nothing."""
        async with self._database.unit() as unit:
            return await unit.views.ping()

    async def figures(self) -> Figures:
        """The figures beside the pages' names."""
        now = await self._clock.now()
        async with self._database.unit(alone=True) as unit:
            return await _with_findings(unit, await unit.views.figures(), now)

    async def health(self, *, whole: bool = False) -> Health:
        now = await self._clock.now()
        async with self._database.unit(alone=True) as unit:
            counts = await unit.views.counts(now, whole=whole)
            figures = await _with_findings(unit, counts.figures, now)
            return Health(
                database_ms=await unit.views.ping(),
                counts=replace(counts, figures=figures),
                working=await unit.leases.working(),
            )


async def _with_findings(unit: UnitOfWork, figures: Figures, now: datetime) -> Figures:
    known = pairs((await load_rules(unit)).licenses)
    findings = await unit.findings.counts(now, priced=False, pairs=known)
    over = [*figures.over, *(["findings"] if any(f.over for f in findings) else [])]
    return replace(figures, findings=sum(f.count for f in findings), over=over)
