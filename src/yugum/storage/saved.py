"""Views of lists, as operators keep and share them."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.exc import IntegrityError
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.views import ListName, SavedView
from yugum.errors import Conflict, NotFound
from yugum.ports.pages import ListPage
from yugum.ports.saved import ViewLine
from yugum.storage import tables as t
from yugum.storage.pages import fetch
from yugum.storage.rows import read, reader


class SavedViews:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    def _seen(self, operator_id: str) -> sa.Select[Any]:
        v, s = t.views.c, t.starts.c
        mine = sa.exists().where(s.operator_id == operator_id, s.view_id == v.id).correlate(t.views)
        return (
            sa.select(t.views, t.operators.c.login.label("owner"), mine.label("start"))
            .join(t.operators, t.operators.c.id == v.operator_id)
            .where(sa.or_(v.operator_id == operator_id, v.shared))
        )

    async def page(
        self, operator_id: str, page: ListName | None, cursor: str | None, limit: int
    ) -> ListPage[ViewLine]:
        v, query = t.views.c, self._seen(operator_id)
        if page:
            query = query.where(v.page == page.value)
        return await fetch(
            self.connection,
            query,
            [v.page, v.name, v.id],
            reader(ViewLine),
            cursor=cursor,
            limit=limit,
            count=cursor is None,
        )

    async def kept_by(self, operator_id: str) -> int:
        v = t.views
        query = sa.select(sa.func.count()).select_from(v).where(v.c.operator_id == operator_id)
        return int(await self.connection.scalar(query) or 0)

    async def one(self, view_id: str, operator_id: str) -> ViewLine:
        query = self._seen(operator_id).where(t.views.c.id == view_id)
        row = (await self.connection.execute(query)).mappings().first()
        if row is None:
            raise NotFound("There is no such view.", remedy="See: yugum views list.")
        return read(ViewLine, row)

    async def start_of(self, operator_id: str) -> ViewLine | None:
        s = t.starts.c
        query = self._seen(operator_id).join(
            t.starts, sa.and_(s.view_id == t.views.c.id, s.operator_id == operator_id)
        )
        row = (await self.connection.execute(query)).mappings().first()
        return read(ViewLine, row) if row else None

    async def put(self, view: SavedView) -> None:
        made = insert(t.views).values({**asdict(view), "page": view.page.value})
        changed = {
            name: made.excluded[name]
            for name in ("name", "query", "columns", "shared", "changed_at")
        }
        try:
            async with self.connection.begin_nested():
                await self.connection.execute(
                    made.on_conflict_do_update(index_elements=["id"], set_=changed)
                )
        except IntegrityError as error:
            raise Conflict(
                f"You have another view of this list called {view.name}.",
                place="name",
                remedy="Choose another name, or change that one.",
            ) from error

    async def drop(self, view_id: str) -> None:
        await self.connection.execute(sa.delete(t.views).where(t.views.c.id == view_id))

    async def start(self, operator_id: str, view_id: str | None) -> None:
        if view_id is None:
            s = t.starts
            await self.connection.execute(sa.delete(s).where(s.c.operator_id == operator_id))
            return
        made = insert(t.starts).values(operator_id=operator_id, view_id=view_id)
        await self.connection.execute(
            made.on_conflict_do_update(index_elements=["operator_id"], set_={"view_id": view_id})
        )
