"""Seats given and taken by hand, for one or many, or as a file says; and who has what, side by side."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from yugum.core.allocations import SeatTurn
from yugum.core.people_file import Fault
from yugum.core.requests import MOST_AT_ONCE, PlanRequest
from yugum.core.seat_file import Entry, entries_of
from yugum.core.verbs import Verb
from yugum.engine.plans.kept import BatchView
from yugum.engine.plans.plans import Plans
from yugum.engine.plans.safeguards import Actor
from yugum.engine.whom import people_named, whom
from yugum.errors import InvalidInput, NotFound
from yugum.ports.clock import Clock
from yugum.ports.matrix import MatrixColumn, SeatCell
from yugum.ports.people import PersonLine
from yugum.ports.seats import PoolLine
from yugum.ports.units import Database, UnitOfWork


@dataclass(frozen=True, slots=True)
class SeatTurnSaid:
    """Somebody (id, login, number or name) is to have a seat of a pool, or none."""

    person: str
    pool_id: str
    give: bool


@dataclass(frozen=True, slots=True)
class CheckedEntry:
    """A row of a file: whom and which pool it means, or what is wrong with it."""

    entry: Entry
    person_id: str = ""
    pool_id: str = ""
    problem: Fault | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Demand:
    """What the good rows of a file ask of a pool: ``short`` are more than come back and are free."""

    pool: PoolLine
    asked: int
    returned: int

    @property
    def short(self) -> int:
        free = max(0, self.pool.free)
        return 0 if self.pool.unlimited else max(0, self.asked - self.returned - free)


@dataclass(frozen=True, slots=True)
class CheckedFile:
    """A file of people and licenses, row by row, and what it asks of pools."""

    rows: Sequence[CheckedEntry]
    demand: Sequence[Demand]


@dataclass(frozen=True, slots=True)
class MatrixRows:
    """The columns, and what some people have in them."""

    pools: Sequence[MatrixColumn]
    cells: Mapping[str, Sequence[SeatCell]]


class Allocations:
    def __init__(self, database: Database, clock: Clock, plans: Plans) -> None:
        self._database = database
        self._clock = clock
        self._plans = plans

    async def matrix(self, people: Sequence[PersonLine], application_id: str | None) -> MatrixRows:
        """The licenses of an application or of all, and the seats some people have of them.

        Raises:
            NotFound: there is no such application.
        """
        async with self._database.unit(alone=True) as unit:
            if application_id and application_id not in await unit.applications.all():
                raise NotFound(f"There is no application {application_id}.")
            pools = await unit.matrix.columns(application_id)
            cells: dict[str, list[SeatCell]] = {}
            for cell in await unit.matrix.cells([p.id for p in people], application_id):
                cells.setdefault(cell.person_id, []).append(cell)
            return MatrixRows(pools, cells)

    async def plan(
        self, turns: Sequence[SeatTurnSaid], reason: str, ends: str, actor: Actor
    ) -> BatchView:
        """The plan by which people have seats, or none; exceptions come with it where roles say otherwise.

        Raises:
            NotFound: there is no such person or pool.
            InvalidInput: no reason is given, one seat is given and taken, or too many are named.
        """
        if not reason.strip():
            raise InvalidInput("Seats are given and taken for a reason.", place="reason")
        names = list(dict.fromkeys(t.person for t in turns))
        if not 0 < len(names) <= MOST_AT_ONCE:
            raise InvalidInput(
                f"Name between one and {MOST_AT_ONCE} people.", place="turns", remedy="Split them."
            )
        async with self._database.unit(alone=True) as unit:
            people = await people_named(unit, names)
            pools = {p.id: p for p in await unit.matrix.columns(None)}
        seats: dict[str, dict[str, SeatTurn]] = {}
        for turn in turns:
            pool = pools.get(turn.pool_id)
            if pool is None:
                raise NotFound(f"There is no pool {turn.pool_id}.", remedy="See: yugum seats list.")
            mine = seats.setdefault(people[turn.person].id, {})
            one = SeatTurn(pool.application_id, pool.license, turn.give, reason)
            if mine.setdefault(pool.id, one) != one:
                raise InvalidInput(
                    f"{turn.person} is given a seat of {pool.license} and none.", place="turns"
                )
        request = PlanRequest(
            verb=Verb.RECHECK,
            who=tuple(seats),
            seats={i: tuple(mine.values()) for i, mine in seats.items()},
            until=ends,
        )
        return await self._plans.prepare(request, actor)

    async def check(self, raw: bytes) -> CheckedFile:
        """A file of people and licenses, looked at row by row; nothing is changed.

        Raises:
            InvalidInput: it is no table, or a column is missing or not known.
        """
        entries = entries_of(raw)
        async with self._database.unit(alone=True) as unit:
            names = list(dict.fromkeys(e.person for e in entries if e.person))
            people, wrong = await whom(unit, names, MOST_AT_ONCE)
            pools = await unit.seats.lines()
            seen: dict[tuple[str, str], Entry] = {}
            rows = []
            for entry in entries:
                problem = entry.problem
                pool, strange = _pool_of(entry, pools)
                problem = problem or strange
                if problem is None and entry.person in wrong:
                    error = wrong[entry.person]
                    problem = Fault(place="person", text=error.message, remedy=error.remedy)
                if problem is not None or pool is None or entry.give is None:
                    rows.append(CheckedEntry(entry, problem=problem))
                    continue
                person_id = people[entry.person].id
                first = seen.setdefault((person_id, pool.id), entry)
                if first is not entry:
                    told = Fault(
                        place="line",
                        text=f"Line {first.line} is about the same seat.",
                        remedy="Keep one.",
                    )
                    rows.append(CheckedEntry(entry, problem=told))
                    continue
                rows.append(CheckedEntry(entry, person_id, pool.id))
            return CheckedFile(rows, await _demand(unit, rows, pools))


def _pool_of(entry: Entry, pools: Sequence[PoolLine]) -> tuple[PoolLine | None, Fault | None]:
    """The pool that a row means, by the license's name and where there are several the application's."""
    named = [p for p in pools if p.license.casefold() == entry.license.casefold()]
    if entry.application:
        said = entry.application.casefold()
        named = [
            p for p in named if said in (p.application_id.casefold(), p.application_name.casefold())
        ]
    if len(named) == 1:
        return named[0], None
    if named:
        where = ", ".join(sorted(p.application_id for p in named))
        return None, Fault(
            place="license",
            text=f"{entry.license} is a license of {where}.",
            remedy="Name the application.",
        )
    known = sorted({p.license for p in pools})
    return None, Fault(
        place="license",
        text=f"No pool holds seats of {entry.license}.",
        remedy=f"Known are: {', '.join(known[:12])}.",
    )


async def _demand(
    unit: UnitOfWork, rows: Sequence[CheckedEntry], pools: Sequence[PoolLine]
) -> list[Demand]:
    good = [r for r in rows if r.pool_id]
    people = list(dict.fromkeys(r.person_id for r in good))
    has = {(c.person_id, c.pool_id) for c in await unit.matrix.cells(people, None)}
    asked, returned = Counter[str](), Counter[str]()
    for row in good:
        there = (row.person_id, row.pool_id) in has
        asked[row.pool_id] += bool(row.entry.give) and not there
        returned[row.pool_id] += row.entry.give is False and there
    return [
        Demand(pool=p, asked=asked[p.id], returned=returned[p.id]) for p in pools if p.id in asked
    ]
