"""Business time."""

from __future__ import annotations

from datetime import datetime
from typing import TYPE_CHECKING, Protocol

if TYPE_CHECKING:
    from yugum.ports.units import UnitOfWork


class Clock(Protocol):
    """Business time; asked for within a transaction it opens none of its own."""

    async def now(self, unit: UnitOfWork | None = None) -> datetime:
        """This moment, in UTC."""
        ...


class ClockStore(Protocol):
    async def read(self) -> tuple[bool, datetime | None]:
        """Whether business time is simulated, and its moment if so."""
        ...

    async def set(self, moment: datetime) -> None:
        """Move simulated time, which only a demo has and which never goes back.

        Raises:
            Conflict: this is no demo, or the moment is past.
        """
        ...
