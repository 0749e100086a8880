"""Seats: pools, what was bought for which term, who holds one, who waits."""

from __future__ import annotations

from datetime import date
from typing import Annotated

from pydantic import Field

from yugum.core.accounts import AccountState
from yugum.core.seats import PricePeriod, SeatState
from yugum.wire.common import (
    Currency,
    Line,
    Model,
    Moment,
    Money,
    Price,
    Request,
    Seen,
    Slug,
    Words,
)

Seats = Annotated[int, Field(ge=0, le=10_000_000, strict=True)]
Below = Annotated[bool, Field(description="Fewer than are held are meant.")]


class PoolRow(Model):
    """A license's seats now: ``free`` are neither held nor set aside (``reserved``). ``price`` is for one seat and ``period``; null where nobody has said it. Those held
    ``cost`` so much a month.

    ``over`` hold a seat that was not bought. ``reported`` is how many the application says there are; it
    ``differs`` where that is another number.
    """

    id: str
    application_id: str
    application_name: str
    license: str
    bought: int
    held: int
    reserved: int
    waiting: int
    free: int
    over: int
    unlimited: bool
    price: Price | None
    currency: str
    period: Seen[PricePeriod]
    cost: Money
    notice_days: int | None
    reported: int | None
    differs: bool


class PurchaseRow(Model):
    """Seats bought together; without ``ends`` their term has no end."""

    id: str
    count: int
    begins: date | None
    ends: date | None
    reference: str


class PoolView(PoolRow):
    """A pool with what was bought for it."""

    purchases: list[PurchaseRow]


class PutPool(Request):
    """What is said of a pool; what is left out stays, of a new one it is unknown.

    ``bought`` are seats without an end, where nothing was bought for a term.
    """

    application_id: Slug
    license: Words
    bought: Seats | None = None
    unlimited: bool | None = None
    price: Price | None = None
    currency: Currency | None = None
    period: PricePeriod | None = None
    notice_days: Annotated[int, Field(ge=0, le=3650, strict=True)] | None = None
    below: Below = False


class PutPurchase(Request):
    """Seats bought together, from the first to the last day of their term, if it has them."""

    count: Annotated[int, Field(ge=1, le=10_000_000, strict=True)]
    begins: date | None = None
    ends: date | None = None
    reference: Line = ""
    below: Below = False


class SeatCost(Model):
    """What a department's seats of a license cost a month, by currency; "" is nobody's."""

    department: str
    application_name: str
    license: str
    seats: int
    cost: Money


class SeatHolder(Model):
    id: str
    account_id: str
    login: str | None
    person_id: str | None
    person_name: str | None
    account_state: Seen[AccountState] | None
    state: Seen[SeatState]
    place: int | None
    since_at: Moment
