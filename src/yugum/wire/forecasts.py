"""The forecast of a pool."""

from __future__ import annotations

from datetime import date

from yugum.wire.common import Model
from yugum.wire.seats import PoolRow, PurchaseRow


class PeriodRow(Model):
    """A week or a month, both days inside: the fewest seats bought, the most taken."""

    begins: date
    ends: date
    bought: int
    taken: int
    lacking: int
    joining: int
    leaving: int


class RenewalRow(Model):
    """A term that ends, until when it can be decided about, and how many seats are lacking after it."""

    purchase: PurchaseRow
    ends: date
    decide_by: date
    lacking: int


class PastRow(Model):
    """A day that is over, by the terms that are entered."""

    day: date
    bought: int
    taken: int


class ForecastView(Model):
    """``short_on`` is the first day with more seats taken than bought, ``lacking`` the most that are."""

    pool: PoolRow
    today: date
    short_on: date | None
    lacking: int
    periods: list[PeriodRow]
    renewals: list[RenewalRow]
    past: list[PastRow]
    assumes: list[str]
