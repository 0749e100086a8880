"""A series is divided without losing or doubling an occurrence; whatever is written into a calendar is read or passed over."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any, cast

import pytest
from dateutil.rrule import rrulestr
from hypothesis import given, settings
from hypothesis import strategies as st
from icalendar import Calendar, Event, vCalAddress

from yugum.connectors.caldav import meetings as m
from yugum.connectors.caldav.meetings import Who
from yugum_standins.calendar_store import event

START = datetime(2031, 1, 6, 9, tzinfo=UTC)
RULES = ["FREQ=DAILY", "FREQ=WEEKLY;INTERVAL=2", "FREQ=MONTHLY"]


def read(text: str) -> Calendar:
    found = m.read(text)
    assert found is not None
    return found


def events(calendar: Calendar) -> list[dict[str, Any]]:
    """Its events, as what their names stand for."""
    return [cast("dict[str, Any]", one) for one in calendar.walk("VEVENT")]


def times(calendar: Calendar | None, until: datetime) -> list[datetime]:
    """When a series takes place, computed from what is stored, by another way than the code under test."""
    if calendar is None:
        return []
    (one,) = events(calendar)
    if "RRULE" not in one:
        return [one["DTSTART"].dt]
    rule = rrulestr(one["RRULE"].to_ical().decode(), dtstart=one["DTSTART"].dt)
    return list(rule.between(START - timedelta(days=1), until))


@settings(max_examples=80, deadline=None)
@given(
    rule=st.sampled_from(RULES),
    count=st.none() | st.integers(1, 30),
    hours=st.integers(-30 * 24, 90 * 24),
)
def test_nothing_is_lost_or_doubled_where_a_series_is_divided(
    rule: str, count: int | None, hours: int
) -> None:
    whole = f"{rule};COUNT={count}" if count else rule
    series = read(event("s", "Round", START, "a@x.example", ["b@x.example"], whole))
    now, until = START + timedelta(hours=hours, minutes=7), START + timedelta(days=400)
    every = times(series, until)
    past, ahead = m.divided(series, now, "-b")
    assert m.is_ahead(series, now) == (ahead is not None) == any(t > now for t in every)
    assert times(past, until) == [t for t in every if t <= now]
    assert times(ahead, until) == [t for t in every if t > now]
    if past is not None and ahead is not None:
        assert (m.uid_of(past), m.uid_of(ahead)) == ("s", "s-b")


def test_a_days_series_and_its_exceptions_go_with_the_part_they_are_of() -> None:
    found, series = Calendar(), Event()
    series.add("UID", "d")
    series.add("DTSTART", START.date())
    series.add("RRULE", {"FREQ": "WEEKLY", "COUNT": 6})
    series.add("EXDATE", START.date() + timedelta(days=35))
    found.add_component(series)
    for week in (1, 4):
        one = Event()
        one.add("UID", "d")
        one.add("RECURRENCE-ID", START.date() + timedelta(days=7 * week))
        one.add("DTSTART", START.date() + timedelta(days=7 * week + 1))
        found.add_component(one)
    past, ahead = m.divided(read(found.to_ical().decode()), START + timedelta(days=15), "-x")
    assert past is not None
    assert ahead is not None
    moved = [
        [e["DTSTART"].dt for e in events(part) if "RECURRENCE-ID" in e] for part in (past, ahead)
    ]
    assert moved == [[START.date() + timedelta(days=8)], [START.date() + timedelta(days=29)]]
    rules = [
        next(e for e in events(part) if "RRULE" in e)["RRULE"].to_ical().decode()
        for part in (past, ahead)
    ]
    assert rules == ["FREQ=WEEKLY;UNTIL=20310121", "FREQ=WEEKLY;COUNT=3"]


def test_who_takes_over_stands_once_and_in_the_place_of_who_went() -> None:
    invited = ["a@x.example", "b@x.example", "c@x.example"]
    one = read(event("s", "Round", START, "a@x.example", invited))
    new = m.given(one, frozenset({"a@x.example"}), Who("b@x.example", "Bo"), START)
    people = [str(a) for a in events(new)[0]["ATTENDEE"]]
    assert people == ["mailto:b@x.example", "mailto:c@x.example"]
    assert (m.organizer(new), m.attendees(new)) == ("b@x.example", ["c@x.example"])
    assert events(new)[0]["SEQUENCE"] == 1
    assert m.organizer(one) == "a@x.example", "what it was made of is as before"
    told = Calendar.from_ical(m.message(new, "REQUEST"))
    assert told["METHOD"] == "REQUEST"


@pytest.mark.parametrize(
    "text",
    [
        "",
        "no calendar",
        "BEGIN:VCALENDAR\r\nEND:VCALENDAR\r\n",
        "BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nUID:1\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n",
        "BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nUID:1\r\nDTSTART:soon\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n",
        "BEGIN:VCALENDAR\r\nBEGIN:VTODO\r\nUID:1\r\nEND:VTODO\r\nEND:VCALENDAR\r\n",
    ],
)
def test_what_cannot_be_understood_is_nobodys_meeting(text: str) -> None:
    assert m.read(text) is None


def test_odd_rules_and_addresses_do_no_harm() -> None:
    often = read(event("s", "Tick", START, "a@x.example", ["b@x.example"], "FREQ=SECONDLY"))
    assert not m.is_ahead(often, START + timedelta(days=40))
    odd = Event()
    odd.add("UID", "o")
    odd.add("DTSTART", START)
    odd.add("ORGANIZER", vCalAddress("mailto:a@x.example"))
    for address in ("mailto:b@x.example,c@x.example", "tel:+1", "mailto:<b@x.example>"):
        odd.add("ATTENDEE", vCalAddress(address))
    found = Calendar()
    found.add_component(odd)
    assert m.attendees(found) == []
