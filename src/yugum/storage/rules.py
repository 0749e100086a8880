"""Rules as numbered versions; the newest is in force."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime
from typing import Any

import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.errors import NotFound
from yugum.storage import tables as t
from yugum.storage.pages import Page, Row, fetch


class RulesStore:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def current(self) -> tuple[int, Mapping[str, Any], datetime | None]:
        """The version in force: its number, document, and when it was adopted."""
        query = sa.select(t.rules).order_by(t.rules.c.version.desc()).limit(1)
        row = (await self.connection.execute(query)).mappings().first()
        return (row["version"], row["document"], row["adopted_at"]) if row else (0, {}, None)

    async def version(self, number: int) -> Row:
        """One version: its number, text, document, and who adopted it when.

        Raises:
            NotFound: there is no such version.
        """
        query = sa.select(t.rules).where(t.rules.c.version == number)
        row = (await self.connection.execute(query)).mappings().first()
        if row is None:
            raise NotFound(f"There are no rules of version {number}.")
        return {str(k): v for k, v in row.items()}

    async def adopt(self, document: Row, text: str, at: datetime, by: str, note: str) -> int:
        """Store the next version; two adoptions at once get two numbers."""
        await self.connection.execute(sa.text("LOCK TABLE rules IN SHARE ROW EXCLUSIVE MODE"))
        version = (await self.current())[0] + 1
        await self.connection.execute(
            sa.insert(t.rules).values(
                version=version,
                document=dict(document),
                text=text,
                renewed_upto="",
                adopted_at=at,
                adopted_by=by,
                note=note,
            )
        )
        return version

    async def to_renew(self) -> tuple[int, str] | None:
        """The newest version and how far people's obligations were renewed under it.

        None when that is done, or another worker is at it; locked for this transaction otherwise.
        """
        r = t.rules
        query = (
            sa.select(r.c.version, r.c.renewed_upto)
            .where(r.c.version == sa.select(sa.func.max(r.c.version)).scalar_subquery())
            .where(r.c.renewed_upto.isnot(None))
            .with_for_update(skip_locked=True)
        )
        row = (await self.connection.execute(query)).first()
        return (row.version, row.renewed_upto) if row else None

    async def renew_all(self) -> None:
        """Let everybody's obligations be renewed under the version in force, from the start."""
        r = t.rules
        newest = sa.select(sa.func.max(r.c.version)).scalar_subquery()
        await self.connection.execute(
            sa.update(r).where(r.c.version == newest).values(renewed_upto="")
        )

    async def renewed(self, version: int, upto: str | None) -> None:
        r = t.rules
        await self.connection.execute(
            sa.update(r).where(r.c.version == version).values(renewed_upto=upto)
        )

    async def page(self, cursor: str | None, limit: int) -> Page:
        return await fetch(
            self.connection,
            sa.select(t.rules),
            [t.rules.c.version],
            cursor=cursor,
            limit=limit,
            descending=True,
        )
