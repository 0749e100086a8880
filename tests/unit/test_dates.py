"""Dates as operators write them."""

from __future__ import annotations

from datetime import UTC, date, datetime

import pytest

from yugum.core.dates import parse_day, parse_moment
from yugum.errors import InvalidInput

MONDAY = datetime(2031, 3, 3, 8, 40, tzinfo=UTC)


@pytest.mark.parametrize(
    ("text", "zone", "wanted"),
    [
        ("now", "UTC", "2031-03-03T08:40"),
        ("Fri 17:00", "UTC", "2031-03-07T17:00"),
        ("friday", "Europe/Helsinki", "2031-03-07T15:00"),
        ("Mon 08:00", "UTC", "2031-03-10T08:00"),  # today's is past, so next week's
        ("Mon 09:00", "UTC", "2031-03-03T09:00"),
        ("2031-03-30 17:00", "Europe/London", "2031-03-30T16:00"),  # clocks changed that day
        ("2031-03-29 17:00", "Europe/London", "2031-03-29T17:00"),
        ("2032-02-29", "UTC", "2032-02-29T17:00"),
        ("+12d", "UTC", "2031-03-15T08:40"),
        ("tomorrow 07:30", "Pacific/Kiritimati", "2031-03-03T17:30"),  # 14 hours ahead
        ("2031-03-07T17:00:00+02:00", "UTC", "2031-03-07T15:00"),
    ],
)
def test_moments(text: str, zone: str, wanted: str) -> None:
    assert parse_moment(text, MONDAY, zone) == datetime.fromisoformat(f"{wanted}+00:00")


@pytest.mark.parametrize(
    "text", ["03/04/2031", "3.4.2031", "2031-02-29", "T", "someday", "Fri 25:00", "", "2031-13-01"]
)
def test_unclear_dates_are_refused_with_the_forms_that_are_taken(text: str) -> None:
    with pytest.raises(InvalidInput) as caught:
        parse_moment(text, MONDAY, "UTC")
    assert "2031-03-07" in caught.value.remedy
    assert caught.value.place == "at"


def test_a_relative_day_keeps_the_clock_over_a_change_of_time() -> None:
    before = datetime(2031, 3, 29, 17, 0, tzinfo=UTC)
    assert parse_moment("+1d", before, "Europe/London") == datetime(2031, 3, 30, 16, tzinfo=UTC)


def test_a_day_is_the_day_in_the_zone() -> None:
    late = datetime(2031, 3, 3, 23, 30, tzinfo=UTC)
    assert parse_day("tomorrow", late, "Pacific/Kiritimati") == date(2031, 3, 5)


@pytest.mark.parametrize(
    ("zone", "text", "neighbours"),
    [
        ("Europe/London", "2031-03-30 01:00", ("00:59", "02:00")),
        ("Europe/London", "2031-03-30 01:59", ("00:59", "02:00")),
        ("Europe/Helsinki", "sun 03:30", ("02:59", "04:00")),
        ("Australia/Lord_Howe", "2031-10-05 02:15", ("01:59", "02:30")),
        ("Pacific/Apia", "2011-12-30 12:00", ("2011-12-29 23:59", "2011-12-31 00:00")),
    ],
)
def test_a_time_that_clocks_skip_is_refused_with_its_neighbours(
    zone: str, text: str, neighbours: tuple[str, str]
) -> None:
    now = datetime(2031, 3, 28, tzinfo=UTC)
    with pytest.raises(InvalidInput) as refused:
        parse_moment(text, now, zone)
    assert all(n in refused.value.remedy for n in neighbours)
    assert refused.value.place == "at"
