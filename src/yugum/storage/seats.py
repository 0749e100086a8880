"""Seats: who holds one, who waits, and the lock under which both are decided."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence, Set
from dataclasses import asdict
from datetime import date, datetime
from typing import Any

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.licenses import License, WhenEmpty
from yugum.core.seats import Claim, Pool, Purchase
from yugum.errors import NotFound
from yugum.ports.pages import ListPage
from yugum.ports.seats import Asked, PoolLine, SeatCount, SeatEnding, SeatHolder, SeatOf
from yugum.storage import tables as t
from yugum.storage.pages import fetch
from yugum.storage.rows import among, among_ids, read, read_all, reader, to_array

RECONCILE_SQL = """
WITH seen AS (
  SELECT p.id AS pool_id, a.id AS account_id, a.person_id
  FROM accounts a CROSS JOIN LATERAL unnest(a.seats) AS s(license)
  JOIN pools p ON p.application_id = a.application_id AND p.license = s.license
  WHERE a.application_id = :application
), gone AS (
  UPDATE seat_claims c SET until_at = :at
  FROM pools p
  WHERE c.pool_id = p.id AND p.application_id = :application AND c.until_at IS NULL
    AND c.state = 'held'
    AND NOT EXISTS (SELECT 1 FROM seen s WHERE s.pool_id = c.pool_id
                    AND s.account_id = c.account_id)
    AND NOT EXISTS (SELECT 1 FROM steps s WHERE s.subject_id = c.person_id
                    AND s.account_id = c.account_id AND s.action = 'take_seat'
                    AND s.item = p.license AND s.state IN ('intent', 'settling'))
  RETURNING 1
)
INSERT INTO seat_claims (id, pool_id, account_id, person_id, state, since_at)
SELECT gen_random_uuid()::text, s.pool_id, s.account_id, s.person_id, 'held', :at FROM seen s
ON CONFLICT (pool_id, account_id) WHERE until_at IS NULL DO NOTHING
"""
"""A seat that is being taken is not shown yet: its claim stays."""

GIVE_UP_SQL = """
UPDATE seat_claims c SET until_at = :at
FROM unnest(cast(:ids AS text[])) AS x(id)
CROSS JOIN LATERAL (SELECT * FROM seat_claims WHERE person_id = x.id AND state = 'waiting'
  AND until_at IS NULL OFFSET 0) w
JOIN pools p ON p.id = w.pool_id
WHERE c.id = w.id AND c.state = 'waiting' AND c.until_at IS NULL AND NOT EXISTS (
  SELECT 1 FROM steps s JOIN dockets d ON d.id = s.docket_id AND d.state = 'running'
  WHERE s.subject_id = w.person_id AND s.account_id = w.account_id AND s.action = 'take_seat'
    AND s.application_id = p.application_id AND s.item = p.license
    AND s.state NOT IN ('done', 'left_out'))
"""
"""A place is somebody's who has a step that goes on once it is served."""

TAKING_SQL = """
SELECT s.item FROM dockets d JOIN steps s ON s.docket_id = d.id
WHERE d.subject_id = :subject AND d.state = 'running' AND s.account_id = :account AND s.action = 'take_seat' AND s.state NOT IN ('done', 'left_out')
"""

DEPARTMENTS_SQL = sa.text("""
SELECT coalesce(p.department, '') AS department, c.pool_id, count(*) AS seats
FROM seat_claims c LEFT JOIN people p ON p.id = c.person_id
WHERE c.until_at IS NULL AND c.state = 'held' GROUP BY 1, 2 ORDER BY 1, 2
""")

PAST_SQL = sa.text("""
SELECT (SELECT count(*) FROM seat_claims WHERE pool_id = :pool AND state = 'held'
  AND since_at < x.day + 1 AND (until_at IS NULL OR until_at >= x.day + 1))
FROM unnest(cast(:days AS date[])) WITH ORDINALITY AS x(day, n) ORDER BY x.n
""")

LINE = "rank, begins NULLS LAST, place"
"""The order of a line: the stated priority, then who begins first, then who came first."""

