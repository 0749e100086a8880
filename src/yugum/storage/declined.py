"""People who were declined before they began: taken out, with what was said of them on record."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict

import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.errors import Conflict
from yugum.ports.declined import Declined
from yugum.ports.pages import ListPage
from yugum.storage import merging
from yugum.storage import tables as t
from yugum.storage.pages import fetch
from yugum.storage.rows import read_all, reader, statement, to_json

ON_RECORD = frozenset({"dockets", "steps", "tasks", "approvals", "mails"})
"""What was planned, asked and told of them stays."""

BEGUN_SQL = """
SELECT EXISTS (SELECT 1 FROM dockets WHERE subject_id = :gone
  AND state NOT IN ('awaiting', 'scheduled', 'cancelled'))
"""

LIKE_SQL = """
SELECT d.* FROM jsonb_to_recordset(cast(:rows AS jsonb)) AS r(user_name text, employee_number text)
CROSS JOIN LATERAL (
  SELECT * FROM declined WHERE user_name = r.user_name
  UNION SELECT * FROM declined WHERE r.employee_number <> '' AND employee_number = r.employee_number
) d ORDER BY d.at DESC, d.id
"""


class DeclinedPeople:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def decline(self, one: Declined) -> None:
        run, gone = self.connection.execute, {"gone": one.id}
        await run(sa.text("SELECT id FROM subjects WHERE id = :gone FOR UPDATE"), gone)
        if await self.begun(one.id):
            raise Conflict(
                f"Something was carried out for {one.display_name} already.",
                remedy=f"Use: yugum leaver {one.user_name}, or put the first day off.",
            )
        await run(sa.insert(t.declined).values(asdict(one)))
        for column, _ in merging.columns():
            table, name = column.table.name, column.name
            if table in ON_RECORD:
                continue
            if column.nullable:
                await run(sa.text(f"UPDATE {table} SET {name} = NULL WHERE {name} = :gone"), gone)
            else:
                await run(sa.text(f"DELETE FROM {table} WHERE {name} = :gone"), gone)
        for owner in (t.people, t.subjects):
            await run(sa.delete(owner).where(owner.c.id == one.id))

    async def begun(self, person_id: str) -> bool:
        return bool(await self.connection.scalar(statement(BEGUN_SQL), {"gone": person_id}))

    async def like(self, named: Sequence[tuple[str, str]]) -> Sequence[Declined]:
        rows = [{"user_name": login, "employee_number": number} for login, number in named]
        found = await self.connection.execute(statement(LIKE_SQL), {"rows": to_json(rows)})
        return read_all(Declined, found)

    async def page(self, cursor: str | None, limit: int) -> ListPage[Declined]:
        d = t.declined.c
        return await fetch(
            self.connection,
            sa.select(t.declined),
            [d.at, d.id],
            reader(Declined),
            cursor=cursor,
            limit=limit,
            descending=True,
            count=cursor is None,
        )
