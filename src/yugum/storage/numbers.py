"""Numbers that accounts get in applications which know them by number."""

from __future__ import annotations

import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

TAKE_SQL = sa.text("""
INSERT INTO numbers AS n (application_id, account_id, number)
SELECT :application, :account, greatest(:low, :beyond + 1, max(number) + 1)
FROM numbers WHERE application_id = :application
HAVING greatest(:low, :beyond + 1, max(number) + 1) <= :high
ON CONFLICT (application_id, account_id) DO UPDATE SET
  number = CASE WHEN n.number > :beyond THEN n.number ELSE excluded.number END
RETURNING number
""")
"""Numbers only rise: what was given or seen before is the floor of the next.

A number that is given up for one further on stays below that floor.
"""
SEEN = ""
"""The account of the row that holds the highest number an application was seen to use."""
SEEN_SQL = sa.text(f"""
INSERT INTO numbers AS n (application_id, account_id, number)
SELECT :application, '{SEEN}', :number
WHERE NOT EXISTS (SELECT 1 FROM numbers WHERE application_id = :application AND number >= :number)
ON CONFLICT (application_id, account_id) DO UPDATE SET number = excluded.number
""")
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

    async def seen(self, application_id: str, number: int) -> None:
        await self.connection.execute(LOCK_SQL, {"application": application_id})
        await self.connection.execute(SEEN_SQL, {"application": application_id, "number": number})
