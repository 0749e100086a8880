"""Periods of whole days that something is asked of."""

from __future__ import annotations

from datetime import date, timedelta

from yugum.errors import InvalidInput

USUAL = timedelta(days=90)
LONGEST = timedelta(days=3660)


def period(today: date, begin: date | None, end: date | None) -> tuple[date, date]:
    """The first and the last day: without an end today, without a beginning ninety days before it.

    Raises:
        InvalidInput: it ends before it begins, or is longer than ten years.
    """
    last = end or today
    first = begin or last - min(USUAL, last - date.min)
    if last < first:
        raise InvalidInput(f"It would end on {last}, before it begins.", place="end")
    if last - first > LONGEST:
        raise InvalidInput("More than ten years are too many.", place="begin")
    return first, last
