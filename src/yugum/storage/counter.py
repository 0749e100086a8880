"""A pool's counts read under its lock, and what was given out written in one statement."""

from __future__ import annotations

from collections.abc import Collection
from datetime import datetime

import msgspec
import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.counter import Counter
from yugum.ports.seats import LockedPool
from yugum.storage.aside import GIVEN
from yugum.storage.rows import to_array, to_json

STAND_SQL = sa.text(f"""
WITH live AS MATERIALIZED (
  SELECT account_id, state, place, rank, begins, reservation_id FROM seat_claims
  WHERE pool_id = :pool AND until_at IS NULL
), mine AS (
  SELECT * FROM live WHERE account_id = ANY(cast(:accounts AS text[]))
), line AS (
  SELECT rank, begins, reservation_id, count(*) AS count,
    CASE WHEN place <= (SELECT max(place) FROM mine) THEN place END AS place
  FROM live WHERE state = 'waiting' GROUP BY 1, 2, 3, 5
)
SELECT (SELECT count(*) FROM live WHERE state = 'held') AS held,
  (SELECT coalesce(max(place), 0) FROM live) AS last,
  (SELECT coalesce(jsonb_agg(to_jsonb(line)), '[]') FROM line) AS line,
  (SELECT coalesce(jsonb_object_agg(account_id, to_jsonb(mine)), '{{}}') FROM mine) AS stands,
  (SELECT coalesce(jsonb_object_agg(id, starts), '{{}}') FROM people
    WHERE id = ANY(cast(:people AS text[])) AND starts IS NOT NULL) AS begins,
  (SELECT coalesce(jsonb_agg(jsonb_build_object('id', r.id, 'who', r.who, 'person_id', r.person_id,
      'left', r.count - r.taken, 'given', {GIVEN})
    ORDER BY NOT {GIVEN}, r.person_id, r.made_at, r.id), '[]')
    FROM reservations r WHERE r.pool_id = :pool AND r.open AND r.taken < r.count) AS asides
""")
"""Read after the lock is held, so that all that was given out before is in it. Places one by one are told only
as far as somebody of ``accounts`` stands. What can be taken now comes before what is still with its holder, and
then by name first."""

GIVE_SQL = sa.text("""
WITH put AS (
  INSERT INTO seat_claims (id, pool_id, account_id, person_id, state, place, rank, begins, reservation_id, since_at)
  SELECT gen_random_uuid()::text, :pool, x.account_id, x.person_id, x.state, x.place, x.rank, x.begins,
    x.reservation_id, :at
  FROM jsonb_to_recordset(cast(:rows AS jsonb)) AS x(account_id text, person_id text, state text, place int,
    rank int, begins date, reservation_id text)
  ON CONFLICT (pool_id, account_id) WHERE until_at IS NULL DO UPDATE
  SET state = excluded.state, place = excluded.place, rank = excluded.rank, begins = excluded.begins,
    reservation_id = excluded.reservation_id,
    since_at = CASE WHEN excluded.state = 'held' THEN excluded.since_at ELSE seat_claims.since_at END
), over AS (
  UPDATE pools SET maybe_over = true WHERE id = :pool AND :over AND NOT maybe_over
)
UPDATE reservations r SET taken = r.taken + u.count
FROM jsonb_to_recordset(cast(:used AS jsonb)) AS u(id text, count int) WHERE r.id = u.id
""")


async def read_counter(
    connection: AsyncConnection,
    pool: LockedPool,
    accounts: Collection[str],
    people: Collection[str],
) -> Counter:
    """A pool that is locked, for accounts that ask, with the first days of their people."""
    values = {"pool": pool.id, "accounts": to_array(accounts), "people": to_array(people)}
    row = (await connection.execute(STAND_SQL, values)).mappings().one()
    found = {"id": pool.id, "bought": pool.bought, "unlimited": pool.unlimited, **row}
    return msgspec.convert({str(n): v for n, v in found.items()}, Counter)


async def write_counter(connection: AsyncConnection, counter: Counter, at: datetime) -> None:
    """What was given out since the counter was read."""
    if not counter.changed:
        return
    rows = [
        {
            "account_id": asked.account_id,
            "person_id": asked.person_id,
            "state": stand.state.value,
            "place": stand.place,
            "rank": stand.rank,
            "begins": stand.begins,
            "reservation_id": stand.reservation_id,
        }
        for asked, stand in counter.changed.values()
    ]
    used = [{"id": i, "count": n} for i, n in counter.used.items()]
    values = {"pool": counter.id, "at": at, "over": counter.over}
    await connection.execute(GIVE_SQL, {**values, "rows": to_json(rows), "used": to_json(used)})
