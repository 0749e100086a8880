"""Equipment and keys that people have."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict
from datetime import datetime

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.errors import NotFound
from yugum.ports.equipment import Thing, ThingLine
from yugum.ports.pages import ListPage
from yugum.storage import tables as t
from yugum.storage.pages import fetch
from yugum.storage.rows import among, read, reader


class Equipment:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def put(self, thing: Thing) -> None:
        """A new one, or another name or holder for one that is known."""
        made = insert(t.equipment).values(**asdict(thing))
        new, e = made.excluded, t.equipment.c
        same = e.holder_id.is_not_distinct_from(new.holder_id)
        changed = {
            "name": new.name,
            "holder_id": new.holder_id,
            "since": sa.case((same, e.since), else_=new.since),
        }
        await self.connection.execute(
            made.on_conflict_do_update(index_elements=["id"], set_=changed)
        )

    async def one(self, thing_id: str) -> Thing:
        query = sa.select(t.equipment).where(t.equipment.c.id == thing_id)
        row = (await self.connection.execute(query)).mappings().first()
        if row is None:
            raise _none(thing_id)
        return read(Thing, row)

    async def drop(self, thing_id: str) -> None:
        gone = await self.connection.execute(
            sa.delete(t.equipment).where(t.equipment.c.id == thing_id)
        )
        if not gone.rowcount:
            raise _none(thing_id)

    async def page(
        self,
        *,
        holder_id: str | None,
        due_by: datetime | None,
        q: str,
        cursor: str | None,
        limit: int,
    ) -> ListPage[ThingLine]:
        e, p = t.equipment.c, t.people.c
        query = sa.select(
            t.equipment, p.display_name, p.user_name, p.last_working_day, p.access_ends
        ).select_from(t.equipment.outerjoin(t.people, p.id == e.holder_id))
        if holder_id is not None:
            query = query.where(e.holder_id == holder_id)
        if due_by is not None:
            leaves = sa.or_(p.access_ends <= due_by, p.last_working_day <= due_by.date())
            query = query.where(leaves)
        if q:
            query = query.where(
                sa.or_(e.name.icontains(q, autoescape=True), e.id.icontains(q, autoescape=True))
            )
        return await fetch(
            self.connection,
            query,
            [e.name, e.id],
            reader(ThingLine),
            cursor=cursor,
            limit=limit,
            count=cursor is None,
        )

    async def held_by(self, person_ids: Sequence[str]) -> Mapping[str, Sequence[str]]:
        """What each of some people has, as ``name (id)``."""
        e = t.equipment.c
        query = (
            sa.select(e.holder_id, e.name, e.id)
            .where(among(e.holder_id, person_ids))
            .order_by(e.name, e.id)
        )
        found: dict[str, list[str]] = {}
        for holder, name, thing_id in await self.connection.execute(query):
            found.setdefault(holder, []).append(f"{name} ({thing_id})")
        return found


def _none(thing_id: str) -> NotFound:
    return NotFound(f"Nothing is called {thing_id}.", remedy="See: yugum equipment list.")
