"""Readings under way: begun, alive, ended, or found dead."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict
from datetime import datetime, timedelta

import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.readings import ReadingState
from yugum.ports.readings import Reading
from yugum.storage import tables as t


class Runs:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def begin(self, reading: Reading) -> None:
        await self.connection.execute(sa.insert(t.readings), [asdict(reading)])

    async def goes_on(self, reading_id: str) -> None:
        r = t.readings
        await self.connection.execute(
            sa.update(r).where(r.c.id == reading_id).values(alive=sa.func.clock_timestamp())
        )

    async def end_dead(self, silent: timedelta) -> None:
        r = t.readings
        await self.connection.execute(
            sa.update(r)
            .where(r.c.state == "running", r.c.alive < sa.func.clock_timestamp() - silent)
            .values(
                state="failed",
                ended_at=sa.func.clock_timestamp(),
                problem="The process that read died; what it had read until then is kept.",
            )
        )

    async def end(
        self,
        reading_id: str,
        state: ReadingState,
        counts: Mapping[str, int],
        problem: str,
        at: datetime,
    ) -> None:
        r = t.readings
        values = {
            "state": state.value,
            "counts": dict(counts),
            "problem": problem,
            "ended_at": at,
        }
        await self.connection.execute(sa.update(r).where(r.c.id == reading_id).values(**values))
