"""Numbers that accounts get in applications which know them by number."""

from __future__ import annotations

from collections.abc import Iterable

import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

TAKE_SQL = sa.text("""
WITH first AS (
  SELECT greatest(:low, :beyond + 1, coalesce(max(number) + 1, 0)) AS number FROM numbers
  WHERE application_id = :application AND account_id IS NOT NULL
), free AS (
  SELECT min(c.number) AS number FROM (
    SELECT number FROM first
    UNION ALL SELECT n.number + 1 FROM numbers n, first f
    WHERE n.application_id = :application AND n.number >= f.number
  ) c
  WHERE c.number <= :high AND NOT EXISTS (SELECT 1 FROM numbers n
    WHERE n.application_id = :application AND n.number = c.number)
)
INSERT INTO numbers AS n (application_id, account_id, number)
SELECT :application, :account, number FROM free WHERE number IS NOT NULL
ON CONFLICT (application_id, account_id) DO UPDATE SET
  number = CASE WHEN n.number > :beyond THEN n.number ELSE excluded.number END
RETURNING number
""")
"""What is given only rises, past what the application was seen to use itself.

A number that is given up for one further on stays below what was given last.
"""
SEEN_SQL = sa.text("""
INSERT INTO numbers (application_id, number)
SELECT :application, unnest(cast(:numbers AS bigint[]))
ON CONFLICT (application_id, number) DO NOTHING
""")
"""Those that were given stand there already, with their account."""
LOCK_SQL = sa.text("SELECT pg_advisory_xact_lock(hashtextextended('numbers ' || :application, 0))")


class Numbers:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def take(
        self, application_id: str, account_id: str, low: int, high: int, beyond: int
    ) -> int | None:
        await self.connection.execute(LOCK_SQL, {"application": application_id})
        values = {
            "application": application_id,
            "account": account_id,
            "low": low,
            "high": high,
            "beyond": beyond,
        }
        number = await self.connection.scalar(TAKE_SQL, values)
        return None if number is None else int(number)

    async def seen(self, application_id: str, numbers: Iterable[int]) -> None:
        await self.connection.execute(LOCK_SQL, {"application": application_id})
        values = {"application": application_id, "numbers": sorted(numbers)}
        await self.connection.execute(SEEN_SQL, values)
