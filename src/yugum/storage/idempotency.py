"""Replies kept by Idempotency-Key, so that a repeated request changes nothing."""

from __future__ import annotations

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.documents import Json
from yugum.ports.idempotency import KeptReply
from yugum.storage import tables as t


class Idempotency:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def begin(self, operator_id: str, key: str, fingerprint: str) -> KeptReply | None:
        """None when this request is the first with its key, else the row of the first."""
        k = t.idempotency
        fresh = await self.connection.execute(
            insert(k)
            .values(operator_id=operator_id, key=key, fingerprint=fingerprint)
            .on_conflict_do_nothing()
            .returning(k.c.key)
        )
        if fresh.first() is not None:
            return None
        row = (
            (
                await self.connection.execute(
                    sa.select(k).where(k.c.operator_id == operator_id, k.c.key == key)
                )
            )
            .mappings()
            .one()
        )
        return KeptReply(fingerprint=row["fingerprint"], status=row["status"], reply=row["reply"])

    async def end(self, operator_id: str, key: str, status: int, reply: Json) -> None:
        k = t.idempotency
        await self.connection.execute(
            sa.update(k)
            .where(k.c.operator_id == operator_id, k.c.key == key)
            .values(status=status, reply=reply)
        )

    async def drop(self, operator_id: str, key: str) -> None:
        k = t.idempotency
        await self.connection.execute(
            sa.delete(k).where(k.c.operator_id == operator_id, k.c.key == key, k.c.status.is_(None))
        )
