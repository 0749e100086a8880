"""Orders of more seats."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import fields

import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.orders import OPEN, Order, OrderState
from yugum.errors import NotFound
from yugum.ports.orders import OrderLine, Served
from yugum.ports.pages import ListPage
from yugum.storage import tables as t
from yugum.storage.pages import fetch
from yugum.storage.rows import read, read_all, reader
from yugum.storage.seats import LINE

STORED = [f.name for f in fields(Order) if f.name != "number"]
NAME = re.compile(r"SO-(\d{4,9})", re.IGNORECASE)
LINES = (
    sa.select(
        t.orders,
        t.pools.c.application_id,
        t.pools.c.license,
        t.applications.c.name.label("application_name"),
    )
    .join(t.pools, t.pools.c.id == t.orders.c.pool_id)
    .join(t.applications, t.applications.c.id == t.pools.c.application_id)
)
SERVES_SQL = sa.text(f"""
SELECT c.person_id, p.display_name AS person_name, a.login
FROM seat_claims c LEFT JOIN people p ON p.id = c.person_id LEFT JOIN accounts a ON a.id = c.account_id
WHERE c.pool_id = :pool AND c.state = 'waiting' AND c.until_at IS NULL
ORDER BY {LINE} LIMIT :count
""")


class Orders:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def add(self, order: Order) -> None:
        values = {name: getattr(order, name) for name in STORED}
        await self.connection.execute(sa.insert(t.orders).values(**values))

    async def change(self, order: Order) -> None:
        o = t.orders
        values = {name: getattr(order, name) for name in STORED}
        await self.connection.execute(sa.update(o).where(o.c.id == order.id).values(**values))

    async def one(self, order_id: str, *, lock: bool = False) -> OrderLine:
        named = NAME.fullmatch(order_id)
        mine = t.orders.c.number == int(named[1]) if named else t.orders.c.id == order_id
        query = LINES.where(mine)
        if lock:
            query = query.with_for_update(of=t.orders)
        found = (await self.connection.execute(query)).mappings().first()
        if found is None:
            raise NotFound(f"There is no order {order_id}.", remedy="See: yugum orders list.")
        return read(OrderLine, found)

    async def page(
        self,
        cursor: str | None,
        limit: int,
        *,
        state: OrderState | None,
        pool_id: str | None,
        only_open: bool,
    ) -> ListPage[OrderLine]:
        o, query = t.orders.c, LINES
        if state is not None:
            query = query.where(o.state == state.value)
        if pool_id is not None:
            query = query.where(o.pool_id == pool_id)
        if only_open:
            query = query.where(o.state.in_(sorted(OPEN)))
        return await fetch(
            self.connection,
            query,
            [o.number],
            reader(OrderLine),
            cursor=cursor,
            limit=limit,
            descending=True,
            count=cursor is None,
        )

    async def coming(self, pool_id: str | None = None) -> Sequence[Order]:
        o = t.orders
        query = sa.select(o).where(o.c.state.in_(sorted(OPEN)))
        if pool_id is not None:
            query = query.where(o.c.pool_id == pool_id)
        return read_all(Order, await self.connection.execute(query.order_by(o.c.number)))

    async def serves(self, order: Order) -> Sequence[Served]:
        values = {"pool": order.pool_id, "count": order.left}
        return read_all(Served, await self.connection.execute(SERVES_SQL, values))
