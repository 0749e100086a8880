"""How many findings there were, day by day."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.findings import FindingCount, FindingDay
from yugum.ports.pages import ListPage
from yugum.storage import tables as t
from yugum.storage.pages import fetch
from yugum.storage.rows import reader


class FindingDays:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def is_kept(self, day: date) -> bool:
        d = t.finding_days.c.day
        return bool(await self.connection.scalar(sa.select(sa.exists().where(d == day))))

    async def keep_counts(self, day: date, counts: Sequence[FindingCount]) -> None:
        d = t.finding_days.c
        new = insert(t.finding_days).values(
            day=day,
            counts={c.kind.value: c.count for c in counts},
            over=sorted(c.kind.value for c in counts if c.over),
        )
        now = new.excluded
        again = new.on_conflict_do_update(
            index_elements=[d.day],
            set_={"counts": now.counts, "over": now.over},
            where=sa.tuple_(d.counts, d.over) != sa.tuple_(now.counts, now.over),
        )
        await self.connection.execute(again)

    async def days(
        self, begin: date, end: date, cursor: str | None, limit: int
    ) -> ListPage[FindingDay]:
        d = t.finding_days.c
        return await fetch(
            self.connection,
            sa.select(t.finding_days).where(d.day >= begin, d.day <= end),
            [d.day],
            reader(FindingDay),
            cursor=cursor,
            limit=limit,
            count=cursor is None,
        )
