"""The forecast of seats equals one that goes from day to day."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta
from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

from yugum.core.forecast import DAY, Cause, SeatChange, forecast, periods, set_aside
from yugum.core.reservations import Reservation
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
        aside = [c for c in ahead if c.cause is Cause.RESERVED and c.day <= TODAY]
        taken[day] = held + waiting + sum(c.count for c in [*past, *aside])
        there[day] = sum(
            b.count for b in bought if (b.begins or day) <= day and day <= (b.ends or day)
        )
        day += DAY
    for period in found.periods:
        inside = [d for d in taken if period.begins <= d <= period.ends]
        assert period.taken == max(taken[d] for d in inside)
        assert period.bought == min(there[d] for d in inside)
        ahead_in = [
            c.cause for c in ahead if c.day > TODAY and period.begins <= c.day <= period.ends
        ]
        assert period.joining == ahead_in.count(Cause.JOINER)
        assert period.leaving == ahead_in.count(Cause.LEAVER)
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


@st.composite
def reservations(draw: st.DrawFn) -> Reservation:
    begins, ends = draw(st.none() | days), draw(days)
    holder = draw(st.sampled_from([None, "a1", "a2"]))
    return Reservation(
        id=draw(st.sampled_from("rstu")),
        pool_id="x",
        count=draw(st.integers(1, 3)),
        taken=draw(st.integers(0, 1)),
        in_line=draw(st.integers(0, 1)),
        begins=begins,
        ends=ends,
        from_account_id=holder,
        given=holder is None,
        reason="",
        author="",
        made_at=datetime(2031, 1, 1, tzinfo=UTC),
    )


@given(
    st.lists(reservations(), max_size=4, unique_by=lambda r: r.id),
    st.dictionaries(st.sampled_from("rstu"), st.lists(days, max_size=3)),
    st.dictionaries(st.just("a1"), days),
)
def test_what_is_set_aside_on_a_day_is_what_nobody_has_taken_by_then(
    known: list[Reservation], used: dict[str, list[date]], leaving: dict[str, date]
) -> None:
    known = [r for r in known if r.ends >= TODAY]
    used = {r.id: used.get(r.id, [])[: max(0, r.left - r.in_line)] for r in known}
    found = list(set_aside(known, used, leaving, TODAY))
    for after in range(0, 400, 7):
        day = TODAY + timedelta(days=after)
        aside = 0
        for one in known:
            gone = leaving.get(one.from_account_id or "", date.max)
            given = one.given or gone <= day
            if given and (one.begins or TODAY) <= day <= one.ends:
                taken = sum(d <= day for d in used[one.id])
                aside += max(0, one.left - one.in_line - taken)
        assert sum(c.count for c in found if c.day <= day) == aside


def test_periods_follow_each_other_without_a_gap() -> None:
    spans = list(periods(TODAY))
    assert len(spans) == 13 + 24
    assert spans[0] == (TODAY, date(2031, 2, 6))
    for (_, ends), (begins, _) in pairwise(spans):
        assert begins == ends + DAY
