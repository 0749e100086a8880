"""The forecast of a pool: who is to come and to go by dated facts, as the rules in force would have it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

from yugum.core.dates import days_later
from yugum.core.desired import Subject, World, desired, prepared_from
from yugum.core.forecast import (
    DAY,
    WEEK,
    WEEKS,
    Cause,
    Forecast,
    KeptForecast,
    SeatChange,
    forecast,
    set_aside,
)
from yugum.core.licenses import Carries
from yugum.core.orders import Order
from yugum.core.people import Person, start_moment
from yugum.core.planning import frees_when_away
from yugum.core.reservations import Promise, Reservation
from yugum.core.roles import Rules
from yugum.core.seats import Purchase
from yugum.core.windows import mail_days
from yugum.engine.context import load_subjects, load_world
from yugum.engine.promises import known_condition
from yugum.engine.rules import Rules as RuleBook
from yugum.engine.seats import shown_pool, today
from yugum.engine.what_if import AS_IT_IS, WhatIf, joiners_of, turned
from yugum.ports.clock import Clock
from yugum.ports.forecasts import SeatEnding
from yugum.ports.seats import PoolLine
from yugum.ports.units import Database, UnitOfWork

MOST_JOINERS = 5000
MOST_AWAY = 2000
"""So many who are to begin, or are away, are looked at; more are said not to be counted."""
LATE = datetime.max.replace(tzinfo=UTC)
PORTION = 500
KEPT_AT_ONCE = 5


@dataclass(frozen=True, slots=True, kw_only=True)
class Past:
    """How many seats there were and were taken on a day that is over, by the terms that are entered."""

    day: date
    bought: int
    taken: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Coming:
    """An order that is on its way, and whether it is late."""

    order: Order
    overdue: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class PoolForecast:
    """What comes, what was, what is on its way, what was forecast before, and what is assumed."""

    pool: PoolLine
    before: KeptForecast | None
    orders: Sequence[Coming]
    forecast: Forecast
    past: Sequence[Past]
    assumes: Sequence[str]


@dataclass(frozen=True, slots=True)
class Joins:
    """Somebody who is to begin takes a seat on a day, and gives it back if they leave again."""

    person: Person
    day: date
    changes: Sequence[SeatChange]


class Forecasts:
    def __init__(self, database: Database, clock: Clock, rules: RuleBook) -> None:
        self._database = database
        self._clock = clock
        self._rules = rules

    async def keep_all(self) -> int:
        """Keep what is forecast today of some pools of which that is not kept yet; how many."""
        now = await self._clock.now()
        async with self._database.unit(alone=True) as unit:
            day = await today(unit, now)
            missing = await unit.forecasts.missing(day, KEPT_AT_ONCE)
        for pool_id in missing:
            made = (await self.of(pool_id)).forecast
            kept = KeptForecast(made_on=day, short_on=made.short_on, lacking=made.lacking)
            async with self._database.unit() as unit:
                await unit.forecasts.keep(pool_id, kept)
        return len(missing)

    async def of(self, pool_id: str, what_if: WhatIf = AS_IT_IS) -> PoolForecast:
        """The forecast of one pool, week by week and then month by month, as it is or ``what_if``.

        Raises:
            NotFound: there is no such pool.
            InvalidInput: the file or the rules of a what-if cannot be read.
        """
        now = await self._clock.now()
        # Reading rules asks applications: before there is a transaction.
        candidate = await self._rules.candidate(what_if.rules) if what_if.rules else None
        async with self._database.unit(alone=True) as unit:
            shown = await shown_pool(unit, pool_id)
            day, world = await today(unit, now), await load_world(unit)
            pool = shown.pool
            ahead = _Ahead(unit, pool, world, now, day)
            if candidate is not None:
                await ahead.under(candidate)
            await ahead.look(what_if)
            days = [day - WEEK * n for n in range(WEEKS, 0, -1)]
            taken = await unit.forecasts.past(pool_id, days)
            orders = await unit.orders.coming(pool_id)
            bought = [*shown.purchases, *(p for o in orders for p in _arrives(o, day))]
            bought += [
                Purchase(id="", pool_id=pool_id, count=n, begins=d) for n, d in what_if.bought
            ]
            return PoolForecast(
                pool=pool,
                before=await unit.forecasts.before(pool_id, day),
                orders=[Coming(order=o, overdue=o.overdue(day)) for o in orders],
                forecast=forecast(pool, bought, ahead.changes, day),
                past=[
                    Past(
                        day=d,
                        bought=sum(p.count for p in shown.purchases if p.counts_on(d)),
                        taken=n,
                    )
                    for d, n in zip(days, taken, strict=True)
                ],
                assumes=[*_assumes(), *ahead.told],
            )


class _Ahead:
    """What dated facts make of a pool from day to day, and what has to be said about them."""

    def __init__(
        self, unit: UnitOfWork, pool: PoolLine, world: World, now: datetime, day: date
    ) -> None:
        self._unit, self._pool, self._world = unit, pool, world
        self._now, self._day = now, day
        self._tomorrow = day + DAY
        self._known: list[Person] | None = None
        self.changes: list[SeatChange] = []
        self.told: list[str] = []

    async def _expected(self) -> list[Person]:
        if self._known is None:
            self._known = list(await self._unit.people.expected(self._day, MOST_JOINERS))
            if len(self._known) == MOST_JOINERS:
                self.told.append(f"Only the next {MOST_JOINERS} who begin are counted.")
        return self._known

    async def under(self, candidate: Rules) -> None:
        """As if other rules were in force from tomorrow: who is there gains or loses a seat then."""
        apart = {p.id for p in await self._expected()}
        both = self._world.rules, candidate
        found = await turned(self._unit, self._pool, both, apart, self._now)
        self._step(found.get(True, 0), self._tomorrow, Cause.RULES)
        self._step(-found.get(False, 0), self._tomorrow, Cause.RULES)
        self._world = replace(self._world, rules=replace(candidate, since=self._now))

    def _step(self, count: int, day: date, cause: Cause) -> None:
        if count:
            self.changes.append(SeatChange(day=max(day, self._tomorrow), count=count, cause=cause))

    async def look(self, what_if: WhatIf) -> None:
        unit, pool = self._unit, self._pool
        moves = await unit.forecasts.moves(pool.application_id, pool.license)
        for move in moves:
            there = move.due_at.astimezone(ZoneInfo(move.time_zone)).date()
            self._step(1 if move.takes else -1, there, Cause.MOVE)
        days_on = _days_on(pool, self._world)
        ending = await unit.forecasts.ending(pool.id, self._now - timedelta(days=days_on + 1))
        leaves = {e.account_id: _leaves(e, days_on) for e in ending}
        # Whose seat a move frees before they leave has none to give back any more.
        moved = {m.account_id: m.due_at for m in moves if not m.takes}
        first = [e.account_id for e in ending if moved.get(e.account_id, LATE) < e.access_ends]
        self.changes += [c for account_id, c in leaves.items() if account_id not in first]
        joining = await self._expected()
        if what_if.joiners:
            new, known = await joiners_of(unit, what_if.joiners, self._world.rules, self._now)
            joining = [*joining, *new]
            if known:
                self.told.append(f"{known} of the file are known already, and counted as they are.")
        joins: list[Joins] = []
        for begin in range(0, len(joining), PORTION):
            portion = joining[begin : begin + PORTION]
            joins += await _joins(unit, pool, portion, self._world, self._now)
        self.changes += [c for j in joins for c in j.changes]
        if frees_when_away(self._world, pool.application_id):
            await self._absences()
        ahead = await unit.reservations.ahead(pool.id, self._day)
        used = _used(ahead, joins, self._world.rules)
        leaving = {account_id: c.day for account_id, c in leaves.items()}
        self.changes += set_aside(ahead, used, leaving, self._day)
        for n, d in what_if.joining:
            self._step(n, d, Cause.JOINER)

    async def _absences(self) -> None:
        """Whoever goes away with a seat gives it back, whoever comes back takes one that the rules give."""
        unit, pool = self._unit, self._pool
        away = await unit.forecasts.away(pool.id, self._now, MOST_AWAY)
        if len(away) == MOST_AWAY:
            self.told.append(f"Only {MOST_AWAY} who are away are counted.")
        back = [a.person_id for a in away if not a.has]
        wanting = await _wanting(unit, pool, back, self._world, self._now)
        for one in away:
            zone, until = ZoneInfo(one.time_zone), one.absent_until
            if one.has:
                self._step(-1, one.absent_from.astimezone(zone).date(), Cause.ABSENCE)
            gone = one.access_ends is not None and until is not None and one.access_ends <= until
            if until is not None and not gone and (one.has or one.person_id in wanting):
                self._step(1, until.astimezone(zone).date(), Cause.ABSENCE)


async def _wanting(
    unit: UnitOfWork, pool: PoolLine, ids: Sequence[str], world: World, now: datetime
) -> set[str]:
    """Who of some people is to have a seat by the rules."""
    people = {i: p for i, (p, _) in (await unit.people.many(ids)).items()}
    known = await unit.accounts.known(sorted(people))
    subjects = await load_subjects(unit, people, known, now, world.rules)
    return {i for i, subject in subjects.items() if _wants(subject, pool, world, now)}


def _wants(subject: Subject, pool: PoolLine, world: World, at: datetime) -> bool:
    """Whether somebody is to have a seat by the rules at a moment."""
    wanted = desired(subject, world.rules, at).get(pool.application_id)
    return wanted is not None and pool.license in wanted.seats


def _assumes() -> Iterator[str]:
    """What is taken for granted, in sentences."""
    yield "Everybody who is to begin gets what the rules in force give."
    yield "A leaver's seat comes free when access ends, or once it carries no mail any more."
    yield "Moves and absences that are dated happen as planned."
    yield "What is set aside is taken."
    yield "What is ordered counts from the day on which it is expected, if that is not over."
    yield "Terms that end are not renewed. Holds are not counted."


def _arrives(order: Order, today: date) -> Iterator[Purchase]:
    """What an order brings: from the day on which it is expected, for the term that was asked for."""
    if order.expected is None or order.overdue(today):
        return
    begins = max(order.expected, order.begins or order.expected)
    if order.ends is None or begins <= order.ends:
        yield Purchase(
            id=order.id,
            pool_id=order.pool_id,
            count=order.left,
            begins=begins,
            ends=order.ends,
            reference=order.name,
        )


def _days_on(pool: PoolLine, world: World) -> int:
    """How many days a leaver's seat carries mail."""
    license = world.rules.license(pool.application_id, pool.license)
    carries = Carries.MAIL in license.carries
    return mail_days(world.applications[pool.application_id]) if carries else 0