SERVE_SQL = f"""
WITH line AS (
  SELECT person_id, pool_id, row_number() OVER (PARTITION BY pool_id ORDER BY {LINE}) AS n
  FROM seat_claims WHERE state = 'waiting' AND until_at IS NULL
), pool AS (
  SELECT p.id, p.unlimited, p.bought - (SELECT count(*) FROM seat_claims h
    WHERE h.pool_id = p.id AND h.until_at IS NULL AND h.state = 'held') AS free
  FROM pools p WHERE p.id IN (SELECT pool_id FROM line)
)
UPDATE subjects SET wake_at = clock_timestamp() WHERE id IN (
  SELECT s.id FROM subjects s WHERE s.id IN (
    SELECT l.person_id FROM line l JOIN pool p ON p.id = l.pool_id WHERE p.unlimited OR l.n <= p.free)
  AND (s.wake_at IS NULL OR NOT :asleep AND s.wake_at > clock_timestamp())
  ORDER BY s.id FOR UPDATE SKIP LOCKED)
"""
"""As many from the head of each line as seats are free; each claims its own under the pool's lock."""

TERMS_SQL = sa.text("""
UPDATE pools p SET bought = x.bought
FROM (SELECT p.id, coalesce(sum(b.count) FILTER (WHERE coalesce(b.begins, :today) <= :today
    AND coalesce(b.ends, :today) >= :today), 0) AS bought
  FROM pools p JOIN purchases b ON b.pool_id = p.id GROUP BY p.id) x
WHERE x.id = p.id AND p.bought <> x.bought
RETURNING p.id, p.bought
""")
"""A pool has the seats whose term has begun and is not over."""

LOCK_SQL = sa.text("""
SELECT id, bought, unlimited FROM pools WHERE application_id = :application AND license = :license FOR UPDATE
""")

CLAIM_SQL = sa.text("""
WITH mine AS (
  SELECT state, place FROM seat_claims
  WHERE pool_id = :pool AND account_id = :account AND until_at IS NULL
), who AS (
  SELECT (SELECT starts FROM people WHERE id = :person) AS begins
), counts AS (
  SELECT count(*) FILTER (WHERE state = 'held') AS held,
    count(*) FILTER (WHERE state = 'waiting'
      AND (rank, coalesce(begins, date '9999-12-31'), place)
        < (:rank, coalesce((SELECT begins FROM who), date '9999-12-31'),
           coalesce((SELECT place FROM mine), 2147483647))) AS before,
    coalesce(max(place), 0) AS last
  FROM seat_claims WHERE pool_id = :pool AND until_at IS NULL
), verdict AS (
  SELECT coalesce((SELECT state = 'held' FROM mine), false) AS had, before,
    coalesce((SELECT place FROM mine), last + 1) AS place,
    :unlimited OR :overrun OR :bought - held > before AS free,
    NOT :block OR EXISTS (SELECT 1 FROM mine) AS may_wait
  FROM counts
), put AS (
  INSERT INTO seat_claims (id, pool_id, account_id, person_id, state, place, rank, begins, since_at)
  SELECT gen_random_uuid()::text, :pool, :account, :person, CASE WHEN free THEN 'held' ELSE 'waiting' END,
    CASE WHEN NOT free THEN v.place END, :rank, who.begins, :at
  FROM verdict v, who WHERE NOT had AND (free OR may_wait)
  ON CONFLICT (pool_id, account_id) WHERE until_at IS NULL DO UPDATE
  SET state = excluded.state, place = excluded.place, rank = excluded.rank, begins = excluded.begins,
    since_at = CASE WHEN excluded.state = 'held' THEN excluded.since_at ELSE seat_claims.since_at END
)
SELECT had OR free AS held, CASE WHEN had OR free OR NOT may_wait THEN 0 ELSE before + 1 END AS place FROM verdict
""")
"""A seat or a place in line, once the pool is locked: what was there then decides."""

