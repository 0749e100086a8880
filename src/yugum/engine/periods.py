"""Periods of whole days that something is asked of."""

from __future__ import annotations

from datetime import date, timedelta

from yugum.errors import InvalidInput

USUAL = timedelta(days=90)
LONGEST = timedelta(days=3660)
EARLIEST, LATEST = 1900, 9000
"""Years between which a day has one before and one after it in every zone."""


def period(today: date, begin: date | None, end: date | None) -> tuple[date, date]:
    """The first and the last day: without an end today, without a beginning ninety days before it.

    Raises:
        InvalidInput: it ends before it begins, is longer than ten years, or lies beyond all measure.
    """
    last = end or today
    first = begin or last - min(USUAL, last - date.min)
    if first.year < EARLIEST or last.year > LATEST:
        raise InvalidInput(
            "No day so far away is asked about.",
            place="begin" if first.year < EARLIEST else "end",
            remedy="Write 2031-03-07.",
        )
    if last < first:
        raise InvalidInput(f"It would end on {last}, before it begins.", place="end")
    if last - first > LONGEST:
        raise InvalidInput("More than ten years are too many.", place="begin")
    return first, last
