"""Seats: pools, who holds one, who waits."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence, Set
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal
from typing import Protocol

from yugum.core.accounts import AccountState
from yugum.core.licenses import License
from yugum.core.seats import Claim, Money, Pool, PricePeriod, Purchase, SeatState, monthly
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
    price: Decimal | None
    currency: str
    period: PricePeriod

    @property
    def cost(self) -> Money:
        """What it costs a month."""
        return monthly(self.price, self.currency, self.period)


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """A seat that is asked for, and how early its person is served (0 first)."""

    application_id: str
    license: str
    account_id: str
    person_id: str
    rank: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class SeatCount:
    """How many seats of a pool people of a department hold; nobody's are of none."""

    department: str
    pool_id: str
    seats: int


@dataclass(frozen=True, slots=True, kw_only=True)
class SeatEnding:
    """Somebody who has a seat or waits for one, and when their access ends."""

    person_id: str
    access_ends: datetime
    time_zone: str


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

    async def hold(self, application_id: str, license: str) -> None:
        """Let nobody else claim seats of a pool or change it until this transaction ends."""
        ...

    async def remove(self, pool_id: str) -> None:
        """A pool with all that was bought and ever held of it."""
        ...

    async def purchases(self, pool_ids: Collection[str] = ()) -> Sequence[Purchase]:
        """What was bought for some pools or for all, by the beginning of its term."""
        ...

    async def buy(self, purchase: Purchase) -> None:
        """Store a purchase, new or known by its id."""
        ...

    async def unbuy(self, pool_id: str, purchase_id: str) -> None:
        """A purchase goes; a pool without any has no seats."""
        ...

    async def report(self, pool_id: str, count: int) -> None:
        """How many seats the application says there are."""
        ...

    async def terms(self, today: date) -> Mapping[str, int]:
        """Bring pools in step with the terms of what was bought; those that changed, with their seats."""
        ...

    async def claim(self, asked: Asked, license: License, at: datetime) -> Claim:
        """Claim a seat under the pool's lock, or a place in its line.

        Somebody in line is served only when as many seats are free as people stand before.

        Raises:
            NotFound: no pool holds seats of that license.
        """
        ...

    async def being_taken(self, subject_id: str, account_id: str) -> Sequence[str]:
        """The licenses of which running dockets take a seat for an account of a person."""
        ...

    async def ending(self, pool_id: str, now: datetime) -> Sequence[SeatEnding]:
        """Of those who hold a seat of a pool or wait for one, whose access will end, and when."""
        ...

    async def claimed(self, pool_id: str, person_ids: Collection[str]) -> Set[str]:
        """Which of some people hold a seat of a pool or wait for one."""
        ...

    async def by_department(self) -> Sequence[SeatCount]:
        """Seats held, by department and pool."""
        ...

    async def past(self, pool_id: str, days: Sequence[date]) -> Sequence[int]:
        """How many held a seat of a pool at the end of some days (UTC)."""
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
