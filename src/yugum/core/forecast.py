"""How many seats of a license will be taken and bought: the day it runs short, and what has to be decided by when."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from enum import StrEnum
from itertools import accumulate

from yugum.core.reservations import Reservation
from yugum.core.seats import Pool, Purchase

WEEKS, MONTHS = 13, 24
WEEK, DAY = timedelta(days=7), timedelta(days=1)


class Cause(StrEnum):
    """Why a seat will be taken or come free."""

    JOINER = "joiner"
    LEAVER = "leaver"
    RESERVED = "reserved"
    MOVE = "move"
    ABSENCE = "absence"
    RULES = "rules"


INSIDE = frozenset({Cause.MOVE, Cause.ABSENCE, Cause.RULES})
"""Of people who neither begin nor leave."""


@dataclass(frozen=True, slots=True, kw_only=True)
class SeatChange:
    """Somebody takes a seat (1) or gives one back (-1) on a day; some are set aside, or no longer."""

    day: date
    count: int
    cause: Cause


@dataclass(frozen=True, slots=True, kw_only=True)
class Period:
    """A week or a month, both days inside: the fewest seats bought, the most taken, who comes and goes.

    ``moving`` is by how many moves, absences and changed rules raise what is taken, less than 0 if they lower it.
    """

    begins: date
    ends: date
    bought: int
    taken: int
    joining: int
    leaving: int
    moving: int

    @property
    def lacking(self) -> int:
        return max(0, self.taken - self.bought)


@dataclass(frozen=True, slots=True, kw_only=True)
class Renewal:
    """A term that ends, the last day on which it can be decided about, and how many are lacking after it."""

    purchase: Purchase
    ends: date
    decide_by: date
    lacking: int


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptForecast:
    """What was forecast on a day that is over: the day it would run short, and how many would be lacking."""

    made_on: date
    short_on: date | None
    lacking: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Forecast:
    """``short_on`` is the first day with more seats taken than bought, ``lacking`` the most that are."""

    today: date
    periods: Sequence[Period]
    renewals: Sequence[Renewal]
    short_on: date | None
    lacking: int


def periods(today: date) -> Iterator[tuple[date, date]]:
    """Weeks from a day on, then months, each with its last day."""
    begins = today
    for _ in range(WEEKS):
        yield begins, begins + WEEK - DAY
        begins += WEEK
    for _ in range(MONTHS):
        following = _month_later(begins)
        yield begins, following - DAY
        begins = following


def _month_later(day: date) -> date:
    """The same day of the next month; of a month that has it not, the first of the one after."""
    year, month = divmod(day.year * 12 + day.month, 12)
    try:
        return date(year, month + 1, day.day)
    except ValueError:
        year, month = divmod(day.year * 12 + day.month + 1, 12)
        return date(year, month + 1, 1)


def forecast(
    pool: Pool, purchases: Sequence[Purchase], changes: Iterable[SeatChange], today: date
) -> Forecast:
    """What dated facts make of a pool: those who hold a seat or wait for one today, and ``changes`` after.

    Of changes until today only those of reservations count: others are held or waited for already.
    """
    known = sorted(changes, key=lambda c: c.day)
    aside = sum(c.count for c in known if c.cause is Cause.RESERVED and c.day <= today)
    ahead = [c for c in known if c.day > today]
    steps = _Steps(pool, purchases, ahead, today, aside)
    found = [steps.over(begins, ends) for begins, ends in periods(today)]
    last = found[-1].ends
    short = [] if pool.unlimited else steps.short(last)
    renewals = [
        Renewal(
            purchase=p,
            ends=p.ends,
            decide_by=max(today, p.ends - timedelta(days=pool.notice_days or 0)),
            lacking=max(0, steps.taken(p.ends + DAY) - steps.bought(p.ends + DAY)),
        )
        for p in sorted(purchases, key=lambda p: p.ends or last)
        if p.ends is not None and today <= p.ends <= last
    ]
    return Forecast(
        today=today,
        periods=found,
        renewals=renewals,
        short_on=short[0][0] if short else None,
        lacking=max((n for _, n in short), default=0),
    )


class _Steps:
    """Seats taken and bought from day to day, looked at only on days on which something changes."""

    def __init__(
        self,
        pool: Pool,
        purchases: Sequence[Purchase],
        changes: Sequence[SeatChange],
        today: date,
        aside: int,
    ) -> None:
        first = pool.held + pool.waiting + aside
        self._at = [c.day for c in changes]
        self._taken = [*accumulate((c.count for c in changes), initial=first)]
        self._came = _counted(changes, Cause.JOINER)
        self._went = _counted(changes, Cause.LEAVER)
        inside = (c.count if c.cause in INSIDE else 0 for c in changes)
        self._moved = [*accumulate(inside, initial=0)]
        self._purchases = purchases
        days = {today, *self._at}
        days |= {p.begins for p in purchases if p.begins and p.begins > today}
        days |= {p.ends + DAY for p in purchases if p.ends and p.ends >= today}
        self._days = sorted(days)

    def taken(self, day: date) -> int:
        return self._taken[bisect_right(self._at, day)]

    def bought(self, day: date) -> int:
        return sum(p.count for p in self._purchases if p.counts_on(day))

    def over(self, begins: date, ends: date) -> Period:
        days = self._days[bisect_right(self._days, begins) : bisect_right(self._days, ends)]
        first, last = bisect_left(self._at, begins), bisect_right(self._at, ends)
        return Period(
            begins=begins,
            ends=ends,
            bought=min(self.bought(d) for d in (begins, *days)),
            taken=max(self.taken(d) for d in (begins, *days)),
            joining=self._came[last] - self._came[first],
            leaving=self._went[last] - self._went[first],
            moving=self._moved[last] - self._moved[first],
        )

    def short(self, last: date) -> list[tuple[date, int]]:
        """Days on which something changes and seats are lacking then, with how many."""
        days = ((d, self.taken(d) - self.bought(d)) for d in self._days if d <= last)
        return [(d, n) for d, n in days if n > 0]


def _counted(changes: Sequence[SeatChange], cause: Cause) -> list[int]:
    """How many changes have a cause, before each of them and after all."""
    return [*accumulate((abs(c.count) if c.cause is cause else 0 for c in changes), initial=0)]


def set_aside(
    reservations: Iterable[Reservation],
    used: Mapping[str, Sequence[date]],
    leaving: Mapping[str, date],
    today: date,
) -> Iterator[SeatChange]:
    """From when to when seats are set aside.

    ``used`` are the days on which those who are to begin take theirs, by reservation; ``leaving`` those on
    which accounts give back what is passed on. One whose holder is not known to leave takes no seat.
    """
    for one in reservations:
        begins = max(one.begins or today, today)
        if not one.given:
            free_on = leaving.get(one.from_account_id or "")
            if free_on is None:
                continue
            begins = max(begins, free_on)
        after = one.ends + DAY
        days = [d for d in used.get(one.id, ()) if d < after]
        left = max(0, one.left - one.in_line)
        for end in [*days, *[after] * (left - len(days))]:
            if begins < end:
                yield SeatChange(day=begins, count=1, cause=Cause.RESERVED)
                yield SeatChange(day=end, count=-1, cause=Cause.RESERVED)
