"""Rules as numbered versions; the newest is in force."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime
from typing import Any

import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.storage import tables as t
from yugum.storage.pages import Page, Row, fetch


class RulesStore:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def current(self) -> tuple[int, Mapping[str, Any]]:
        query = sa.select(t.rules).order_by(t.rules.c.version.desc()).limit(1)
        row = (await self.connection.execute(query)).mappings().first()
        return (row["version"], row["document"]) if row else (0, {})

    async def adopt(self, document: Row, at: datetime, by: str, note: str) -> int:
        """Store the next version; two adoptions at once get two numbers."""
        await self.connection.execute(sa.text("LOCK TABLE rules IN SHARE ROW EXCLUSIVE MODE"))
        version = (await self.current())[0] + 1
        await self.connection.execute(
            sa.insert(t.rules).values(
                version=version, document=dict(document), adopted_at=at, adopted_by=by, note=note
            )
        )
        return version

    async def page(self, cursor: str | None, limit: int) -> Page:
        return await fetch(
            self.connection,
            sa.select(t.rules),
            [t.rules.c.version],
            cursor=cursor,
            limit=limit,
            descending=True,
        )
