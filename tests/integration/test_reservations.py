"""Seats set aside, passed on and waited for: as a book kept on paper says, whatever happens in which order."""

from __future__ import annotations

import random
from dataclasses import replace
from datetime import UTC, date, datetime, timedelta

import pytest
import sqlalchemy as sa

from tests.builders import person
from tests.integration.seating import Aside, Book, claim, claims
from yugum.core.applications import Application
from yugum.core.reservations import Reservation
from yugum.core.seats import Pool, Purchase
from yugum.errors import NotFound
from yugum.ports.applications import Access
from yugum.storage import tables as t
from yugum.storage.database import PostgresDatabase

DAY = timedelta(days=1)
BEGIN = datetime(2031, 3, 3, 8, 40, tzinfo=UTC)
PEOPLE = [f"p{n}" for n in range(10)]
TITLES = ["Rigger", "Cook", ""]


def aside(begin: datetime, person: str, source: str | None = None) -> Reservation:
    """One seat set aside for somebody until the end of the year, perhaps the one an account holds now."""
    return Reservation(
        id="r",
        pool_id="x",
        count=1,
        person_id=person,
        from_account_id=source,
        ends=date(2031, 12, 31),
        reason="test",
        author="test",
        made_at=begin,
    )


class Play:
    """The service's books beside one kept on paper."""

    def __init__(self, database: PostgresDatabase, seed: int) -> None:
        self.database = database
        self.dice = random.Random(seed)
        self.now = BEGIN
        self.turn = 0
        self.ranks = {w: self.dice.randrange(3) for w in PEOPLE}
        self.starts = {w: BEGIN.date() + DAY * self.dice.randrange(3) for w in PEOPLE}
        titles = {w: self.dice.choice(TITLES) for w in PEOPLE}
        self.book = Book(bought=3, today=BEGIN.date(), titles=titles)

    async def begin(self) -> None:
        async with self.database.unit() as unit:
            crew = Application(id="crew", name="Crew", kind="scim")
            await unit.applications.put(crew, Access(), None)
            await unit.people.insert(
                [
                    person(id=w, user_name=w, title=self.book.titles[w], starts=self.starts[w])
                    for w in PEOPLE
                ]
            )
            await unit.seats.put(Pool(id="x", application_id="crew", license="planner", bought=3))
            await unit.seats.buy(Purchase(id="first", pool_id="x", count=3))

    async def claims(self) -> None:
        """Some ask at once, now and then somebody twice: each as if all before had been served."""
        some = self.dice.choices(PEOPLE, k=self.dice.choice([1, 1, 2, 5]))
        if not self.dice.randrange(4):  # a move has made it more urgent, or less
            self.ranks[some[0]] = self.dice.randrange(3)
        asking = [(f"a-{who}", who, self.ranks[who]) for who in some]
        async with self.database.unit() as unit:
            places = await claims(unit, asking, self.now)
        for n, (who, place) in enumerate(zip(some, places, strict=True)):
            came = self.book.line[who][2] if who in self.book.line else 10 * self.turn + n
            self.book.asks(who, (self.ranks[who], self.starts[who], came))
            assert (place is None) == self.book.claim(who), (who, place)
            if place is not None and not self.book.promised(who):
                assert place == self.book.place(who) + 1

    async def frees(self) -> None:
        if not self.book.held:
            return
        who = self.dice.choice(sorted(self.book.held))
        self.book.gives_back(who)
        c = t.seat_claims
        async with self.database.unit() as unit:
            gone = sa.update(c).where(c.c.person_id == who, c.c.until_at.is_(None))
            await unit.seats.connection.execute(gone.values(until_at=self.now))  # type: ignore[attr-defined]

    async def reserves(self) -> None:
        holder = self.dice.choice([None, None, *sorted(self.book.held)])
        title = "" if holder else self.dice.choice(["", *TITLES])
        begins = self.book.today + DAY * self.dice.choice([0, 0, 2])
        one = Aside(
            id=f"r{self.turn}",
            count=self.dice.randrange(1, 3) if title else 1,
            begins=begins,
            ends=begins + DAY * self.dice.randrange(4),
            person=None if title else self.dice.choice(PEOPLE),
            title=title,
            holder=holder,
        )
        if one.person in self.book.held or any(a.person == one.person for a in self.book.asides):
            return
        self.book.asides.append(one)
        made = Reservation(
            id=one.id,
            pool_id="x",
            count=one.count,
            begins=one.begins,
            ends=one.ends,
            person_id=one.person,
            who=f'title eq "{title}"' if title else "",
            from_account_id=holder and f"a-{holder}",
            reason="test",
            author="test",
            made_at=self.now,
        )
        async with self.database.unit() as unit:
            await unit.reservations.put(made)
        if one.person in self.book.line:
            self.book.uses[one.person] = one.id

    async def withdraws(self) -> None:
        if not self.book.asides:
            return
        gone = self.dice.choice(self.book.asides)
        self.book.asides.remove(gone)
        async with self.database.unit() as unit:
            await unit.reservations.withdraw("x", gone.id)

    async def a_day_passes(self) -> None:
        self.now += DAY
        self.book.today += DAY

    async def buys(self) -> None:
        self.book.bought += 1
        one = Purchase(id=f"b{self.turn}", pool_id="x", count=1)
        async with self.database.unit() as unit:
            await unit.seats.buy(one)

    async def agrees(self) -> None:
        """Terms and reservations are put right, and who is served is who should be."""
        s = t.subjects
        async with self.database.unit() as unit:
            await unit.seats.terms(self.book.today, self.now)
            self.book.comes_into_force()
            run = unit.seats.connection.execute  # type: ignore[attr-defined]
            await run(sa.update(s).values(wake_at=None))
            await unit.seats.serve(asleep=True)
            woken = await run(sa.select(s.c.id).where(s.c.wake_at.isnot(None)))
            assert set(woken.scalars()) == self.book.served(), (self.turn, self.book)
            pool = (await unit.seats.pools())["crew", "planner"]
        found = (pool.bought, pool.held, pool.reserved, pool.waiting)
        book = self.book
        assert found == (book.bought, len(book.held), book.aside, len(book.line)), self.turn


