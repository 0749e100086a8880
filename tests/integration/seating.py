"""Seats asked for in the one pool of a test."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date, datetime

from yugum.core.counter import Asked
from yugum.core.licenses import USUAL, License
from yugum.core.people import folded
from yugum.core.roles import Rules
from yugum.engine.promises import promised
from yugum.ports.units import UnitOfWork

NOBODY_WAITS = -1


async def claim(
    unit: UnitOfWork,
    account: str,
    who: str,
    at: datetime,
    license: License = USUAL,
    rank: int = 0,
) -> int | None:
    """None where the seat is held now, else the place in line."""
    (place,) = await claims(unit, [(account, who, rank)], at, license)
    return place


async def claims(
    unit: UnitOfWork, some: Sequence[tuple[str, str, int]], at: datetime, license: License = USUAL
) -> list[int | None]:
    """Accounts, people and ranks that ask at one counter: None for whoever holds a seat, else the place in line."""
    pool = await unit.seats.hold("crew", "planner")
    assert pool is not None
    known = await unit.people.many({who for _, who, _ in some})
    counter = await unit.seats.counter(pool, [a for a, _, _ in some], [*known])
    found: list[int | None] = []
    for account, who, rank in some:
        mine = promised(counter, who, folded(known[who][0]), Rules())
        asked = Asked(account_id=account, person_id=who, rank=rank, reservation_id=mine)
        got = counter.ask(asked, license)
        found.append(None if got.held else got.place or NOBODY_WAITS)
    await unit.seats.give(counter, at)
    return found


@dataclass
class Aside:
    """What is set aside, as a person would note it."""

    id: str
    count: int
    ends: date
    begins: date
    person: str | None = None
    title: str = ""
    holder: str | None = None
    given: bool = False
    taken: int = 0


@dataclass
class Book:
    """Seats of one pool on paper: slow, and obviously right."""

    bought: int
    today: date
    held: set[str] = field(default_factory=set)
    line: dict[str, tuple[int, date, int]] = field(default_factory=dict)
    """Who waits: priority, first day, and when they came."""
    uses: dict[str, str | None] = field(default_factory=dict)
    """Which reservation they stand in line with."""
    asides: list[Aside] = field(default_factory=list)
    titles: dict[str, str] = field(default_factory=dict)

    @property
    def spare(self) -> int:
        return self.bought - len(self.held)

    def counts(self, one: Aside) -> bool:
        days = one.begins <= self.today <= one.ends
        return days and one.taken < one.count and one.person not in self.held

    def kept(self, one: Aside) -> int:
        given = one.holder is None or one.given
        return one.count - one.taken if self.counts(one) and given else 0

    def gives_back(self, who: str) -> None:
        self.held.discard(who)
        for one in self.asides:
            one.given = one.given or one.holder == who

    @property
    def aside(self) -> int:
        return sum(self.kept(a) for a in self.asides)

    def mine(self, who: str) -> Aside | None:
        named = [a for a in self.asides if self.counts(a) and a.person == who]
        titled = [
            a for a in self.asides if a.title and self.counts(a) and a.title == self.titles[who]
        ]
        found = [*named, *titled]
        return next((a for a in found if self.kept(a)), next(iter(found), None))

    def promised(self, who: str) -> bool:
        used = self.uses.get(who)
        return any(a.id == used and self.kept(a) for a in self.asides)

    def comes_into_force(self) -> None:
        """Whoever waits has what is theirs by name once it counts, unless they have another one by name."""
        for one in self.asides:
            used = next((a for a in self.asides if a.id == self.uses.get(one.person or "")), None)
            named = used is not None and used.person is not None and self.counts(used)
            if one.person in self.line and self.counts(one) and not named:
                self.uses[one.person] = one.id

    def place(self, who: str) -> int:
        """How many stand before somebody for whom nothing is set aside."""
        others = [w for w in self.line if not self.promised(w) and w != who]
        return sum(self.line[w] < self.line[who] for w in others)

    def asks(self, who: str, key: tuple[int, date, int]) -> None:
        """Somebody comes to the line, or is there and counts otherwise now."""
        if who not in self.held:
            self.line[who] = key

    def claim(self, who: str) -> bool:
        if who in self.held:
            return True
        mine = self.mine(who)
        self.uses[who] = mine.id if mine else None
        before = 0 if mine and self.kept(mine) else self.place(who) + self.aside
        if self.spare <= before:
            return False
        if mine:
            mine.taken += 1
        del self.line[who], self.uses[who]
        self.held.add(who)
        return True

    def served(self) -> set[str]:
        """Who may take a seat now."""
        found = set()
        for aside in (True, False):
            some = [w for w in self.line if self.promised(w) is aside]
            some.sort(key=lambda w: self.line[w])
            found |= {*some[: max(0, self.spare - (0 if aside else self.aside))]}
        return found