POOLS_SQL = sa.text("""
SELECT p.*, a.name AS application_name, coalesce(c.held, 0) AS held,
  coalesce(c.waiting, 0) AS waiting
FROM pools p JOIN applications a ON a.id = p.application_id AND a.disconnected_at IS NULL
LEFT JOIN (
  SELECT pool_id, count(*) FILTER (WHERE state = 'held') AS held,
    count(*) FILTER (WHERE state = 'waiting') AS waiting
  FROM seat_claims WHERE until_at IS NULL GROUP BY pool_id
) c ON c.pool_id = p.id
ORDER BY a.name, p.license
""")
"""Every pool with how many seats of it are held and waited for."""


def _held() -> sa.Select[Any]:
    c, p = t.seat_claims.c, t.pools.c
    claim = (c.person_id, c.account_id, c.state, c.place, c.since_at)
    return (
        sa.select(*claim, p.license, p.application_id, p.price, p.currency, p.period)
        .join(t.pools, p.id == c.pool_id)
        .where(among_ids(c.person_id), c.until_at.is_(None))
        .order_by(p.application_id, p.license)
    )


HELD = _held()


PUT = ("bought", "unlimited", "price", "currency", "period", "notice_days", "reported")
NEVER = date(9999, 12, 31)


class Seats:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def lines(self) -> Sequence[PoolLine]:
        rows = (await self.connection.execute(POOLS_SQL)).mappings()
        return [read(PoolLine, r) for r in rows]

    async def pools(self) -> dict[tuple[str, str], Pool]:
        rows = (await self.connection.execute(POOLS_SQL)).mappings()
        return {(r["application_id"], r["license"]): read(Pool, r) for r in rows}

    async def put(self, pool: Pool) -> None:
        values = {name: getattr(pool, name) for name in PUT}
        statement = insert(t.pools).values(
            id=pool.id, application_id=pool.application_id, license=pool.license, **values
        )
        await self.connection.execute(
            statement.on_conflict_do_update(
                index_elements=["application_id", "license"], set_=values
            )
        )

    async def hold(self, application_id: str, license: str) -> None:
        await self.connection.execute(LOCK_SQL, {"application": application_id, "license": license})

    async def report(self, pool_id: str, count: int) -> None:
        p = t.pools
        await self.connection.execute(sa.update(p).where(p.c.id == pool_id).values(reported=count))

    async def remove(self, pool_id: str) -> None:
        c, p = t.seat_claims, t.pools
        await self.connection.execute(sa.delete(c).where(c.c.pool_id == pool_id))
        await self.connection.execute(sa.delete(p).where(p.c.id == pool_id))

    async def purchases(self, pool_ids: Collection[str] = ()) -> Sequence[Purchase]:
        b = t.purchases
        query = sa.select(b).order_by(b.c.begins.nulls_first(), b.c.ends.nulls_last(), b.c.id)
        if pool_ids:
            query = query.where(b.c.pool_id.in_(pool_ids))
        return read_all(Purchase, await self.connection.execute(query))

    async def buy(self, purchase: Purchase) -> None:
        values = asdict(purchase)
        statement = insert(t.purchases).values(**values)
        await self.connection.execute(
            statement.on_conflict_do_update(index_elements=["id"], set_=values)
        )

    async def unbuy(self, pool_id: str, purchase_id: str) -> None:
        b, p = t.purchases, t.pools
        await self.connection.execute(sa.delete(b).where(b.c.id == purchase_id))
        left = sa.select(b.c.id).where(b.c.pool_id == pool_id).exists()
        await self.connection.execute(
            sa.update(p).where(p.c.id == pool_id, sa.not_(left)).values(bought=0)
        )

    async def terms(self, today: date) -> Mapping[str, int]:
        rows = await self.connection.execute(TERMS_SQL, {"today": today})
        return {r.id: r.bought for r in rows}

    async def claim(self, asked: Asked, license: License, at: datetime) -> Claim:
        of = {"application": asked.application_id, "license": asked.license}
        pool = (await self.connection.execute(LOCK_SQL, of)).first()
        if pool is None:
            raise NotFound(
                f"No pool holds seats of {asked.license}.", remedy="Add one: yugum seats pool."
            )
        values = {
            "pool": pool.id,
            "bought": pool.bought,
            "unlimited": pool.unlimited,
            "overrun": license.when_empty is WhenEmpty.OVERRUN,
            "block": license.when_empty is WhenEmpty.BLOCK,
            "account": asked.account_id,
            "person": asked.person_id,
            "rank": asked.rank,
            "at": at,
        }
        return read(Claim, (await self.connection.execute(CLAIM_SQL, values)).mappings().one())

    async def being_taken(self, subject_id: str, account_id: str) -> Sequence[str]:
        rows = await self.connection.scalars(
            sa.text(TAKING_SQL), {"subject": subject_id, "account": account_id}
        )
        return list(rows)

    async def ending(self, pool_id: str, now: datetime) -> Sequence[SeatEnding]:
        c, p = t.seat_claims.c, t.people.c
        query = (
            sa.select(c.person_id, p.access_ends, p.time_zone)
            .join(t.people, p.id == c.person_id)
            .where(c.pool_id == pool_id, c.until_at.is_(None), p.access_ends > now)
        )
        return read_all(SeatEnding, await self.connection.execute(query))

    async def claimed(self, pool_id: str, person_ids: Collection[str]) -> Set[str]:
        c = t.seat_claims.c
        query = sa.select(c.person_id).where(
            c.pool_id == pool_id, c.until_at.is_(None), among(c.person_id, person_ids)
        )
        return set((await self.connection.scalars(query)).all())

    async def by_department(self) -> Sequence[SeatCount]:
        return read_all(SeatCount, await self.connection.execute(DEPARTMENTS_SQL))

    async def past(self, pool_id: str, days: Sequence[date]) -> Sequence[int]:
        rows = await self.connection.scalars(PAST_SQL, {"pool": pool_id, "days": list(days)})
        return list(rows)

    async def give_up(self, person_ids: Collection[str], at: datetime) -> int:
        values = {"ids": to_array(person_ids), "at": at}
        return int((await self.connection.execute(sa.text(GIVE_UP_SQL), values)).rowcount)

    async def serve(self, *, asleep: bool = False) -> int:
        values = {"asleep": asleep}
        return int((await self.connection.execute(sa.text(SERVE_SQL), values)).rowcount)

    async def holders(self, pool_id: str, cursor: str | None, limit: int) -> ListPage[SeatHolder]:
        """Who holds a seat of a pool, and who waits for one.

        Raises:
            NotFound: there is no such pool.
        """
        c, pool = t.seat_claims.c, t.pools.c.id
        if await self.connection.scalar(sa.select(pool).where(pool == pool_id)) is None:
            raise NotFound(f"There is no pool {pool_id}.", remedy="See: yugum seats list.")
        select = (
            sa.select(
                c.id,
                c.account_id,
                c.person_id,
                c.state,
                c.place,
                c.since_at,
                t.people.c.display_name.label("person_name"),
                t.accounts.c.login,
                t.accounts.c.state.label("account_state"),
            )
            .select_from(t.seat_claims.outerjoin(t.people, t.people.c.id == c.person_id))
            .outerjoin(t.accounts, t.accounts.c.id == c.account_id)
            .where(c.pool_id == pool_id, c.until_at.is_(None))
        )
        return await fetch(
            self.connection,
            select,
            [
                sa.case((c.state == "waiting", 0), else_=1),
                c.rank,
                sa.func.coalesce(c.begins, NEVER),
                sa.func.coalesce(c.place, 0),
                c.id,
            ],
            reader(SeatHolder),
            cursor=cursor,
            limit=limit,
            count=cursor is None,
        )

    async def held_by(self, person_ids: Sequence[str]) -> Sequence[SeatOf]:
        return read_all(SeatOf, await self.connection.execute(HELD, {"ids": list(person_ids)}))

    async def reconcile(self, application_id: str, at: datetime) -> None:
        """After a reading: claims follow the seats that were seen, and who waits for one is served."""
        await self.connection.execute(
            sa.text(RECONCILE_SQL), {"application": application_id, "at": at}
        )
        await self.serve()