@pytest.mark.parametrize("seed", range(6))
async def test_seats_set_aside_are_as_the_book_says(database: PostgresDatabase, seed: int) -> None:
    play = Play(database, seed)
    await play.begin()
    usual = [play.claims] * 5
    others = [play.frees, play.frees, play.reserves, play.reserves]
    rare = [play.withdraws, play.a_day_passes, play.buys]
    for turn in range(120):
        play.turn = turn
        play.now += timedelta(seconds=1)
        await play.dice.choice([*usual, *others, *rare])()
        await play.agrees()


async def test_who_has_left_keeps_nobody_from_a_seat(database: PostgresDatabase) -> None:
    play = Play(database, 0)
    await play.begin()
    async with database.unit() as unit:
        await unit.reservations.put(aside(BEGIN, "p1"))
        await unit.seats.terms(BEGIN.date(), BEGIN)
        assert (await unit.seats.pools())["crew", "planner"].reserved == 1
        known = (await unit.people.many(["p1"]))["p1"][0]
        await unit.people.change([replace(known, access_ends=BEGIN)])
        await unit.seats.terms(BEGIN.date(), BEGIN)
        assert (await unit.seats.pools())["crew", "planner"].reserved == 0
        with pytest.raises(NotFound):
            await unit.reservations.withdraw("other", "r")


async def test_what_was_passed_on_stays_aside_though_its_holder_gets_another(
    database: PostgresDatabase,
) -> None:
    play = Play(database, 0)
    await play.begin()

    async def takes(who: str) -> int | None:
        play.now += timedelta(minutes=1)
        async with database.unit() as unit:
            return await claim(unit, f"a-{who}", who, play.now)

    assert await takes("p1") is None
    async with database.unit() as unit:
        await unit.reservations.put(aside(play.now, "p2", "a-p1"))
        await unit.seats.terms(play.book.today, play.now)
        assert (await unit.seats.pools())["crew", "planner"].reserved == 0, "it is still p1's"
    play.book.held = {"p1"}
    await play.frees()
    assert await takes("p1") is None
    async with database.unit() as unit:
        assert (await unit.seats.pools())["crew", "planner"].reserved == 1
    assert await takes("p3") is None
    assert await takes("p4") is not None, "the third is kept for p2"
    assert await takes("p2") is None


async def test_whoever_is_hired_again_waits_with_what_is_theirs_by_name(
    database: PostgresDatabase,
) -> None:
    play = Play(database, 0)
    await play.begin()
    async with database.unit() as unit:
        await unit.reservations.put(aside(BEGIN, "p1"))
        known = (await unit.people.many(["p1"]))["p1"][0]
        await unit.people.change([replace(known, access_ends=BEGIN)])
        await unit.seats.terms(BEGIN.date(), BEGIN)
        some = [("a-p2", "p2", 0), ("a-p3", "p3", 0), ("a-p4", "p4", 0), ("a-p5", "p5", 0)]
        assert await claims(unit, some, BEGIN) == [None, None, None, 1]
        await unit.people.change([known])
        assert await claim(unit, "a-p1", "p1", BEGIN) == 2, (
            "before anybody knows that it counts again"
        )
        await unit.seats.buy(Purchase(id="more", pool_id="x", count=1))
        await unit.seats.terms(BEGIN.date(), BEGIN)
        run = unit.seats.connection.execute  # type: ignore[attr-defined]
        await run(sa.update(t.subjects).values(wake_at=None))
        await unit.seats.serve(asleep=True)
        woken = await run(sa.select(t.subjects.c.id).where(t.subjects.c.wake_at.isnot(None)))
        assert set(woken.scalars()) == {"p1"}, "the seat is theirs, not the next one's in line"
