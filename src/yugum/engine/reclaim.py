"""Seats that could come back: listed with what they cost, and taken back by decisions that plans carry out."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from yugum.core.allocations import SeatTurn
from yugum.core.people import folded
from yugum.core.reclaim import Looked, ReclaimReason, looked_at
from yugum.core.requests import PlanRequest
from yugum.core.seats import Pool
from yugum.core.verbs import Verb
from yugum.engine.context import load_applications, load_rules
from yugum.engine.plans.kept import BatchView
from yugum.engine.plans.plans import Plans
from yugum.engine.plans.safeguards import Actor
from yugum.engine.seats import shown_pool
from yugum.engine.whom import people_named
from yugum.errors import Conflict, InvalidInput
from yugum.ports.clock import Clock
from yugum.ports.pages import ListPage
from yugum.ports.reclaim import SeatToReclaim
from yugum.ports.seats import PoolLine
from yugum.ports.units import Database, UnitOfWork


@dataclass(frozen=True, slots=True, kw_only=True)
class Reclaimable:
    """Seats of a pool that could come back."""

    pool: PoolLine
    page: ListPage[SeatToReclaim]


class Reclaim:
    def __init__(self, database: Database, clock: Clock, plans: Plans) -> None:
        self._database = database
        self._clock = clock
        self._plans = plans

    async def page(
        self, pool_id: str, reason: ReclaimReason | None, cursor: str | None, limit: int
    ) -> Reclaimable:
        """Seats of a pool that could come back, and why."""
        now = await self._clock.now()
        async with self._database.unit(alone=True) as unit:
            pool = (await shown_pool(unit, pool_id)).pool
            looked = await look_at(unit, pool, now)
            return Reclaimable(
                pool=pool, page=await unit.reclaim.page(looked, reason, cursor, limit)
            )

    async def plan(
        self, pool_id: str, people: Sequence[str], reason: str, ends: str, actor: Actor
    ) -> BatchView:
        """The plan by which some people have no seat of a pool, for good or until a moment; the exception is its.

        Raises:
            NotFound: nobody is called so.
            Conflict: one of them holds none.
            InvalidInput: no reason is given, or the end is past.
        """
        if not reason.strip():
            raise InvalidInput("Taking a seat back needs a reason.", place="reason")
        now = await self._clock.now()
        async with self._database.unit() as unit:
            pool = (await shown_pool(unit, pool_id)).pool
            whom = {p.id: name for name, p in (await people_named(unit, people)).items()}
            held = await unit.seats.claimed(pool_id, whom)
            if strange := [name for i, name in whom.items() if i not in held]:
                raise Conflict(
                    f"{strange[0][:60]} has no seat of {pool.license}.",
                    place="people",
                    remedy=f"See: yugum seats holders '{pool.application_id}/{pool.license}'.",
                )
            swapped = await _swapped(unit, pool, whom, now)
        of = pool.application_id
        turns = {}
        for person_id in whom:
            turns[person_id] = [SeatTurn(of, pool.license, give=False, reason=reason)]
            if other := swapped.get(person_id):
                turns[person_id].append(SeatTurn(of, other, give=True, reason=reason))
        request = PlanRequest(
            verb=Verb.RECHECK,
            who=tuple(whom),
            seats={i: tuple(some) for i, some in turns.items()},
            until=ends,
        )
        return await self._plans.prepare(request, actor)


async def look_at(unit: UnitOfWork, pool: Pool, now: datetime) -> Looked:
    """How seats of a pool are looked at under the rules in force."""
    return (await look_at_all(unit, [pool], now))[0]


async def look_at_all(unit: UnitOfWork, pools: Sequence[Pool], now: datetime) -> Sequence[Looked]:
    """How seats of some pools are looked at under the rules in force."""
    applications = await load_applications(unit)
    licenses = (await load_rules(unit)).licenses
    return [looked_at(p, licenses, applications.get(p.application_id), now) for p in pools]


async def _swapped(
    unit: UnitOfWork, pool: PoolLine, whom: Mapping[str, str], now: datetime
) -> Mapping[str, str]:
    """The cheaper license by which the seat of some people is taken, where that is why it could come back."""
    license = (await load_rules(unit)).license(pool.application_id, pool.license)
    if not license.cheaper:
        return {}
    looked = await look_at(unit, pool, now)
    why = ReclaimReason.CHEAPER
    page = await unit.reclaim.page(looked, why, None, len(whom), list(whom))
    mine = {r.person_id for r in page.items if r.person_id}
    people = await unit.people.many(sorted(mine))
    return {i: license.does_for(folded(p)) for i, (p, _) in people.items()}
