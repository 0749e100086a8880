"""Seats set aside."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Protocol

from yugum.core.reservations import Reservation
from yugum.ports.pages import ListPage


@dataclass(frozen=True, slots=True, kw_only=True)
class ReservationLine(Reservation):
    """A reservation in a list, and from whom a seat is passed on."""

    from_login: str | None
    from_name: str | None


class ReservationStore(Protocol):
    async def page(self, pool_id: str, cursor: str | None, limit: int) -> ListPage[ReservationLine]:
        """Reservations of a pool, those that last longest first."""
        ...

    async def one(self, reservation_id: str) -> ReservationLine:
        """A reservation by its id."""
        ...

    async def ahead(self, pool_id: str, today: date) -> Sequence[Reservation]:
        """Those of a pool with seats left that count on a day or will, by when they were made."""
        ...

    async def put(self, reservation: Reservation) -> None:
        """Store a new one; somebody named who waits already uses it."""
        ...

    async def withdraw(self, pool_id: str, reservation_id: str) -> Reservation:
        """It goes.

        Raises:
            NotFound: the pool has no such reservation.
        """
        ...
