"""Rules as numbered versions; the newest is in force."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.errors import NotFound
from yugum.ports.pages import ListPage
from yugum.ports.rules import RulesVersion
from yugum.storage import tables as t
from yugum.storage.pages import fetch
from yugum.storage.rows import read, read_all, reader

COLUMNS = (
    t.rules.c.version,
    sa.cast(t.rules.c.document, sa.Text).label("document"),
    t.rules.c.text,
    t.rules.c.adopted_at,
    t.rules.c.adopted_by,
    t.rules.c.note,
)


CURRENT = sa.select(*COLUMNS).order_by(t.rules.c.version.desc()).limit(1)


class Rules:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def current(self) -> RulesVersion | None:
        row = (await self.connection.execute(CURRENT)).mappings().first()
        return read(RulesVersion, row) if row else None

    async def version(self, number: int) -> RulesVersion:
        query = sa.select(*COLUMNS).where(t.rules.c.version == number)
        row = (await self.connection.execute(query)).mappings().first()
        if row is None:
            raise NotFound(f"There are no rules of version {number}.")
        return read(RulesVersion, row)

    async def adopt(self, document: str, text: str, at: datetime, by: str, note: str) -> int:
        await self.connection.execute(sa.text("LOCK TABLE rules IN SHARE ROW EXCLUSIVE MODE"))
        newest = await self.connection.scalar(sa.select(sa.func.max(t.rules.c.version)))
        version = (newest or 0) + 1
        await self.connection.execute(
            sa.insert(t.rules).values(
                version=version,
                document=sa.cast(sa.literal(document, sa.Text), JSONB),
                text=text,
                adopted_at=at,
                adopted_by=by,
                note=note,
            )
        )
        return version

    async def before(self, version: int) -> Sequence[RulesVersion]:
        query = sa.select(*COLUMNS).where(t.rules.c.version < version).order_by(t.rules.c.version)
        return read_all(RulesVersion, await self.connection.execute(query))

    async def page(self, cursor: str | None, limit: int) -> ListPage[RulesVersion]:
        return await fetch(
            self.connection,
            sa.select(*COLUMNS),
            [t.rules.c.version],
            reader(RulesVersion),
            cursor=cursor,
            limit=limit,
            descending=True,
        )
