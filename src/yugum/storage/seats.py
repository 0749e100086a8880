"""Seats: who holds one, who waits, and the lock under which both are decided."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence, Set
from dataclasses import asdict
from datetime import date, datetime
from typing import Any

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.actions import Action
from yugum.core.counter import Counter
from yugum.core.seats import Pool, Purchase
from yugum.errors import NotFound
from yugum.ports.pages import ListPage
from yugum.ports.seats import (
    LockedPool,
    PoolLine,
    SeatCount,
    SeatHolder,
    SeatOf,
)
from yugum.storage import tables as t
from yugum.storage.aside import ASIDE
from yugum.storage.counter import read_counter, write_counter
from yugum.storage.pages import fetch
from yugum.storage.rows import among, among_ids, read, read_all, reader, statement, to_array
from yugum.storage.terms import mark_over, put_right

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
MAYBE_OVER_SQL = sa.text("""
UPDATE pools p SET maybe_over = true WHERE p.application_id = :application AND NOT p.maybe_over AND NOT p.unlimited
  AND p.bought < (SELECT count(*) FROM seat_claims c
    WHERE c.pool_id = p.id AND c.state = 'held' AND c.until_at IS NULL)
""")

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

UNDER_WAY_SQL = sa.text("""
SELECT s.action, s.item FROM dockets d JOIN steps s ON s.docket_id = d.id
WHERE d.subject_id = :subject AND d.state = 'running' AND s.account_id = :account
  AND s.action IN ('take_seat', 'transfer') AND s.state NOT IN ('done', 'left_out')
""")

DEPARTMENTS_SQL = sa.text("""
SELECT coalesce(p.department, '') AS department, c.pool_id, count(*) AS seats
FROM seat_claims c LEFT JOIN people p ON p.id = c.person_id
WHERE c.until_at IS NULL AND c.state = 'held' GROUP BY 1, 2 ORDER BY 1, 2
""")

LINE = "rank, begins NULLS LAST, place"
"""The order of a line: the stated priority, then who begins first, then who came first."""

SERVE_SQL = f"""
WITH aside AS (
  SELECT r.id, r.pool_id, r.count - r.taken AS seats FROM reservations r WHERE {ASIDE}
), line AS (
  SELECT person_id, pool_id, promised,
    row_number() OVER (PARTITION BY pool_id, promised ORDER BY {LINE}) AS n
  FROM (SELECT w.*, EXISTS (SELECT 1 FROM aside a WHERE a.id = w.reservation_id) AS promised
    FROM seat_claims w WHERE w.state = 'waiting' AND w.until_at IS NULL) w
), pool AS (
  SELECT p.id, p.unlimited, p.bought - (SELECT count(*) FROM seat_claims h
    WHERE h.pool_id = p.id AND h.until_at IS NULL AND h.state = 'held') AS spare,
    coalesce((SELECT sum(seats) FROM aside a WHERE a.pool_id = p.id), 0) AS aside
  FROM pools p WHERE p.id IN (SELECT pool_id FROM line)
)
UPDATE subjects SET wake_at = clock_timestamp() WHERE id IN (
  SELECT s.id FROM subjects s WHERE s.id IN (
    SELECT l.person_id FROM line l JOIN pool p ON p.id = l.pool_id
    WHERE p.unlimited OR l.n <= p.spare - CASE WHEN l.promised THEN 0 ELSE p.aside END)
  AND (s.wake_at IS NULL OR NOT :asleep AND s.wake_at > clock_timestamp())
  ORDER BY s.id FOR UPDATE SKIP LOCKED)
"""
"""As many from the head of each line as seats are free, and for whom one is set aside; each claims its own under
the pool's lock."""

LOCK_SQL = sa.text("""
SELECT id, bought, unlimited FROM pools
WHERE application_id = :application AND license = :license FOR UPDATE
""")


