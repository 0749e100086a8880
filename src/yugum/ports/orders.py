"""Orders of more seats."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

from yugum.core.orders import Order, OrderState
from yugum.ports.pages import ListPage


@dataclass(frozen=True, slots=True, kw_only=True)
class OrderLine(Order):
    """An order in a list, with what it is of."""

    application_id: str
    application_name: str
    license: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Served:
    """Somebody whom an order would serve: at a place in line."""

    person_id: str | None
    person_name: str | None
    login: str | None


class OrderStore(Protocol):
    async def add(self, order: Order) -> None:
        """Store a new order; it gets the next number."""
        ...

    async def change(self, order: Order) -> None:
        """Store how far an order is."""
        ...

    async def one(self, order_id: str, *, lock: bool = False) -> OrderLine:
        """An order by its id or its name, locked until the end of the transaction if it is to be changed.

        Raises:
            NotFound: there is none.
        """
        ...

    async def page(
        self,
        cursor: str | None,
        limit: int,
        *,
        state: OrderState | None,
        pool_id: str | None,
        only_open: bool,
    ) -> ListPage[OrderLine]:
        """Orders, the latest first."""
        ...

    async def coming(self, pool_id: str | None = None) -> Sequence[Order]:
        """Those of a pool, or of all, that are not over, by their numbers."""
        ...

    async def serves(self, order: Order) -> Sequence[Served]:
        """Who of the line would have a seat by an order, the first served first."""
        ...
