"""Seats: pools, who holds one, who waits."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence, Set
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal
from typing import Protocol

from yugum.core.accounts import AccountState
from yugum.core.actions import Action
from yugum.core.counter import Counter
from yugum.core.seats import Money, Pool, PricePeriod, Purchase, SeatState, monthly
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
class LockedPool:
    """A pool that nobody else claims seats of until the transaction ends."""

    id: str
    bought: int
    unlimited: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class SeatCount:
    """How many seats of a pool people of a department hold; nobody's are of none."""

    department: str
    pool_id: str
    seats: int


class SeatStore(Protocol):
    async def pools(self) -> dict[tuple[str, str], Pool]:
        """Every pool by application and license, with its counts."""
        ...

    async def line(self, pool_id: str) -> PoolLine | None:
        """One pool with its counts."""
        ...

    async def lines(self) -> Sequence[PoolLine]:
        """Every pool by the names of application and license, with its counts."""
        ...

    async def put(self, pool: Pool) -> None:
        """Store a pool, new or known by application and license."""
        ...

    async def hold(self, application_id: str, license: str) -> LockedPool | None:
        """Let nobody else claim seats of a pool or change it until this transaction ends; None if there is none."""
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

    async def terms(self, today: date, now: datetime) -> Mapping[str, int]:
        """Bring pools in step with the terms of what was bought and set aside; those with other seats now."""
        ...

    async def mark_over(self) -> None:
        """Mark the pools of which more are held than were bought: only these are counted for findings."""
        ...

    async def counter(
        self, pool: LockedPool, accounts: Collection[str], people: Collection[str]
    ) -> Counter:
        """A locked pool as it stands, for accounts that ask and their people."""
        ...

    async def give(self, counter: Counter, at: datetime) -> None:
        """Write down what was given out at a counter that was read in this transaction."""
        ...

    async def under_way(self, subject_id: str, account_id: str) -> Sequence[tuple[Action, str]]:
        """The seats that running dockets still take for an account of a person, and what they still hand over."""
        ...

    async def claimed(self, pool_id: str, person_ids: Collection[str]) -> Set[str]:
        """Which of some people hold a seat of a pool or wait for one."""
        ...

    async def by_department(self) -> Sequence[SeatCount]:
        """Seats held, by department and pool."""
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
