"""What a forecast is made of, and forecasts kept to be compared."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.forecast import KeptForecast
from yugum.ports.forecasts import SeatAway, SeatEnding, SeatMove
from yugum.storage import tables as t
from yugum.storage.rows import read, read_all

PAST_SQL = sa.text("""
SELECT (SELECT count(*) FROM seat_claims WHERE pool_id = :pool AND state = 'held'
  AND since_at < x.day + 1 AND (until_at IS NULL OR until_at >= x.day + 1))
FROM unnest(cast(:days AS date[])) WITH ORDINALITY AS x(day, n) ORDER BY x.n
""")


MOVES_SQL = sa.text("""
SELECT d.subject_id AS person_id, s.account_id, s.action = 'take_seat' AS takes, d.due_at, p.time_zone
FROM dockets d JOIN people p ON p.id = d.subject_id JOIN plans x ON x.id = d.id
CROSS JOIN LATERAL jsonb_to_recordset(x.steps) AS s(application_id text, account_id text, action text, item text)
WHERE d.state = 'scheduled' AND d.verb IN ('mover', 'returner') AND s.application_id = :application
  AND s.item = :license AND s.action IN ('take_seat', 'free_seat') ORDER BY d.due_at, d.id
""")
"""As it was confirmed: what is dated has no steps of its own yet. Leavers, joiners and the absent are counted by
their dates, whatever dockets there are."""

AWAY_SQL = sa.text("""
SELECT * FROM (SELECT p.id AS person_id, p.absent_from, p.absent_until, p.access_ends, p.time_zone,
    EXISTS (SELECT 1 FROM seat_claims c WHERE c.person_id = p.id AND c.pool_id = :pool AND c.until_at IS NULL) AS has
  FROM people p WHERE p.absent_from IS NOT NULL AND (p.absent_from > :at OR p.absent_until > :at)) x
WHERE has = (absent_from > :at) ORDER BY person_id LIMIT :limit
""")


class Forecasts:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def ending(self, pool_id: str, now: datetime) -> Sequence[SeatEnding]:
        c, p = t.seat_claims.c, t.people.c
        query = (
            sa.select(c.account_id, p.access_ends, p.time_zone)
            .join(t.people, p.id == c.person_id)
            .where(c.pool_id == pool_id, c.until_at.is_(None), p.access_ends > now)
        )
        return read_all(SeatEnding, await self.connection.execute(query))

    async def moves(self, application_id: str, license: str) -> Sequence[SeatMove]:
        values = {"application": application_id, "license": license}
        return read_all(SeatMove, await self.connection.execute(MOVES_SQL, values))

    async def away(self, pool_id: str, now: datetime, limit: int) -> Sequence[SeatAway]:
        values = {"pool": pool_id, "at": now, "limit": limit}
        return read_all(SeatAway, await self.connection.execute(AWAY_SQL, values))

    async def past(self, pool_id: str, days: Sequence[date]) -> Sequence[int]:
        rows = await self.connection.scalars(PAST_SQL, {"pool": pool_id, "days": list(days)})
        return list(rows)

    async def missing(self, day: date, limit: int) -> Sequence[str]:
        p, a, f = t.pools.c, t.applications.c, t.forecasts.c
        kept = sa.exists().where(f.pool_id == p.id, f.made_on == day)
        query = (
            sa.select(p.id)
            .join(t.applications, a.id == p.application_id)
            .where(sa.not_(p.unlimited), a.disconnected_at.is_(None), sa.not_(kept))
            .order_by(p.id)
            .limit(limit)
        )
        return list((await self.connection.scalars(query)).all())

    async def keep(self, pool_id: str, kept: KeptForecast) -> None:
        row = {
            "pool_id": pool_id,
            "made_on": kept.made_on,
            "short_on": kept.short_on,
            "lacking": kept.lacking,
        }
        await self.connection.execute(insert(t.forecasts).values(row).on_conflict_do_nothing())
        # Only the one before is compared with: nobody reads what is older.
        f, newer = t.forecasts, t.forecasts.alias("newer")
        between = sa.exists().where(
            newer.c.pool_id == f.c.pool_id,
            newer.c.made_on > f.c.made_on,
            newer.c.made_on < kept.made_on,
        )
        await self.connection.execute(sa.delete(f).where(f.c.pool_id == pool_id, between))

    async def before(self, pool_id: str, day: date) -> KeptForecast | None:
        f = t.forecasts
        query = (
            sa.select(f)
            .where(f.c.pool_id == pool_id, f.c.made_on < day)
            .order_by(f.c.made_on.desc())
            .limit(1)
        )
        row = (await self.connection.execute(query)).mappings().first()
        return None if row is None else read(KeptForecast, row)
