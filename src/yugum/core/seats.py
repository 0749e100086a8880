"""Seats: pools, what was bought for which term, who holds one, who waits."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from enum import StrEnum

Money = Mapping[str, Decimal]
"""An amount in each currency (ISO 4217); never one sum of them."""


class SeatState(StrEnum):
    """Whether a claim on a seat holds one or waits in line."""

    HELD = "held"
    WAITING = "waiting"


class PricePeriod(StrEnum):
    """For how long a price pays for a seat."""

    MONTH = "month"
    YEAR = "year"


MONTHS = {PricePeriod.MONTH: 1, PricePeriod.YEAR: 12}
CENT = Decimal("0.01")


@dataclass(frozen=True, slots=True, kw_only=True)
class Purchase:
    """Seats that were bought together: from which day on, and the last day of their term, if it ends."""

    id: str
    pool_id: str
    count: int
    begins: date | None = None
    ends: date | None = None
    reference: str = ""

    def counts_on(self, day: date) -> bool:
        begun = self.begins is None or self.begins <= day
        return begun and (self.ends is None or day <= self.ends)


@dataclass(frozen=True, slots=True, kw_only=True)
class Pool:
    """How many seats of a license there are now, are held, are set aside and are waited for.

    ``price`` is for one seat and ``period``; None where nobody has said it. ``reported`` is how many the
    application says there are. ``notice_days`` before a term ends it has to be renewed or given notice.
    """

    id: str
    application_id: str
    license: str
    bought: int
    held: int = 0
    reserved: int = 0
    waiting: int = 0
    unlimited: bool = False
    price: Decimal | None = None
    currency: str = "EUR"
    period: PricePeriod = PricePeriod.MONTH
    notice_days: int | None = None
    reported: int | None = None

    def counting(self, held: int, waiting: int) -> Pool:
        """The pool with other counts; a batch says so of thousands, which `dataclasses.replace` is too slow for."""
        return Pool(
            id=self.id,
            application_id=self.application_id,
            license=self.license,
            bought=self.bought,
            held=held,
            reserved=self.reserved,
            waiting=waiting,
            unlimited=self.unlimited,
            price=self.price,
            currency=self.currency,
            period=self.period,
            notice_days=self.notice_days,
            reported=self.reported,
        )

    @property
    def free(self) -> int:
        """How many are neither held nor set aside."""
        return self.bought - self.held - self.reserved

    @property
    def full(self) -> bool:
        """Whether no more than those who hold one, or have one set aside, have a seat."""
        return not self.unlimited and self.free <= 0

    @property
    def over(self) -> int:
        """How many hold a seat that was not bought."""
        return 0 if self.unlimited else max(0, self.held - self.bought)

    @property
    def differs(self) -> bool:
        """Whether the application says that there are other seats than were entered."""
        return self.reported is not None and not self.unlimited and self.reported != self.bought

    def monthly(self, seats: int) -> Money:
        """What seats cost a month; nothing where nobody has said a price."""
        return monthly(self.price, self.currency, self.period, seats)

    @property
    def cost(self) -> Money:
        """What the seats held cost a month."""
        return self.monthly(self.held)


def monthly(price: Decimal | None, currency: str, period: PricePeriod, seats: int = 1) -> Money:
    """What seats cost a month; nothing where nobody has said a price."""
    if price is None or not seats:
        return {}
    return {currency: (price * seats / MONTHS[period]).quantize(CENT)}


def together(amounts: Iterable[Money]) -> Money:
    """Amounts added up, each currency for itself."""
    found: dict[str, Decimal] = {}
    for money in amounts:
        for currency, amount in money.items():
            found[currency] = found.get(currency, Decimal()) + amount
    return found


@dataclass(frozen=True, slots=True, kw_only=True)
class Claim:
    """What came of asking for a seat: held, a ``place`` in line, or nothing where nobody may wait."""

    held: bool
    place: int = 0
