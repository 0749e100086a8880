"""Reports about seats: who held what in a period, and whether whoever begins soon has theirs."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from decimal import Decimal
from typing import TypeVar
from zoneinfo import ZoneInfo

from yugum.core.desired import Subject, World, desired
from yugum.core.orders import Order
from yugum.core.people import Person, start_moment
from yugum.core.promises import promise_for
from yugum.core.reclaim import ReclaimReason
from yugum.core.seats import Purchase
from yugum.core.starting import Readiness, Supply, working_days
from yugum.engine.context import load_subjects, load_world, zone_of
from yugum.engine.reclaim import look_at_all
from yugum.engine.seats import shown_pool, today
from yugum.errors import InvalidInput
from yugum.ports.clock import Clock
from yugum.ports.matrix import SeatHeld
from yugum.ports.pages import ListPage
from yugum.ports.reclaim import SeatComingBack
from yugum.ports.seats import PoolLine
from yugum.ports.units import Database, UnitOfWork

MOST_MONTHS = 36
MOST = 500
"""So many who begin are looked at; a time with more is to be asked for in parts."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Starting:
    """Somebody who begins, a seat that is theirs by the rules, and whether it is there.

    ``order`` brings it, where one does.
    """

    person_id: str
    person_name: str
    department: str
    starts: date
    application_name: str
    license: str
    readiness: Readiness
    order: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class StartingReport:
    """Everybody who begins until a day, with their seats."""

    until: date
    rows: Sequence[Starting]


@dataclass(frozen=True, slots=True, kw_only=True)
class CostInMonth:
    """Seats that a department's people held at a month's end, and what they cost that month at the price of today."""

    month: date
    department: str
    application_name: str
    license: str
    seats: int
    amount: Decimal | None
    currency: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ComingBack:
    """A seat that could come back, of which pool, and what it costs a month."""

    seat: SeatComingBack
    pool: PoolLine
    amount: Decimal | None


