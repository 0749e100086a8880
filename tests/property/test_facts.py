"""People's facts and dates: what is written down is read back, what is typed is unmistakable."""

from __future__ import annotations

import string
from datetime import UTC, date, datetime, time, timedelta
from typing import Any
from zoneinfo import ZoneInfo

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from tests.builders import person
from yugum.core.dates import is_zone, parse_day, parse_moment
from yugum.core.facts import difference, fields_of, taken_back, with_fields
from yugum.core.people import (
    CHANGEABLE,
    Person,
    PersonState,
    as_text,
    day_begins,
    folded,
    search_text,
    start_moment,
    state_at,
    term_end,
)
from yugum.errors import InvalidInput

NOW = datetime(2031, 3, 3, 8, 40, tzinfo=UTC)
ZONES = ["UTC", "Europe/Helsinki", "America/St_Johns", "Pacific/Kiritimati", "Asia/Kathmandu"]
DAYS = st.dates(date(2029, 1, 1), date(2035, 1, 1))
MOMENTS = st.integers(-(10**8), 10**8).map(lambda s: NOW + timedelta(seconds=s))
TEXTS = st.text(st.sampled_from(string.ascii_letters + " ’-éßøЖ"), max_size=12).map(str.strip)

VALUES: dict[str, st.SearchStrategy[Any]] = {
    "given_name": TEXTS,
    "family_name": TEXTS,
    "department": TEXTS,
    "title": TEXTS,
    "site": TEXTS,
    "starts": st.none() | DAYS,
    "contract_ends": st.none() | DAYS,
    "last_working_day": st.none() | DAYS,
    "access_ends": st.none() | MOMENTS,
    "absent_from": st.none() | MOMENTS,
    "absent_until": st.none() | MOMENTS,
    "manager_id": st.none() | st.sampled_from(["p2", "p3"]),
    "time_zone": st.sampled_from(ZONES),
}
CHANGES = st.fixed_dictionaries({}, optional=VALUES)


def changed(who: Person, changes: dict[str, Any]) -> Person:
    """As somebody would be whose fields came as JSON."""
    said = {n: v if v is None or isinstance(v, str) else as_text(v) for n, v in changes.items()}
    return with_fields(who, said)


@given(changes=CHANGES)
def test_changes_are_read_back_as_they_were(changes: dict[str, Any]) -> None:
    assert set(VALUES) <= set(CHANGEABLE)
    who = changed(person(), changes)
    assert {name: getattr(who, name) for name in changes} == changes
    assert with_fields(person(), fields_of(who, changes)) == who


@given(first=CHANGES, second=CHANGES)
def test_a_difference_leads_there_and_back(first: dict[str, Any], second: dict[str, Any]) -> None:
    before = changed(person(), first)
    after = changed(before, second)
    was, is_now = difference(before, after)
    assert was.keys() == is_now.keys()
    assert with_fields(before, is_now) == after
    assert taken_back(after, was, is_now) == before


@given(first=CHANGES, later=CHANGES)
def test_what_was_changed_again_since_is_not_taken_back(
    first: dict[str, Any], later: dict[str, Any]
) -> None:
    before = person()
    after = changed(before, first)
    now_is = changed(
        after, {k: v for k, v in later.items() if k not in ("given_name", "family_name")}
    )
    was, became = difference(before, after)
    back = taken_back(now_is, was, became)
    for name in became:
        touched = getattr(now_is, name) != getattr(after, name)
        expected = getattr(now_is, name) if touched else getattr(before, name)
        if name != "display_name":
            assert getattr(back, name) == expected, name
    for name in set(CHANGEABLE) - set(became) - {"display_name"}:
        assert getattr(back, name) == getattr(now_is, name), name


