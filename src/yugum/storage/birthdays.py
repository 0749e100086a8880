"""By which day of birth people are told apart: digests only."""

from __future__ import annotations

from collections.abc import Collection, Mapping

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.storage import tables as t
from yugum.storage.rows import among


class Birthdays:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def of(self, person_ids: Collection[str]) -> Mapping[str, str]:
        b = t.birthdays.c
        query = sa.select(b.person_id, b.digest).where(among(b.person_id, person_ids))
        return {r.person_id: r.digest for r in await self.connection.execute(query)}

    async def put(self, digests: Mapping[str, str]) -> None:
        b = t.birthdays
        if forgotten := [i for i, digest in digests.items() if not digest]:
            await self.connection.execute(sa.delete(b).where(among(b.c.person_id, forgotten)))
        rows = [{"person_id": i, "digest": d} for i, d in digests.items() if d]
        if rows:
            new = insert(b)
            kept = new.on_conflict_do_update(
                index_elements=[b.c.person_id], set_={"digest": new.excluded.digest}
            )
            await self.connection.execute(kept, rows)
