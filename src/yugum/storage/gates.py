"""What limits calls to applications over all workers: shares in time slices, pauses, ceilings, stop.

Machine time throughout.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.ports.gates import Share, Stop
from yugum.storage import tables as t
from yugum.storage.rows import read

SHARES_SQL = sa.text("""
WITH mine AS (
  INSERT INTO worker_shares (worker, application_id, until_at)
  SELECT :worker, unnest(cast(:ids AS text[])), clock_timestamp() + make_interval(secs => :seconds)
  ON CONFLICT (worker, application_id) DO UPDATE SET until_at = excluded.until_at
)
SELECT a.id, 1 + (SELECT count(*) FROM worker_shares w WHERE w.application_id = a.id
    AND w.worker <> :worker AND w.until_at > clock_timestamp()) AS workers,
  greatest(0, coalesce(extract(epoch FROM a.paused_until - clock_timestamp()), 0))::float8 AS paused
FROM applications a WHERE a.id = ANY(:ids)
""")

CEILING_SQL = sa.text("""
INSERT INTO ceilings AS c (application_id, hour_at, taken)
VALUES (:application_id, date_trunc('hour', clock_timestamp()), 1)
ON CONFLICT (application_id, hour_at) DO UPDATE SET taken = c.taken + 1 WHERE c.taken < :ceiling
RETURNING taken
""")


CUTTING_SQL = sa.text("""
WITH mine AS (
  INSERT INTO worker_cutting (worker, until_at)
  VALUES (:worker, clock_timestamp() + make_interval(secs => :seconds))
  ON CONFLICT (worker) DO UPDATE SET until_at = excluded.until_at
)
SELECT EXISTS (SELECT 1 FROM worker_cutting
  WHERE worker <> :worker AND until_at > clock_timestamp())
""")


class Gates:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def share(
        self, worker: str, application_ids: Sequence[str], seconds: float
    ) -> Mapping[str, Share]:
        """Say that ``worker`` calls these applications for so long; with how many others it does."""
        result = await self.connection.execute(
            SHARES_SQL, {"worker": worker, "ids": list(application_ids), "seconds": seconds}
        )
        return {r.id: Share(r.workers, r.paused) for r in result}

    async def leave(self, worker: str) -> None:
        await self.connection.execute(
            sa.delete(t.worker_shares).where(t.worker_shares.c.worker == worker)
        )

    async def cutting(self, worker: str, seconds: float) -> bool:
        """Say that ``worker`` has cut-offs in hand for so long; whether any other worker has."""
        values = {"worker": worker, "seconds": seconds}
        return bool(await self.connection.scalar(CUTTING_SQL, values))

    async def pause(self, application_id: str, seconds: float) -> None:
        """An application asked to slow down: no worker calls it for so long, but for cut-offs."""
        await self.connection.execute(
            sa.text(
                """UPDATE applications SET paused_until = greatest(paused_until,
                     clock_timestamp() + make_interval(secs => :seconds)) WHERE id = :id"""
            ),
            {"id": application_id, "seconds": seconds},
        )

    async def take_of_ceiling(self, application_id: str, ceiling: int) -> bool:
        """Count one step that takes something away; False when the hour's ceiling is reached."""
        taken = await self.connection.scalar(
            CEILING_SQL, {"application_id": application_id, "ceiling": ceiling}
        )
        return taken is not None

    async def stopped(self) -> Stop | None:
        """Who stopped everything but cut-offs, when and why; None while work goes on."""
        c = t.controls
        query = sa.select(c).where(c.c.name == "stop")
        row = (await self.connection.execute(query)).mappings().first()
        return read(Stop, row) if row else None

    async def stop(self, author: str, reason: str) -> None:
        statement = insert(t.controls).values(name="stop", author=author, reason=reason)
        await self.connection.execute(statement.on_conflict_do_nothing())

    async def go_on(self) -> None:
        await self.connection.execute(sa.delete(t.controls).where(t.controls.c.name == "stop"))
