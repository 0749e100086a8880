"""The forecast of seats equals one that goes from day to day."""

from __future__ import annotations

from datetime import date, timedelta
from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

from yugum.core.forecast import DAY, Cause, SeatChange, forecast, periods
from yugum.core.seats import Pool, Purchase

TODAY = date(2031, 1, 31)
days = st.integers(-60, 900).map(lambda n: TODAY + timedelta(days=n))
changes = st.builds(
    SeatChange, day=days, count=st.sampled_from([1, -1]), cause=st.sampled_from(list(Cause))
)


@st.composite
def purchases(draw: st.DrawFn) -> Purchase:
    begins, ends = draw(st.none() | days), draw(st.none() | days)
    if begins and ends and ends < begins:
        begins, ends = ends, begins
    return Purchase(id="b", pool_id="x", count=draw(st.integers(0, 5)), begins=begins, ends=ends)


@given(
    st.lists(purchases(), max_size=5),
    st.lists(changes, max_size=12),
    st.integers(0, 6),
    st.integers(0, 3),
    st.none() | st.integers(0, 90),
)
def test_it_equals_a_walk_from_day_to_day(
    bought: list[Purchase],
    ahead: list[SeatChange],
    held: int,
    waiting: int,
    notice: int | None,
) -> None:
    pool = Pool(
        id="x",
        application_id="crew",
        license="planner",
        bought=0,
        held=held,
        waiting=waiting,
        notice_days=notice,
    )
    found = forecast(pool, bought, ahead, TODAY)
    last = found.periods[-1].ends
    taken, there, day = {}, {}, TODAY
    while day <= last + DAY:
        past = [c for c in ahead if TODAY < c.day <= day]
        taken[day] = held + waiting + sum(c.count for c in past)
        there[day] = sum(
            b.count for b in bought if (b.begins or day) <= day and day <= (b.ends or day)
        )
        day += DAY
    for period in found.periods:
        inside = [d for d in taken if period.begins <= d <= period.ends]
        assert period.taken == max(taken[d] for d in inside)
        assert period.bought == min(there[d] for d in inside)
        ahead_in = [
            c.count for c in ahead if c.day > TODAY and period.begins <= c.day <= period.ends
        ]
        assert period.joining == sum(n for n in ahead_in if n > 0)
        assert period.leaving == -sum(n for n in ahead_in if n < 0)
    short = [d for d in taken if d <= last and taken[d] > there[d]]
    assert found.short_on == (min(short) if short else None)
    assert found.lacking == max((taken[d] - there[d] for d in short), default=0)
    assert len(found.renewals) == sum(
        b.ends is not None and TODAY <= b.ends <= last for b in bought
    )
    for renewal in found.renewals:
        following = renewal.ends + DAY
        assert renewal.lacking == max(0, taken[following] - there[following])
        assert TODAY <= renewal.decide_by <= renewal.ends


def test_periods_follow_each_other_without_a_gap() -> None:
    spans = list(periods(TODAY))
    assert len(spans) == 13 + 24
    assert spans[0] == (TODAY, date(2031, 2, 6))
    for (_, ends), (begins, _) in pairwise(spans):
        assert begins == ends + DAY
