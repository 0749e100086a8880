"""Initial credentials: encrypted, shown once through a link, then erased."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime
from typing import Any

import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.errors import Conflict, NotFound
from yugum.storage import tables as t


class Credentials:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def link(self, account_id: str, link_hash: str, seconds: float) -> Mapping[str, Any]:
        """Put a new one-time link on the newest unopened credential; an earlier link dies."""
        c = t.credentials
        newest = (
            sa.select(c.c.id)
            .where(c.c.account_id == account_id)
            .order_by(c.c.created.desc())
            .limit(1)
            .scalar_subquery()
        )
        row = (
            (
                await self.connection.execute(
                    sa.update(c)
                    .where(c.c.id == newest, c.c.cipher.isnot(None))
                    .values(
                        link_hash=link_hash,
                        expires=sa.func.now() + sa.func.make_interval(0, 0, 0, 0, 0, 0, seconds),
                    )
                    .returning(c.c.id, c.c.expires)
                )
            )
            .mappings()
            .first()
        )
        if row is None:
            raise Conflict(
                "No unopened initial credential is kept for this account.",
                remedy="It was opened already, or none was set. Set a new one.",
            )
        return dict(row)

    async def open(self, link_hash: str, at: datetime) -> Mapping[str, Any]:
        """The encrypted credential behind a link, which with this is used up and erased."""
        c, a = t.credentials, t.accounts
        row = (
            (
                await self.connection.execute(
                    sa.select(
                        c.c.id,
                        c.c.cipher,
                        c.c.account_id,
                        a.c.login,
                        t.applications.c.name.label("application_name"),
                    )
                    .join(a, a.c.id == c.c.account_id)
                    .join(t.applications, t.applications.c.id == a.c.application_id)
                    .where(c.c.link_hash == link_hash, c.c.cipher.isnot(None))
                    .where(c.c.expires > sa.func.now())
                    .with_for_update(of=c)
                )
            )
            .mappings()
            .first()
        )
        if row is None:
            raise NotFound(
                "This link was used already, or has expired.",
                remedy="Ask whoever sent it for a new link.",
            )
        await self.connection.execute(
            sa.update(c)
            .where(c.c.id == row["id"])
            .values(cipher=None, link_hash=None, opened_at=at)
        )
        return dict(row)
