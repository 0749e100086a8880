"""What the day makes of pools: seats by the terms of what was bought, and what is set aside."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date, datetime

import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

TERMS_SQL = sa.text("""
UPDATE pools p SET bought = x.bought, maybe_over = true
FROM (SELECT p.id, coalesce(sum(b.count) FILTER (WHERE coalesce(b.begins, :today) <= :today
    AND coalesce(b.ends, :today) >= :today), 0) AS bought
  FROM pools p JOIN purchases b ON b.pool_id = p.id GROUP BY p.id) x
WHERE x.id = p.id AND p.bought <> x.bought
RETURNING p.id, p.bought
""")
"""A pool has the seats whose term has begun and is not over."""

OVER_SQL = sa.text("""
UPDATE pools p SET maybe_over = true
FROM (SELECT pool_id, count(*) AS held FROM seat_claims WHERE state = 'held' AND until_at IS NULL GROUP BY 1) h
WHERE h.pool_id = p.id AND h.held > p.bought AND NOT p.maybe_over AND NOT p.unlimited
""")
MAYBE_SQL = sa.text("SELECT id FROM pools WHERE maybe_over ORDER BY id FOR UPDATE SKIP LOCKED")
COUNTED_SQL = sa.text("""
UPDATE pools p SET maybe_over = false WHERE p.id = ANY (:ids) AND (p.unlimited OR p.bought >= (
  SELECT count(*) FROM seat_claims c WHERE c.pool_id = p.id AND c.state = 'held' AND c.until_at IS NULL))
""")
"""The mark is taken from a pool once nobody else claims of it: a claim that is not seen sets it again."""

OPEN_SQL = sa.text("""
UPDATE reservations r SET open = x.open
FROM (SELECT r.id, coalesce(r.begins, :today) <= :today AND r.ends >= :today AND r.taken < r.count
    AND (p.access_ends IS NULL OR p.access_ends > :now)
    AND NOT EXISTS (SELECT 1 FROM seat_claims h WHERE h.pool_id = r.pool_id AND h.person_id = r.person_id
      AND h.state = 'held' AND h.until_at IS NULL) AS open
  FROM reservations r LEFT JOIN people p ON p.id = r.person_id
  WHERE r.open OR r.taken < r.count AND r.ends >= :today) x
WHERE x.id = r.id AND r.open <> x.open
""")
"""A reservation is in force for its days, as long as who it is for is to have access and has no seat."""

NAMED_SQL = sa.text("""
UPDATE seat_claims w SET reservation_id = x.reservation_id FROM (
  SELECT c.id, r.id AS reservation_id FROM seat_claims c JOIN reservations r ON r.person_id = c.person_id
    AND r.pool_id = c.pool_id AND r.open AND r.taken < r.count
  WHERE c.state = 'waiting' AND c.until_at IS NULL AND NOT EXISTS (SELECT 1 FROM reservations o
    WHERE o.id = c.reservation_id AND o.open AND o.taken < o.count AND o.person_id = c.person_id)
  FOR UPDATE OF c SKIP LOCKED) x
WHERE w.id = x.id
""")
"""Whoever asked while what is theirs by name was not in force (they had left, or it had not begun) waits with it now.
Who is asking at this moment is left to the next time: their claim waits for the reservations that are locked here."""


async def put_right(connection: AsyncConnection, today: date, now: datetime) -> Mapping[str, int]:
    """Bring pools in step with a day; those with other seats now. Pools are locked before reservations, like a
    claim does."""
    rows = (await connection.execute(TERMS_SQL, {"today": today})).all()
    await connection.execute(OPEN_SQL, {"today": today, "now": now})
    await connection.execute(NAMED_SQL)
    return {r.id: r.bought for r in rows}


async def mark_over(connection: AsyncConnection) -> None:
    """Mark the pools of which more are held than were bought, and no others."""
    await connection.execute(OVER_SQL)
    maybe = list((await connection.scalars(MAYBE_SQL)).all())
    await connection.execute(COUNTED_SQL, {"ids": maybe})
