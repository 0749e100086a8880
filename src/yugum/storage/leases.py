"""Leases: the only truth about which worker works on which subject. Machine time throughout."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import datetime

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.ports.leases import Lease
from yugum.storage import tables as t
from yugum.storage.rows import statement, to_array

CLAIM_SQL = """
UPDATE subjects s SET lease_owner = :worker, wake_at = NULL, epoch = s.epoch + 1,
  lease_until = clock_timestamp() + make_interval(secs => :seconds)
FROM (
  SELECT id FROM subjects
  WHERE wake_at <= clock_timestamp()
    AND (lease_until IS NULL OR lease_until < clock_timestamp()) AND priority <= :least
  ORDER BY priority, wake_at LIMIT :limit FOR UPDATE SKIP LOCKED
) c
WHERE s.id = c.id RETURNING s.id, s.epoch
"""

RELEASE_SQL = """
UPDATE subjects s SET lease_owner = NULL, lease_until = NULL,
  priority = CASE WHEN s.wake_at IS NULL THEN 5 ELSE s.priority END,
  wake_at = least(s.wake_at, (
    SELECT min(l.at) FROM (
      SELECT coalesce(min(st.retry_at) FILTER (WHERE st.retry_at > clock_timestamp()),
        max(st.retry_at)) AS at
      FROM dockets d JOIN steps st ON st.docket_id = d.id
      WHERE d.subject_id = s.id AND d.state = 'running'
        AND st.state NOT IN ('done', 'left_out')
      GROUP BY st.account_id) l))
FROM unnest(cast(:ids AS text[]), cast(:epochs AS bigint[])) AS r(id, epoch)
WHERE s.id = r.id AND s.epoch = r.epoch
"""
"""A step behind one that gets no answer keeps the time of its own last try: its account waits for the first."""

RECOVER_SQL = """
UPDATE subjects SET wake_at = clock_timestamp(), lease_owner = NULL, lease_until = NULL
WHERE id IN (
  SELECT id FROM subjects WHERE lease_owner IS NOT NULL AND lease_until < clock_timestamp()
  FOR UPDATE SKIP LOCKED
)
"""
"""Skips what a worker that stands still has locked: one such must not hold up all the others."""


class Leases:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def make_subjects(self, subject_ids: Iterable[str]) -> None:
        """Accounts with nobody behind become subjects when something is to be done about them."""
        statement = insert(t.subjects).on_conflict_do_nothing()
        await self.connection.execute(statement, [{"id": i} for i in subject_ids])

    async def wake(self, subject_ids: Iterable[str], *, priority: int) -> None:
        """Make subjects due for a worker now; a lower number goes first."""
        await self.connection.execute(
            sa.text(
                """UPDATE subjects SET wake_at = clock_timestamp(),
                     priority = least(priority, :priority) WHERE id = ANY(:ids)"""
            ),
            {"ids": list(subject_ids), "priority": priority},
        )

    async def wake_free(self, subject_ids: Iterable[str]) -> None:
        await self.connection.execute(
            sa.text(
                """UPDATE subjects SET wake_at = clock_timestamp() WHERE id IN (
                     SELECT id FROM subjects WHERE id = ANY(cast(:ids AS text[]))
                       AND (wake_at IS NULL OR wake_at > clock_timestamp())
                     ORDER BY id FOR UPDATE SKIP LOCKED)"""
            ),
            {"ids": to_array(subject_ids)},
        )

    async def wake_due(self, now: datetime) -> int:
        """Wake the subjects of scheduled dockets that are due at a business moment."""
        result = await self.connection.execute(
            sa.text(
                """UPDATE subjects SET wake_at = clock_timestamp()
                   WHERE (wake_at IS NULL OR wake_at > clock_timestamp())
                   AND lease_owner IS NULL AND id IN (
                     SELECT subject_id FROM dockets WHERE state = 'scheduled' AND due_at <= :now)"""
            ),
            {"now": now},
        )
        return int(result.rowcount)

    async def claim(
        self, worker: str, limit: int, seconds: float, *, most_urgent: bool = False
    ) -> Sequence[Lease]:
        """Take up to ``limit`` due subjects; each gets a new epoch.

        With ``most_urgent`` only those who are leaving or were called urgent.
        """
        result = await self.connection.execute(
            statement(CLAIM_SQL),
            {
                "worker": worker,
                "limit": limit,
                "seconds": seconds,
                "least": 1 if most_urgent else 1000,
            },
        )
        return [Lease(row.id, row.epoch) for row in result]

    async def renew(
        self, worker: str, subject_ids: Iterable[str], seconds: float
    ) -> Sequence[Lease]:
        """Prolong the worker's leases on these subjects that have not run out; returns those.

        One that the worker has let go of after a failure runs out and is taken up by `recover`.
        """
        result = await self.connection.execute(
            sa.text(
                """UPDATE subjects
                   SET lease_until = clock_timestamp() + make_interval(secs => :seconds)
                   WHERE id = ANY(:ids) AND lease_owner = :worker
                     AND lease_until >= clock_timestamp()
                   RETURNING id, epoch"""
            ),
            {"worker": worker, "ids": list(subject_ids), "seconds": seconds},
        )
        return [Lease(row.id, row.epoch) for row in result]

    async def release(self, leases: Sequence[Lease]) -> None:
        """Give subjects back; they wake again when one of their steps is to be retried."""
        await self.connection.execute(
            statement(RELEASE_SQL),
            {"ids": [x.subject_id for x in leases], "epochs": [x.epoch for x in leases]},
        )

    async def recover(self) -> int:
        """Wake subjects whose worker has not renewed its lease."""
        return int((await self.connection.execute(statement(RECOVER_SQL))).rowcount)

    async def due_now(self) -> int:
        """How many subjects could be claimed this moment."""
        query = """SELECT count(*) FROM subjects WHERE wake_at <= clock_timestamp()
                   AND (lease_until IS NULL OR lease_until < clock_timestamp())"""
        return int(await self.connection.scalar(sa.text(query)) or 0)

    async def working(self) -> int:
        """How many subjects are leased, due or marked now (those waiting for a retry are not)."""
        query = """SELECT (SELECT count(*) FROM subjects
                     WHERE lease_owner IS NOT NULL OR wake_at <= clock_timestamp())
                   + (SELECT count(*) FROM marks) + (SELECT count(*) FROM sweeps)"""
        return int(await self.connection.scalar(sa.text(query)) or 0)