def _pools(some: str = "", of: str = "") -> sa.TextClause:
    """Every pool, or ``some``, with how many seats of it are held, set aside and waited for."""
    return sa.text(f"""
SELECT p.*, a.name AS application_name, coalesce(c.held, 0) AS held,
  coalesce(c.waiting, 0) AS waiting, coalesce(x.seats, 0) AS reserved
FROM pools p JOIN applications a ON a.id = p.application_id AND a.disconnected_at IS NULL
LEFT JOIN (
  SELECT pool_id, count(*) FILTER (WHERE state = 'held') AS held,
    count(*) FILTER (WHERE state = 'waiting') AS waiting
  FROM seat_claims WHERE until_at IS NULL {of} GROUP BY pool_id
) c ON c.pool_id = p.id
LEFT JOIN (
  SELECT r.pool_id, sum(r.count - r.taken) AS seats FROM reservations r WHERE {ASIDE} {of} GROUP BY r.pool_id
) x ON x.pool_id = p.id
{some} ORDER BY a.name, p.license
""")


POOLS_SQL = _pools()
POOL_SQL = _pools("WHERE p.id = :pool", "AND pool_id = :pool")


LIVE = sa.or_(t.seat_claims.c.state == "held", t.seat_claims.c.state == "waiting")
"""Each state has an index of its own."""


def _held() -> sa.Select[Any]:
    c, p = t.seat_claims.c, t.pools.c
    claim = (c.person_id, c.account_id, c.state, c.place, c.since_at)
    return (
        sa.select(*claim, p.license, p.application_id, p.price, p.currency, p.period)
        .join(t.pools, p.id == c.pool_id)
        .where(among_ids(c.person_id), c.until_at.is_(None), LIVE)
        .order_by(p.application_id, p.license)
    )


HELD = _held()


PUT = ("bought", "unlimited", "price", "currency", "period", "notice_days", "reported")
NEVER = date(9999, 12, 31)


class Seats:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def line(self, pool_id: str) -> PoolLine | None:
        found = await self.connection.execute(POOL_SQL, {"pool": pool_id})
        row = found.mappings().first()
        return None if row is None else read(PoolLine, row)

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

    async def hold(self, application_id: str, license: str) -> LockedPool | None:
        of = {"application": application_id, "license": license}
        found = (await self.connection.execute(LOCK_SQL, of)).mappings().first()
        return None if found is None else read(LockedPool, found)

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
            sa.update(p).where(p.c.id == pool_id, sa.not_(left)).values(bought=0, maybe_over=True)
        )

    async def terms(self, today: date, now: datetime) -> Mapping[str, int]:
        return await put_right(self.connection, today, now)

    async def mark_over(self) -> None:
        await mark_over(self.connection)

    async def counter(
        self, pool: LockedPool, accounts: Collection[str], people: Collection[str]
    ) -> Counter:
        return await read_counter(self.connection, pool, accounts, people)

    async def give(self, counter: Counter, at: datetime) -> None:
        await write_counter(self.connection, counter, at)

    async def under_way(self, subject_id: str, account_id: str) -> Sequence[tuple[Action, str]]:
        values = {"subject": subject_id, "account": account_id}
        rows = await self.connection.execute(UNDER_WAY_SQL, values)
        return [(Action(r.action), r.item) for r in rows]

    async def claimed(self, pool_id: str, person_ids: Collection[str]) -> Set[str]:
        c = t.seat_claims.c
        query = sa.select(c.person_id).where(
            c.pool_id == pool_id, c.until_at.is_(None), among(c.person_id, person_ids)
        )
        return set((await self.connection.scalars(query)).all())

    async def by_department(self) -> Sequence[SeatCount]:
        return read_all(SeatCount, await self.connection.execute(DEPARTMENTS_SQL))

    async def give_up(self, person_ids: Collection[str], at: datetime) -> int:
        values = {"ids": to_array(person_ids), "at": at}
        return int((await self.connection.execute(statement(GIVE_UP_SQL), values)).rowcount)

    async def serve(self, *, asleep: bool = False) -> int:
        values = {"asleep": asleep}
        return int((await self.connection.execute(statement(SERVE_SQL), values)).rowcount)

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
            statement(RECONCILE_SQL), {"application": application_id, "at": at}
        )
        await self.connection.execute(MAYBE_OVER_SQL, {"application": application_id})
        await self.serve()