def _leaves(one: SeatEnding, days_on: int) -> SeatChange:
    return _gone(days_later(one.access_ends, days_on, one.time_zone), one.time_zone)


def _gone(access_ends: datetime, zone: str) -> SeatChange:
    """The day on which a seat is free again: who works until the evening needs it on that day."""
    last = access_ends - timedelta(microseconds=1)
    day = last.astimezone(ZoneInfo(zone)).date() + timedelta(days=1)
    return SeatChange(day=day, count=-1, cause=Cause.LEAVER)


async def _joins(
    unit: UnitOfWork, pool: PoolLine, people: Sequence[Person], world: World, now: datetime
) -> list[Joins]:
    """The days on which those who are to begin take a seat, and give it back if they leave again."""
    known = await unit.accounts.known([p.id for p in people])
    subjects: Mapping[str, Subject] = await load_subjects(
        unit, {p.id: p for p in people}, known, now, world.rules
    )
    there = await unit.seats.claimed(pool.id, [p.id for p in people])
    application = world.applications[pool.application_id]
    found = []
    for person in people:
        begins = start_moment(person)
        if begins is None or person.id in there:
            continue
        if not _wants(subjects[person.id], pool, world, begins):
            continue
        prepared = prepared_from(person, application) or begins
        day = max(prepared, now).astimezone(ZoneInfo(person.time_zone)).date()
        day = max(day, _after(now, person))
        changes = [SeatChange(day=day, count=1, cause=Cause.JOINER)]
        if person.access_ends is not None:
            ends = days_later(person.access_ends, _days_on(pool, world), person.time_zone)
            changes.append(_gone(ends, person.time_zone))
        found.append(Joins(person, day, changes))
    return found


def _used(
    ahead: Sequence[Reservation], joins: Sequence[Joins], rules: Rules
) -> Mapping[str, Sequence[date]]:
    """On which days those who are to begin take what is set aside for them, by reservation."""
    promises = [Promise(r, known_condition(r.who, rules)) for r in ahead]
    promises.sort(key=lambda p: p.reservation.person_id is None)
    used: dict[str, list[date]] = {}
    for one in sorted(joins, key=lambda j: j.day):
        for promise in promises:
            r = promise.reservation
            days = used.setdefault(r.id, [])
            counts = (r.begins is None or r.begins <= one.day) and one.day <= r.ends
            if counts and len(days) < r.left - r.in_line and promise.is_for(one.person):
                days.append(one.day)
                break
    return used


def _after(now: datetime, person: Person) -> date:
    """The day after today: what is about to be taken today is not taken yet."""
    return now.astimezone(ZoneInfo(person.time_zone)).date() + timedelta(days=1)
