"""Whether whoever begins soon has the seats that are theirs, or what brings them."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from enum import StrEnum

from yugum.core.orders import Order
from yugum.core.seats import Pool, Purchase


class Readiness(StrEnum):
    """What somebody who begins has of a license."""

    HELD = "held"
    SET_ASIDE = "set-aside"
    FREE = "free"
    ORDERED = "ordered"
    LACKING = "lacking"


@dataclass(frozen=True, slots=True)
class Supply:
    """A pool with what was bought and is on its way, and how many are taken before those who begin."""

    pool: Pool
    purchases: Sequence[Purchase]
    orders: Sequence[Order]

    def ready(self, day: date, before: int) -> tuple[Readiness, str]:
        """What somebody finds who begins on a day after ``before`` others; with the order that brings it."""
        if self.pool.unlimited:
            return Readiness.FREE, ""
        taken = self.pool.held + self.pool.reserved + self.pool.waiting + before
        there = sum(p.count for p in self.purchases if p.counts_on(day))
        if taken < there:
            return Readiness.FREE, ""
        coming = [o for o in self.orders if o.expected is not None and o.expected <= day and o.left]
        for order in sorted(coming, key=lambda o: (o.expected or day, o.number)):
            there += order.left
            if taken < there:
                return Readiness.ORDERED, order.name
        return Readiness.LACKING, ""


def working_days(begin: date, days: int, worked: Iterable[int]) -> date:
    """The last of so many working days, the first of which is ``begin`` or follows it (Monday is 0)."""
    on = frozenset(worked)
    day, left = begin, days
    while True:
        left -= day.weekday() in on
        if left <= 0:
            return day
        day += timedelta(days=1)
