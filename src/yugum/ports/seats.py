"""Seats: pools, who holds one, who waits."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol

from yugum.core.accounts import AccountState
from yugum.core.seats import Pool, SeatState
from yugum.ports.pages import ListPage


@dataclass(frozen=True, slots=True, kw_only=True)
class PoolLine(Pool):
    """A pool in a list."""

    application_name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SeatHolder:
    """Who holds a seat of a pool, or waits at a ``place`` in its line."""

    id: str
    account_id: str
    login: str | None
    person_id: str | None
    person_name: str | None
    account_state: AccountState | None
    state: SeatState
    place: int | None
    since_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class SeatOf:
    """A seat somebody holds or waits for."""

    person_id: str
    account_id: str
    application_id: str
    license: str
    state: SeatState
    place: int | None
    since_at: datetime
    price_cents: int
    currency: str


class SeatStore(Protocol):
    async def pools(self) -> dict[tuple[str, str], Pool]:
        """Every pool by application and license, with its counts."""
        ...

    async def lines(self) -> Sequence[PoolLine]:
        """Every pool by the names of application and license, with its counts."""
        ...

    async def put(self, pool: Pool) -> None:
        """Store a pool, new or known by application and license."""
        ...

    async def claim(
        self, application_id: str, license: str, account_id: str, person_id: str, at: datetime
    ) -> int | None:
        """Claim a seat under the pool's lock: None when it is held now, else the place in line.

        Somebody in line is served only when as many seats are free as people stand before.

        Raises:
            NotFound: no pool holds seats of that license.
        """
        ...

    async def give_up(self, person_ids: Collection[str], at: datetime) -> int:
        """End the places in line of some people that no open step is behind; how many."""
        ...

    async def serve(self, *, asleep: bool = False) -> int:
        """Wake as many from the head of each line as seats are free; how many people.

        With ``asleep`` only those who would not wake by themselves: whoever is to try again later is left.
        """
        ...

    async def holders(self, pool_id: str, cursor: str | None, limit: int) -> ListPage[SeatHolder]:
        """Who waits for a seat of a pool and who holds one.

        Raises:
            NotFound: there is no such pool.
        """
        ...

    async def held_by(self, person_ids: Sequence[str]) -> Sequence[SeatOf]:
        """The seats some people hold or wait for."""
        ...

    async def reconcile(self, application_id: str, at: datetime) -> None:
        """After a reading: claims follow the seats that were seen."""
        ...
