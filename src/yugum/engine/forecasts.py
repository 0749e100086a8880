"""The forecast of a pool: who is to come and to go by dated facts, as the rules in force would have it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from zoneinfo import ZoneInfo

from yugum.core.desired import Subject, World, desired, prepared_from
from yugum.core.forecast import WEEK, WEEKS, Cause, Forecast, SeatChange, forecast
from yugum.core.people import Person, start_moment
from yugum.engine.context import load_subjects, load_world
from yugum.engine.seats import shown_pool, today
from yugum.ports.clock import Clock
from yugum.ports.seats import PoolLine, SeatEnding
from yugum.ports.units import Database, UnitOfWork

MOST_JOINERS = 5000
"""So many who are to begin are looked at; more are said not to be counted."""
PORTION = 500


@dataclass(frozen=True, slots=True, kw_only=True)
class Past:
    """How many seats there were and were taken on a day that is over, by the terms that are entered."""

    day: date
    bought: int
    taken: int


@dataclass(frozen=True, slots=True, kw_only=True)
class PoolForecast:
    """What comes, what was, and what is assumed."""

    pool: PoolLine
    forecast: Forecast
    past: Sequence[Past]
    assumes: Sequence[str]


class Forecasts:
    def __init__(self, database: Database, clock: Clock) -> None:
        self._database = database
        self._clock = clock

    async def of(self, pool_id: str) -> PoolForecast:
        """The forecast of one pool, week by week and then month by month.

        Raises:
            NotFound: there is no such pool.
        """
        now = await self._clock.now()
        async with self._database.unit(alone=True) as unit:
            shown = await shown_pool(unit, pool_id)
            day = await today(unit, now)
            world = await load_world(unit)
            pool = shown.pool
            ending = await unit.seats.ending(pool_id, now)
            changes = [_leaves(e) for e in ending]
            joining = await unit.people.expected(day, MOST_JOINERS)
            for begin in range(0, len(joining), PORTION):
                portion = joining[begin : begin + PORTION]
                changes += await _joins(unit, pool, portion, world, now)
            days = [day - WEEK * n for n in range(WEEKS, 0, -1)]
            taken = await unit.seats.past(pool_id, days)
            return PoolForecast(
                pool=pool,
                forecast=forecast(pool, shown.purchases, changes, day),
                past=[
                    Past(
                        day=d,
                        bought=sum(p.count for p in shown.purchases if p.counts_on(d)),
                        taken=n,
                    )
                    for d, n in zip(days, taken, strict=True)
                ],
                assumes=list(_assumes(len(joining))),
            )


def _assumes(joining: int) -> Iterator[str]:
    """What is taken for granted, in sentences."""
    yield "Everybody who is to begin gets what the rules in force give."
    yield "A leaver's seat comes free when access ends."
    yield "Terms that end are not renewed. Holds, moves and absences are not counted."
    if joining == MOST_JOINERS:
        yield f"Only the next {MOST_JOINERS} who begin are counted."


def _leaves(one: SeatEnding) -> SeatChange:
    """The day on which a seat is free again: who works until the evening needs it on that day."""
    last = one.access_ends - timedelta(microseconds=1)
    day = last.astimezone(ZoneInfo(one.time_zone)).date() + timedelta(days=1)
    return SeatChange(day=day, count=-1, cause=Cause.LEAVER)


async def _joins(
    unit: UnitOfWork, pool: PoolLine, people: Sequence[Person], world: World, now: datetime
) -> list[SeatChange]:
    """The days on which those who are to begin take a seat, and give it back if they leave again."""
    known = await unit.accounts.known([p.id for p in people])
    subjects: Mapping[str, Subject] = await load_subjects(
        unit, {p.id: p for p in people}, known, now
    )
    there = await unit.seats.claimed(pool.id, [p.id for p in people])
    application = world.applications[pool.application_id]
    found = []
    for person in people:
        begins = start_moment(person)
        if begins is None or person.id in there:
            continue
        wanted = desired(subjects[person.id], world.rules, begins).get(pool.application_id)
        if wanted is None or pool.license not in wanted.seats:
            continue
        prepared = prepared_from(person, application) or begins
        day = max(prepared, now).astimezone(ZoneInfo(person.time_zone)).date()
        found.append(SeatChange(day=max(day, _after(now, person)), count=1, cause=Cause.JOINER))
        if person.access_ends is not None:
            ending = SeatEnding(
                person_id=person.id, access_ends=person.access_ends, time_zone=person.time_zone
            )
            found.append(_leaves(ending))
    return found


def _after(now: datetime, person: Person) -> date:
    """The day after today: what is about to be taken today is not taken yet."""
    return now.astimezone(ZoneInfo(person.time_zone)).date() + timedelta(days=1)