@pytest.mark.parametrize(
    ("name", "value"),
    [
        ("id", "p2"),
        ("salary", "1"),
        ("starts", "soon"),
        ("starts", "2031-02-30"),
        ("access_ends", "2031-03-03T08:40:00"),
        ("absent_from", "2031-03-03"),
        ("time_zone", "Mars/Olympus"),
        ("time_zone", "../../etc/passwd"),
        ("time_zone", ""),
    ],
)
def test_what_is_no_fact_is_refused_with_its_place(name: str, value: str) -> None:
    with pytest.raises(InvalidInput) as caught:
        with_fields(person(), {name: value})
    assert caught.value.place == name
    assert caught.value.remedy


@given(name=st.text(max_size=20))
def test_only_zones_that_there_are_are_zones(name: str) -> None:
    if is_zone(name):
        assert NOW.astimezone(ZoneInfo(name)) == NOW


@given(day=DAYS, clock=st.times(), zone=st.sampled_from(ZONES))
def test_a_moment_typed_in_full_is_that_moment_there(day: date, clock: time, zone: str) -> None:
    clock = clock.replace(second=0, microsecond=0, fold=0)
    local = datetime.combine(day, clock, ZoneInfo(zone))
    assume(local.astimezone(UTC).astimezone(ZoneInfo(zone)) == local)
    assume(local.utcoffset() == local.replace(fold=1).utcoffset())  # not in a doubled hour
    typed = f"{day:%Y-%m-%d} {clock:%H:%M}"
    assert parse_moment(typed, NOW, zone) == local
    assert parse_moment(local.isoformat(), NOW, "UTC") == local, "an offset of its own counts"


@given(day=DAYS, zone=st.sampled_from(ZONES), now=MOMENTS)
def test_a_day_typed_in_full_is_that_day_whatever_day_it_is(
    day: date, zone: str, now: datetime
) -> None:
    assert parse_day(day.isoformat(), now, zone) == day


@given(day=DAYS, zone=st.sampled_from(ZONES))
def test_a_last_day_is_inside_and_the_next_is_not(day: date, zone: str) -> None:
    ends = term_end(day, zone)
    assert ends is not None
    who = person(time_zone=zone, access_ends=ends, starts=day)
    begins = day_begins(day, zone)
    assert start_moment(who) == begins
    second = timedelta(seconds=1)
    assert state_at(who, begins - second) is PersonState.EXPECTED
    assert state_at(who, begins) is PersonState.ACTIVE
    assert state_at(who, ends - second) is PersonState.ACTIVE
    assert state_at(who, ends) is PersonState.LEFT
    assert 23 <= (ends - begins).total_seconds() / 3600 <= 25


@given(changes=CHANGES, at=MOMENTS)
def test_the_state_of_a_person_follows_from_the_dates_alone(
    changes: dict[str, Any], at: datetime
) -> None:
    who = changed(person(), changes)
    state = state_at(who, at)
    left = who.access_ends is not None and at >= who.access_ends
    assert (state is PersonState.LEFT) == left, "who has left has left, whatever else is dated"
    if state is PersonState.ABSENT:
        assert who.absent_from is not None
        assert who.absent_from <= at


@given(given_name=TEXTS, family_name=TEXTS)
def test_the_display_name_follows_a_new_name_unless_it_is_given(
    given_name: str, family_name: str
) -> None:
    after = changed(person(), {"given_name": given_name, "family_name": family_name})
    assert after.display_name == f"{given_name} {family_name}".strip()
    kept = changed(person(), {"given_name": given_name, "display_name": "As I like"})
    assert kept.display_name == "As I like"


@given(changes=CHANGES)
def test_somebody_is_found_by_any_part_of_a_name_in_any_case(changes: dict[str, Any]) -> None:
    who: Person = changed(person(), changes)
    text = search_text(who)
    for part in (who.given_name, who.family_name, who.user_name, who.employee_number):
        from yugum.core.conditions import fold

        assert fold(part) in text
    assert all(v for values in folded(who).values() for v in values), "absent is absent"
