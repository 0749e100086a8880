"""Replies kept by Idempotency-Key, so that a repeated request changes nothing."""

from __future__ import annotations

from typing import Any

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.documents import Json
from yugum.ports.idempotency import KeptReply
from yugum.storage import tables as t


def _seconds(count: float) -> sa.Function[Any]:
    return sa.func.make_interval(0, 0, 0, 0, 0, 0, count)


class Idempotency:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def begin(
        self, operator_id: str, key: str, fingerprint: str, seconds: float
    ) -> KeptReply | None:
        k = t.idempotency
        until = sa.func.now() + _seconds(seconds)
        # A process of before this column holds its keys for as long as it runs.
        over = sa.and_(
            k.c.status.is_(None), k.c.held_until < sa.func.now(), k.c.fingerprint == fingerprint
        )
        fresh = await self.connection.execute(
            insert(k)
            .values(operator_id=operator_id, key=key, fingerprint=fingerprint, held_until=until)
            .on_conflict_do_update(
                index_elements=["operator_id", "key"], set_={"held_until": until}, where=over
            )
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

    async def hold(self, operator_id: str, key: str, seconds: float) -> None:
        k = t.idempotency
        await self.connection.execute(
            sa.update(k)
            .where(k.c.operator_id == operator_id, k.c.key == key, k.c.status.is_(None))
            .values(held_until=sa.func.now() + _seconds(seconds))
        )

    async def forget_old(self, hours: float) -> None:
        k = t.idempotency
        old = k.c.created < sa.func.now() - _seconds(hours * 3600)
        await self.connection.execute(sa.delete(k).where(old))

    async def drop(self, operator_id: str, key: str) -> None:
        k = t.idempotency
        await self.connection.execute(
            sa.delete(k).where(k.c.operator_id == operator_id, k.c.key == key, k.c.status.is_(None))
        )
