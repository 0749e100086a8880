"""Leaving at the edges of time: summer time, leap day, people half a day ahead."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, date, datetime, timedelta

import pytest

from tests.builders import account, person, subject, world
from yugum.core.accounts import AccountState
from yugum.core.obligations import owed
from yugum.core.offsets import WorkingHours
from yugum.core.people import PersonState, day_begins, state_at
from yugum.core.requests import PlanRequest
from yugum.core.verbs import Verb
from yugum.core.windows import can_come_back
from yugum.engine.plans.meanings import meaning_of
from yugum.errors import Conflict, InvalidInput

NOW = datetime(2031, 3, 3, 8, 40, tzinfo=UTC)


@pytest.mark.parametrize(
    ("zone", "now", "at", "ends", "last"),
    [
        # the night London's clocks go forward
        ("Europe/London", datetime(2031, 3, 29, tzinfo=UTC), "2031-03-30 17:00",
         datetime(2031, 3, 30, 16, tzinfo=UTC), date(2031, 3, 30)),
        ("Europe/London", datetime(2031, 3, 29, tzinfo=UTC), "2031-03-30 02:00",
         datetime(2031, 3, 30, 1, tzinfo=UTC), date(2031, 3, 30)),
        # the night they go back: 01:30 is there twice, the first one is meant
        ("Europe/London", datetime(2031, 10, 25, tzinfo=UTC), "2031-10-26 01:30",
         datetime(2031, 10, 26, 0, 30, tzinfo=UTC), date(2031, 10, 26)),
        ("Europe/London", datetime(2032, 2, 1, tzinfo=UTC), "2032-02-29 17:00",
         datetime(2032, 2, 29, 17, tzinfo=UTC), date(2032, 2, 29)),
        # 14 hours ahead: Friday evening there is Friday morning in UTC, the day is still Friday
        ("Pacific/Kiritimati", NOW, "2031-03-07 17:00",
         datetime(2031, 3, 7, 3, tzinfo=UTC), date(2031, 3, 7)),
        ("Pacific/Kiritimati", NOW, "2031-03-08 00:00",
         datetime(2031, 3, 7, 10, tzinfo=UTC), date(2031, 3, 8)),
    ],
)  # fmt: skip
def test_access_ends_when_the_persons_own_clock_says(
    zone: str, now: datetime, at: str, ends: datetime, last: date
) -> None:
    who = person(time_zone=zone)
    meaning = meaning_of(PlanRequest(verb=Verb.LEAVER, at=at), who, WorkingHours(), now)
    assert meaning.due == ends
    assert meaning.after.last_working_day == last
    assert state_at(meaning.after, ends - timedelta(seconds=1)) is PersonState.ACTIVE
    assert state_at(meaning.after, ends) is PersonState.LEFT


def test_a_leaver_who_is_learned_of_late_left_then_and_is_cut_off_now() -> None:
    then = NOW - timedelta(days=9)
    said = PlanRequest(verb=Verb.LEAVER, since=then.isoformat())
    meaning = meaning_of(said, person(), WorkingHours(), NOW)
    assert (meaning.after.access_ends, meaning.due, meaning.effective) == (then, NOW, then)
    with pytest.raises(InvalidInput):
        meaning_of(replace(said, at="Friday"), person(), WorkingHours(), NOW)
    with pytest.raises(InvalidInput):
        meaning_of(replace(said, since="2031-12-24"), person(), WorkingHours(), NOW)
    with pytest.raises(InvalidInput):
        meaning_of(said, person(starts=NOW.date()), WorkingHours(), NOW)
    with pytest.raises(Conflict):
        meaning_of(said, person(access_ends=then), WorkingHours(), NOW)


@pytest.mark.parametrize(
    ("ended", "closes"),
    [
        (datetime(2032, 2, 22, 17, tzinfo=UTC), datetime(2032, 2, 29, 17, tzinfo=UTC)),
        (datetime(2031, 3, 26, 17, tzinfo=UTC), datetime(2031, 4, 2, 16, tzinfo=UTC)),
    ],
)
def test_a_delay_counts_calendar_days(ended: datetime, closes: datetime) -> None:
    who = subject(
        person=person(access_ends=ended, time_zone="Europe/London"),
        accounts=(account(state=AccountState.SUSPENDED),),
    )
    due = [o.due for o in owed(who, world(), ended) if o.kind == "close"]
    assert due == [closes]


def test_a_second_decides() -> None:
    until = NOW + timedelta(days=30)
    gone = account(state=AccountState.DELETED, recoverable_until=until)
    assert can_come_back(gone, until - timedelta(seconds=1))
    assert not can_come_back(gone, until)


def test_a_first_day_begins_at_midnight_there() -> None:
    assert day_begins(date(2031, 3, 10), "Pacific/Kiritimati") == datetime(
        2031, 3, 9, 10, tzinfo=UTC
    )
