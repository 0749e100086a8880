"""Shared credentials and who knows them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict
from datetime import datetime
from typing import Any

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.conditions import fold
from yugum.errors import NotFound
from yugum.ports.pages import ListPage
from yugum.ports.shared import Knower, SharedCredential, SharedLine
from yugum.storage import tables as t
from yugum.storage.pages import fetch
from yugum.storage.rows import among, reader


class Shared:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def put(self, shared: SharedCredential, at: datetime) -> None:
        """A new one, or another name, place or owner for one that is known."""
        made = insert(t.shared).values(**asdict(shared), changed_at=at)
        changed = {k: made.excluded[k] for k in ("name", "place", "owner_id")}
        await self.connection.execute(
            made.on_conflict_do_update(index_elements=["id"], set_=changed)
        )

    async def drop(self, shared_id: str) -> None:
        await self._there(
            await self.connection.execute(sa.delete(t.shared).where(t.shared.c.id == shared_id)),
            shared_id,
        )

    async def know(self, shared_id: str, person_ids: Sequence[str], at: datetime) -> None:
        """From now on these know it too."""
        there = sa.select(t.shared.c.id).where(t.shared.c.id == shared_id).with_for_update()
        await self._there(await self.connection.execute(there), shared_id)
        if not person_ids:
            return
        rows = [{"shared_id": shared_id, "person_id": i, "since": at} for i in person_ids]
        await self.connection.execute(insert(t.shared_known).on_conflict_do_nothing(), rows)

    async def forget(self, shared_id: str, person_ids: Sequence[str]) -> None:
        k = t.shared_known
        await self.connection.execute(
            sa.delete(k).where(k.c.shared_id == shared_id, among(k.c.person_id, person_ids))
        )

    async def changed(self, shared_id: str, at: datetime) -> None:
        """It was changed: whoever has left by then does not know it any more."""
        await self._there(
            await self.connection.execute(
                sa.update(t.shared).where(t.shared.c.id == shared_id).values(changed_at=at)
            ),
            shared_id,
        )
        k, p = t.shared_known, t.people
        gone = sa.select(p.c.id).where(p.c.access_ends <= at)
        await self.connection.execute(
            sa.delete(k).where(k.c.shared_id == shared_id, k.c.person_id.in_(gone))
        )

    async def _there(self, result: sa.CursorResult[Any], shared_id: str) -> None:
        if not result.rowcount:
            raise NotFound(
                f"There is no shared credential {shared_id}.", remedy="See: yugum shared list."
            )

    async def page(
        self, now: datetime, *, only_due: bool, q: str, cursor: str | None, limit: int
    ) -> ListPage[SharedLine]:
        """All of them, each with how many know it and who of them has left."""
        s, k, p = t.shared.c, t.shared_known.c, t.people.c
        left = (
            sa.select(
                sa.func.array_agg(sa.distinct(p.display_name)).label("names"),
                sa.func.min(p.access_ends).label("since"),
            )
            .select_from(t.shared_known.join(t.people, p.id == k.person_id))
            .where(k.shared_id == s.id, p.access_ends <= now)
            .lateral("gone")
        )
        here = (
            sa.select(sa.func.count())
            .select_from(t.shared_known.join(t.people, p.id == k.person_id))
            .where(k.shared_id == s.id, sa.or_(p.access_ends.is_(None), p.access_ends > now))
            .scalar_subquery()
        )
        owner = t.people.alias("owner")
        query = sa.select(
            t.shared,
            owner.c.display_name.label("owner_name"),
            here.label("known_by"),
            sa.func.coalesce(left.c.names, sa.cast([], sa.ARRAY(sa.Text))).label("left"),
            left.c.since.label("due_since"),
        ).select_from(t.shared.outerjoin(owner, owner.c.id == s.owner_id).join(left, sa.true()))
        if only_due:
            query = query.where(left.c.since.isnot(None))
        if part := fold(q):
            query = query.where(
                sa.func.lower(s.name + "\n" + s.place).contains(part, autoescape=True)
            )
        return await fetch(
            self.connection,
            query,
            [s.name, s.id],
            reader(SharedLine),
            cursor=cursor,
            limit=limit,
            count=cursor is None,
        )

    async def knowers(self, shared_id: str, cursor: str | None, limit: int) -> ListPage[Knower]:
        k, p = t.shared_known.c, t.people.c
        query = (
            sa.select(
                p.id.label("person_id"),
                p.display_name,
                p.user_name,
                k.since,
                p.access_ends.label("left_at"),
            )
            .select_from(t.shared_known.join(t.people, p.id == k.person_id))
            .where(k.shared_id == shared_id)
        )
        return await fetch(
            self.connection,
            query,
            [p.display_name, p.id],
            reader(Knower),
            cursor=cursor,
            limit=limit,
            count=cursor is None,
        )

    async def known_to(self, person_ids: Sequence[str]) -> Mapping[str, Sequence[str]]:
        """The names of what each of some people knows."""
        s, k = t.shared.c, t.shared_known.c
        query = (
            sa.select(k.person_id, sa.func.array_agg(sa.distinct(s.name)))
            .select_from(t.shared_known.join(t.shared, s.id == k.shared_id))
            .where(among(k.person_id, person_ids))
            .group_by(k.person_id)
        )
        return {r[0]: sorted(r[1]) for r in await self.connection.execute(query)}
