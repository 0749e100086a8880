"""Seats that could come back: listed with what they cost, and taken back by decisions that plans carry out."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import dataclass

from yugum.core.accounts import HoldingKind
from yugum.core.decisions import Decision, DecisionKind, Payload
from yugum.core.reclaim import ReclaimReason, looked_at
from yugum.engine.context import load_rules, people_named, zone_of
from yugum.engine.decisions import decided, end_of
from yugum.engine.own import must_be_for_others
from yugum.engine.seats import shown_pool
from yugum.errors import Conflict, InvalidInput
from yugum.ports.clock import Clock
from yugum.ports.pages import ListPage
from yugum.ports.reclaim import SeatToReclaim
from yugum.ports.seats import PoolLine
from yugum.ports.units import Database


@dataclass(frozen=True, slots=True, kw_only=True)
class Reclaimable:
    """Seats of a pool that could come back."""

    pool: PoolLine
    page: ListPage[SeatToReclaim]


class Reclaim:
    def __init__(self, database: Database, clock: Clock) -> None:
        self._database = database
        self._clock = clock

    async def page(
        self, pool_id: str, reason: ReclaimReason | None, cursor: str | None, limit: int
    ) -> Reclaimable:
        """Seats of a pool that could come back, and why."""
        now = await self._clock.now()
        async with self._database.unit(alone=True) as unit:
            pool = (await shown_pool(unit, pool_id)).pool
            rules = await load_rules(unit)
            looked = looked_at(pool, rules.licenses, now)
            return Reclaimable(
                pool=pool, page=await unit.reclaim.page(looked, reason, cursor, limit)
            )

    async def decide(
        self, pool_id: str, people: Sequence[str], reason: str, ends: str, author: str
    ) -> None:
        """Some people are not to have a seat of a pool, for good or until a moment; the next plan frees it.

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
            until = end_of(ends, now, await zone_of(unit))
            whom = {p.id: name for name, p in (await people_named(unit, people)).items()}
            await must_be_for_others(unit, author, [*whom], "taking a seat back", now)
            held = await unit.seats.claimed(pool_id, whom)
            if strange := [name for i, name in whom.items() if i not in held]:
                raise Conflict(
                    f"{strange[0][:60]} has no seat of {pool.license}.",
                    place="people",
                    remedy=f"See: yugum seats holders '{pool.application_id}/{pool.license}'.",
                )
            payload = Payload(
                application=pool.application_id, kind=HoldingKind.SEAT, item=pool.license
            )
            made = [
                Decision(
                    id=str(uuid.uuid4()),
                    subject_id=person_id,
                    kind=DecisionKind.DENY,
                    payload=payload,
                    author=author,
                    reason=reason,
                    ends=until,
                )
                for person_id in whom
            ]
            await decided(unit, made, now)
