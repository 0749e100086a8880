"""Seats: pools, holders, and what they cost."""

from __future__ import annotations

import uuid
from collections.abc import Sequence

from yugum.core.documents import Document
from yugum.core.seats import Pool
from yugum.engine.events import make_event
from yugum.errors import NotFound
from yugum.ports.clock import Clock
from yugum.ports.pages import ListPage
from yugum.ports.seats import PoolLine, SeatHolder
from yugum.ports.units import Database


class Seats:
    def __init__(self, database: Database, clock: Clock) -> None:
        self._database = database
        self._clock = clock

    async def list(self) -> Sequence[PoolLine]:
        """Every pool; an organisation has tens of them, so this is no page."""
        async with self._database.unit() as unit:
            return await unit.seats.lines()

    async def holders(self, pool_id: str, cursor: str | None, limit: int) -> ListPage[SeatHolder]:
        async with self._database.unit() as unit:
            return await unit.seats.holders(pool_id, cursor, limit)

    async def put(
        self, application_id: str, license: str, bought: int, price_cents: int, author: str
    ) -> Pool:
        """Add a pool or change it; more seats serve the line at once."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            if application_id not in await unit.applications.all():
                raise NotFound(f"There is no application {application_id}.", place="application_id")
            pools = await unit.seats.pools()
            before = pools.get((application_id, license))
            pool = Pool(
                id=before.id if before else str(uuid.uuid4()),
                application_id=application_id,
                license=license,
                bought=bought,
                price_cents=price_cents,
            )
            await unit.seats.put(pool)
            payload: Document = {"bought": bought, "before": before.bought if before else 0}
            await unit.audit.add(
                [make_event(now, author, "seats.pool", f"{application_id}/{license}", payload)]
            )
            if await unit.seats.serve():
                await unit.hint()
            return pool
