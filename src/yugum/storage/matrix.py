"""Who has a seat of what, for people side by side."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.ports.matrix import MatrixColumn, SeatCell, SeatHeld, SeatsInMonth
from yugum.ports.pages import ListPage
from yugum.storage import tables as t
from yugum.storage.pages import Listing, listed
from yugum.storage.rows import read_all, reader, to_array

CELLS_SQL = sa.text("""
SELECT c.person_id, c.pool_id, c.state, c.place, c.since_at,
  coalesce(l.origin_kind, 'found') AS origin,
  CASE l.origin_kind WHEN 'role' THEN l.origin_name WHEN 'decision' THEN coalesce(d.reason, '') ELSE '' END AS because
FROM (
  SELECT * FROM seat_claims WHERE person_id = any(cast(:ids AS text[])) AND until_at IS NULL AND state = 'held'
  UNION ALL
  SELECT * FROM seat_claims WHERE person_id = any(cast(:ids AS text[])) AND until_at IS NULL AND state = 'waiting'
) c JOIN pools p ON p.id = c.pool_id
LEFT JOIN ledger l ON l.account_id = c.account_id AND l.kind = 'seat' AND l.item = p.license
LEFT JOIN decisions d ON l.origin_kind = 'decision' AND d.id = l.origin_name
WHERE cast(:application AS text) IS NULL OR p.application_id = :application
ORDER BY c.person_id, p.license, p.id
""")
"""Each state has an index of its own."""


BY_MONTH_SQL = sa.text("""
SELECT m.n::int - 1 AS month, coalesce(p.department, '') AS department, c.pool_id, count(*) AS seats
FROM unnest(cast(:ends AS timestamptz[])) WITH ORDINALITY AS m(ends, n)
JOIN seat_claims c ON c.state = 'held' AND c.since_at < m.ends AND (c.until_at IS NULL OR c.until_at >= m.ends)
LEFT JOIN people p ON p.id = c.person_id GROUP BY 1, 2, 3 ORDER BY 1, 2, 3
""")


class Matrix:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def columns(self, application_id: str | None) -> Sequence[MatrixColumn]:
        p, a = t.pools.c, t.applications.c
        query = (
            sa.select(p.id, p.application_id, a.name.label("application_name"), p.license)
            .join(t.applications, a.id == p.application_id)
            .where(a.disconnected_at.is_(None))
            .order_by(a.name, p.license)
        )
        if application_id:
            query = query.where(p.application_id == application_id)
        return read_all(MatrixColumn, await self.connection.execute(query))

    async def cells(
        self, person_ids: Sequence[str], application_id: str | None
    ) -> Sequence[SeatCell]:
        values = {"ids": to_array(person_ids), "application": application_id}
        return read_all(SeatCell, await self.connection.execute(CELLS_SQL, values))

    async def by_month(self, ends: Sequence[datetime]) -> Sequence[SeatsInMonth]:
        return read_all(
            SeatsInMonth, await self.connection.execute(BY_MONTH_SQL, {"ends": list(ends)})
        )

    async def held_within(
        self,
        since: datetime,
        until: datetime,
        pool_id: str | None,
        cursor: str | None,
        limit: int,
    ) -> ListPage[SeatHeld]:
        c = t.seat_claims.c
        query = (
            sa.select(
                c.id,
                c.person_id,
                t.people.c.display_name.label("person_name"),
                t.accounts.c.login,
                t.applications.c.name.label("application_name"),
                t.pools.c.license,
                c.since_at,
                c.until_at,
            )
            .join(t.pools, t.pools.c.id == c.pool_id)
            .join(t.applications, t.applications.c.id == t.pools.c.application_id)
            .outerjoin(t.people, t.people.c.id == c.person_id)
            .outerjoin(t.accounts, t.accounts.c.id == c.account_id)
            .where(c.state == "held", c.since_at <= until)
            .where(sa.or_(c.until_at.is_(None), c.until_at > since))
        )
        if pool_id is not None:
            query = query.where(c.pool_id == pool_id)
        return await listed(
            self.connection,
            Listing(query, [c.since_at, c.id]),
            reader(SeatHeld),
            cursor=cursor,
            limit=limit,
            count=cursor is None,
            narrow="Name a pool.",
        )
