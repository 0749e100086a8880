"""Seats set aside for people, and passed on from one to another."""

from __future__ import annotations

import uuid
from dataclasses import dataclass, replace
from datetime import date, datetime, timedelta

from yugum.core.documents import Document
from yugum.core.reservations import Reservation
from yugum.core.roles import Rules
from yugum.core.seats import SeatState
from yugum.engine.context import load_rules
from yugum.engine.events import make_event
from yugum.engine.own import must_be_for_others
from yugum.engine.promises import condition_of
from yugum.engine.seats import in_step, must_end_after, shown_pool, today
from yugum.errors import Conflict, InvalidInput
from yugum.ports.clock import Clock
from yugum.ports.pages import ListPage
from yugum.ports.reservations import ReservationLine
from yugum.ports.seats import PoolLine
from yugum.ports.units import Database, UnitOfWork

USUAL_DAYS = timedelta(days=90)
"""How long seats are set aside where nobody says until when."""


@dataclass(frozen=True, slots=True, kw_only=True)
class NewReservation:
    """Seats to be set aside: for a ``person``, or ``count`` for those who fulfil a filter (``who``).

    With ``holder`` the seat of that person is passed on. ``ahead``: before those who wait, too.
    """

    reason: str
    person: str = ""
    who: str = ""
    count: int = 1
    holder: str = ""
    begins: date | None = None
    ends: date | None = None
    ahead: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class ReservationPage:
    """Reservations, and the day on which they are looked at."""

    page: ListPage[ReservationLine]
    today: date


@dataclass(frozen=True, slots=True, kw_only=True)
class ReservationShown:
    """A reservation, and the day on which it is looked at."""

    line: ReservationLine
    today: date


class Reservations:
    def __init__(self, database: Database, clock: Clock) -> None:
        self._database = database
        self._clock = clock

    async def page(self, pool_id: str, cursor: str | None, limit: int) -> ReservationPage:
        """What is, was and will be set aside of a pool.

        Raises:
            NotFound: there is no such pool.
        """
        now = await self._clock.now()
        async with self._database.unit(alone=True) as unit:
            await shown_pool(unit, pool_id)
            return ReservationPage(
                page=await unit.reservations.page(pool_id, cursor, limit),
                today=await today(unit, now),
            )

    async def make(self, pool_id: str, new: NewReservation, author: str) -> ReservationShown:
        """Set seats aside; nobody else is given them.

        Raises:
            NotFound: there is no such pool or person.
            InvalidInput: it is for nobody, for two, for days that are over, or says no reason.
            Conflict: so many are not free, whoever is named has one, or the holder has none.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            pool = (await shown_pool(unit, pool_id)).pool
            await unit.seats.hold(pool.application_id, pool.license)
            pool = (await shown_pool(unit, pool_id)).pool
            day = await today(unit, now)
            _must_make_sense(new, pool, day)
            made = Reservation(
                id=str(uuid.uuid4()),
                pool_id=pool_id,
                count=new.count,
                who=new.who,
                begins=new.begins,
                ends=new.ends or max(new.begins or day, day) + USUAL_DAYS,
                reason=new.reason,
                author=author,
                made_at=now,
            )
            if new.who:
                _must_be_readable(new.who, await load_rules(unit))
            else:
                made = await _for_one(unit, made, pool, new, now)
            if new.holder:
                made = await _from_one(unit, made, pool, new.holder)
            elif new.begins is None or new.begins <= day:
                _must_be_free(pool, new)
            await _must_be_new(unit, made, pool, new, day)
            await unit.reservations.put(made)
            await in_step(unit, pool, now, below=True)
            name = f"{pool.application_id}/{pool.license}"
            told: Document = {
                "seats": made.count,
                "person": made.person_id or "",
                "who": made.who,
                "from": made.from_account_id or "",
                "ends": str(made.ends),
                "reason": made.reason,
            }
            await unit.audit.add([make_event(now, author, "seats.reserved", name, told)])
            return ReservationShown(line=await unit.reservations.one(made.id), today=day)

    async def withdraw(self, pool_id: str, reservation_id: str, author: str) -> None:
        """Seats are set aside no longer; whoever waits is served.

        Raises:
            NotFound: there is no such reservation.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            pool = (await shown_pool(unit, pool_id)).pool
            await unit.seats.hold(pool.application_id, pool.license)
            gone = await unit.reservations.withdraw(pool_id, reservation_id)
            await in_step(unit, pool, now, below=True)
            name = f"{pool.application_id}/{pool.license}"
            told: Document = {"seats": gone.left, "person": gone.person_id or "", "who": gone.who}
            await unit.audit.add([make_event(now, author, "seats.unreserved", name, told)])