class SeatReports:
    def __init__(self, database: Database, clock: Clock) -> None:
        self._database = database
        self._clock = clock

    async def held(
        self,
        begin: date | None,
        end: date | None,
        pool_id: str | None,
        cursor: str | None,
        limit: int,
    ) -> ListPage[SeatHeld]:
        """Who held a seat at any moment from one day to another, both inside, in the organisation's zone.

        Without an end it is today, without a beginning that day alone.

        Raises:
            InvalidInput: the period ends before it begins.
            NotFound: there is no such pool.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            end = end or await today(unit, now)
            begin = begin or end
            if end < begin:
                raise InvalidInput(f"It would end on {end}, before it begins.", place="end")
            if pool_id is not None:
                await shown_pool(unit, pool_id)
            zone = ZoneInfo(await zone_of(unit))
            since = datetime.combine(begin, datetime.min.time(), zone)
            until = datetime.combine(end, datetime.max.time(), zone)
            return await unit.matrix.held_within(since, until, pool_id, cursor, limit)

    async def costs(self, begin: str, end: str) -> Sequence[CostInMonth]:
        """What seats cost from one month (2031-03) to another, both inside, by department and license.

        Without an end it is this month, without a beginning the twelve until then. Counted is who held one at
        a month's end, in the organisation's zone, or now; prices and departments are those of today.

        Raises:
            InvalidInput: a month cannot be read, is to come, or they are more than 36.
        """
        now = await self._clock.now()
        async with self._database.unit(alone=True) as unit:
            day = await today(unit, now)
            months = _months(begin, end, day)
            zone = ZoneInfo(await zone_of(unit))
            ends = [datetime.combine(_next(m), datetime.min.time(), zone) for m in months]
            pools = {p.id: p for p in await unit.seats.lines()}
            counts = await unit.matrix.by_month(ends)
        found = []
        for one in counts:
            if (pool := pools.get(one.pool_id)) is None:
                continue
            found.append(
                CostInMonth(
                    month=months[one.month],
                    department=one.department,
                    application_name=pool.application_name,
                    license=pool.license,
                    seats=one.seats,
                    amount=pool.monthly(one.seats).get(pool.currency),
                    currency=pool.currency,
                )
            )
        return found

    async def reclaimable(
        self, reason: ReclaimReason | None, cursor: str | None, limit: int
    ) -> ListPage[ComingBack]:
        """Seats of all pools that could come back, and what each costs a month."""
        now = await self._clock.now()
        async with self._database.unit(alone=True) as unit:
            pools = {p.id: p for p in await unit.seats.lines()}
            looked = await look_at_all(unit, list(pools.values()), now)
            page = await unit.reclaim.everywhere(looked, reason, cursor, limit)
        rows = [
            ComingBack(seat=s, pool=(p := pools[s.pool_id]), amount=p.monthly(1).get(p.currency))
            for s in page.items
        ]
        return ListPage(items=rows, next=page.next, total=page.total, over=page.over)

    async def starting(self, days: int) -> StartingReport:
        """Whether everybody who begins within so many working days has the seats that are theirs.

        Raises:
            InvalidInput: more people begin than are looked at.
        """
        now = await self._clock.now()
        async with self._database.unit(alone=True) as unit:
            day, world = await today(unit, now), await load_world(unit)
            until = working_days(day, days, world.rules.working_hours.days)
            people = [
                p
                for p in await unit.people.expected(day, MOST + 1)
                if p.starts is not None and p.starts <= until
            ]
            if len(people) > MOST:
                raise InvalidInput(
                    f"More than {MOST} people begin until {until}.",
                    place="days",
                    remedy="Ask for fewer days.",
                )
            return StartingReport(until=until, rows=await _rows(unit, people, world, now))


def _month(said: str, place: str) -> date:
    try:
        return date.fromisoformat(f"{said}-01")
    except ValueError as error:
        raise InvalidInput(
            f"'{said[:20]}' is no month.", place=place, remedy="Write 2031-03."
        ) from error


def _next(month: date) -> date:
    return (month + timedelta(days=32)).replace(day=1)


def _months(begin: str, end: str, day: date) -> list[date]:
    last = _month(end, "end") if end else day.replace(day=1)
    months = last.year * 12 + last.month - 12
    first = _month(begin, "begin") if begin else date(months // 12, months % 12 + 1, 1)
    if last > day:
        raise InvalidInput(f"{end} is to come.", place="end", remedy="See: yugum seats forecast.")
    if first > last:
        raise InvalidInput(f"It would end in {last:%Y-%m}, before it begins.", place="begin")
    found = [first]
    while found[-1] < last:
        found.append(_next(found[-1]))
    if len(found) > MOST_MONTHS:
        raise InvalidInput(
            f"{len(found)} months; {MOST_MONTHS} are told at once.",
            place="begin",
            remedy="Ask in parts.",
        )
    return found


async def _rows(
    unit: UnitOfWork, people: Sequence[Person], world: World, now: datetime
) -> list[Starting]:
    known = await unit.accounts.known([p.id for p in people])
    subjects = await load_subjects(unit, {p.id: p for p in people}, known, now, world.rules)
    ids = [p.id for p in people]
    has = {(s.person_id, s.application_id, s.license): s for s in await unit.seats.held_by(ids)}
    purchases = _by_pool(await unit.seats.purchases())
    orders = _by_pool(await unit.orders.coming())
    supplies = {
        key: Supply(pool, purchases.get(pool.id, ()), orders.get(pool.id, ()))
        for key, pool in world.pools.items()
    }
    before: Counter[tuple[str, str]] = Counter()
    found = []
    for person in people:
        for key in _wanted(subjects[person.id], world):
            mine = has.get((person.id, *key))
            order = ""
            if mine is not None and mine.state == "held":
                readiness = Readiness.HELD
            elif promise_for(world, key, person):
                readiness = Readiness.SET_ASIDE
            elif key not in supplies:
                readiness = Readiness.LACKING
            else:
                # Who stands in line is counted among those before already.
                others = before[key] - (mine is not None)
                readiness, order = supplies[key].ready(person.starts or now.date(), others)
                before[key] += mine is None
            found.append(
                Starting(
                    person_id=person.id,
                    person_name=person.display_name,
                    department=person.department,
                    starts=person.starts or now.date(),
                    application_name=world.applications[key[0]].name,
                    license=key[1],
                    readiness=readiness,
                    order=order,
                )
            )
    return found


OfPool = TypeVar("OfPool", Purchase, Order)


def _by_pool(some: Iterable[OfPool]) -> Mapping[str, Sequence[OfPool]]:
    found: dict[str, list[OfPool]] = {}
    for one in some:
        found.setdefault(one.pool_id, []).append(one)
    return found


def _wanted(subject: Subject, world: World) -> list[tuple[str, str]]:
    """The seats that are somebody's by the rules on their first day: application and license."""
    begins = start_moment(subject.person)
    if begins is None:
        return []
    wanted = desired(subject, world.rules, begins)
    return sorted(
        (application_id, license)
        for application_id, want in wanted.items()
        if application_id in world.applications
        for license in want.seats
    )
