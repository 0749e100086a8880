"""The business clock's row."""

from __future__ import annotations

from datetime import datetime

import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.errors import Conflict
from yugum.storage import tables as t


class ClockRow:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def read(self) -> tuple[bool, datetime | None]:
        """Whether business time is simulated, and its moment if so."""
        row = (await self.connection.execute(sa.select(t.clock))).mappings().first()
        return (row["simulated"], row["now_at"]) if row else (False, None)

    async def set(self, moment: datetime) -> None:
        """Move simulated time, which only a demo has and which never goes back."""
        demo = await self.connection.scalar(sa.select(t.installation.c.demo))
        if not demo:
            raise Conflict(
                "Time can be simulated in a demo only.", remedy="Start one: scripts/demo --fresh."
            )
        changed = await self.connection.execute(
            sa.text(
                """INSERT INTO clock AS c (id, simulated, now_at) VALUES (1, true, :moment)
                   ON CONFLICT (id) DO UPDATE SET simulated = true, now_at = excluded.now_at
                   WHERE c.now_at IS NULL OR c.now_at <= excluded.now_at"""
            ),
            {"moment": moment},
        )
        if changed.rowcount == 0:
            raise Conflict("Time does not go back.", remedy="Name a later moment.", place="to")