def _must_make_sense(new: NewReservation, pool: PoolLine, day: date) -> None:
    if not new.reason.strip():
        raise InvalidInput("Seats are set aside for a reason.", place="reason")
    if bool(new.person) == bool(new.who):
        raise InvalidInput(
            "Seats are set aside for one person, or for those who fulfil a filter.",
            place="person",
            remedy="Name one of them.",
        )
    if new.count != 1 and not new.who:
        raise InvalidInput("One person takes one seat.", place="count")
    if new.holder and new.who:
        raise InvalidInput("A seat is passed on to somebody by name.", place="person")
    if pool.unlimited:
        raise Conflict(
            f"There are as many seats of {pool.license} as one likes.",
            remedy="Nothing needs to be set aside.",
        )
    must_end_after(new.begins, new.ends)
    if new.ends is not None and new.ends < day:
        raise InvalidInput(
            f"Nothing would be set aside: {new.ends} is over.",
            place="ends",
            remedy="Name today or a later day.",
        )


def _must_be_readable(who: str, rules: Rules) -> None:
    try:
        condition_of(who, rules)
    except InvalidInput as error:
        raise InvalidInput(error.message, place="who", remedy=error.remedy) from error


def _must_be_free(pool: PoolLine, new: NewReservation) -> None:
    spare = pool.free - (0 if new.ahead else pool.waiting)
    if spare < new.count and not new.ahead:
        raise Conflict(
            f"{pool.license} has {max(0, pool.free)} free, {pool.reserved} set aside,"
            f" {pool.waiting} wait.",
            place="count",
            remedy="Reserve fewer, buy some, or let them come before those who wait (--ahead).",
        )


async def _for_one(
    unit: UnitOfWork, made: Reservation, pool: PoolLine, new: NewReservation, now: datetime
) -> Reservation:
    person = await unit.people.resolve(new.person)
    await must_be_for_others(unit, made.author, [person.id], "setting a seat aside", now)
    if person.access_ends is not None and person.access_ends <= now:
        raise Conflict(f"{new.person}'s access has ended.", place="person")
    if await _seats(unit, person.id, pool):
        raise Conflict(f"{new.person} has a seat of {pool.license}.", place="person")
    return replace(made, person_id=person.id)


async def _from_one(
    unit: UnitOfWork, made: Reservation, pool: PoolLine, holder: str
) -> Reservation:
    held = await _seats(unit, (await unit.people.resolve(holder)).id, pool)
    if len(held) != 1:
        text = f"{holder} has {len(held) or 'no'} seat{'s' if held else ''} of {pool.license}."
        raise Conflict(text, place="holder")
    return replace(made, from_account_id=held[0])


async def _must_be_new(
    unit: UnitOfWork, made: Reservation, pool: PoolLine, new: NewReservation, day: date
) -> None:
    """Nobody has two set aside, and no seat is passed on twice."""
    remedy = f"See: yugum seats reservations '{pool.application_id}/{pool.license}'."
    for one in await unit.reservations.ahead(pool.id, day):
        if made.person_id and one.person_id == made.person_id:
            text = f"One is set aside for {new.person} already."
            raise Conflict(text, place="person", remedy=remedy)
        if one.from_account_id == made.from_account_id and not one.given:
            text = f"{new.holder}'s seat is passed on already."
            raise Conflict(text, place="holder", remedy=remedy)


async def _seats(unit: UnitOfWork, person_id: str, pool: PoolLine) -> list[str]:
    """The accounts of somebody that hold a seat of a pool."""
    return [
        s.account_id
        for s in await unit.seats.held_by([person_id])
        if (s.application_id, s.license) == (pool.application_id, pool.license)
        and s.state is SeatState.HELD
    ]
