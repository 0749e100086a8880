"""When a step of a procedure is due, in the person's time zone and working time."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, date, datetime, time, timedelta

import pytest

from tests.builders import RULES, person
from yugum.core.accounts import Account, AccountState
from yugum.core.actions import Action, Phase
from yugum.core.applications import Application, Capability
from yugum.core.conditions import Compare, Op
from yugum.core.desired import Subject, World
from yugum.core.obligations import owed
from yugum.core.offsets import Offset, WorkingHours, parse_days, parse_offset
from yugum.core.planning import plan_subject
from yugum.core.procedures import ready_steps
from yugum.core.roles import OwnStep, Procedure
from yugum.core.verbs import Verb
from yugum.errors import InvalidInput

HOURS = WorkingHours()


@pytest.mark.parametrize(
    ("text", "zone", "wanted"),
    [
        ("starts", "UTC", "2031-03-28T00:00"),
        ("starts -2d 09:00", "Europe/London", "2031-03-26T09:00"),
        ("starts +3d 09:00", "Europe/London", "2031-03-31T08:00"),  # clocks have changed
        ("starts +1w", "Pacific/Kiritimati", "2031-04-03T10:00"),  # 14 hours ahead
        ("starts +30h", "UTC", "2031-03-29T06:00"),
        ("starts +1d 09:00 working", "UTC", "2031-03-31T08:00"),  # Saturday, so Monday
        ("starts +0d 06:30 working", "UTC", "2031-03-28T08:00"),  # before the day begins
        ("starts +0d 17:00 working", "UTC", "2031-03-31T08:00"),  # the end is too late
        ("starts +0d 16:59 working", "UTC", "2031-03-28T16:59"),
        ("contract_ends -1d", "UTC", "2032-02-29T00:00"),
        ("access_ends +2h", "UTC", "2031-12-31T18:00"),
    ],
)
def test_moments(text: str, zone: str, wanted: str) -> None:
    who = person(
        starts=date(2031, 3, 28),
        contract_ends=date(2032, 3, 1),
        access_ends=datetime(2031, 12, 31, 16, tzinfo=UTC),
        time_zone=zone,
    )
    moment = parse_offset(text).moment(who, HOURS)
    assert moment == datetime.fromisoformat(f"{wanted}+00:00")


def test_a_date_that_is_not_known_gives_no_moment() -> None:
    assert Offset("last_working_day").moment(person(), HOURS) is None


@pytest.mark.parametrize(
    "text",
    ["", "soon", "birthday +1d", "starts 3d", "starts +3x", "starts +1d 25:00", "starts +1h 09:00"],
)
def test_what_says_no_time_is_refused_with_a_remedy(text: str) -> None:
    with pytest.raises(InvalidInput) as caught:
        parse_offset(text)
    assert caught.value.remedy


@pytest.mark.parametrize("days", [[], ["someday"], ["t"], ["mo"]])
def test_days_that_are_none(days: list[str]) -> None:
    with pytest.raises(InvalidInput):
        parse_days(days)


def test_days_by_name() -> None:
    assert parse_days(["mon", "Tuesday", " sat"]) == {0, 1, 5}


DESK = Application(
    id="desk", name="Desk", kind="web-hook", capabilities=frozenset({Capability.RUN})
)
MONDAY = datetime(2031, 3, 3, 8, tzinfo=UTC)


def _subject(site: str = "Oxhaven") -> Subject:
    return Subject(person=person(starts=date(2031, 3, 3), site=site, department="Nowhere"))


def _world(step: OwnStep, since: datetime = MONDAY - timedelta(days=30)) -> World:
    made = replace(RULES, procedures={Verb.JOINER: Procedure(steps=(step,))}, since=since)
    return World(applications={"desk": DESK}, rules=made)


def _runs(subject: Subject, where: World, at: datetime, verb: Verb) -> list[str]:
    plan = plan_subject(subject, where, at, verb)
    return [s.item for s in plan.steps if s.action is Action.RUN]


def test_a_later_step_is_owed_then_run_once_and_never_caught_up_from_before_the_rules() -> None:
    step = OwnStep("call", "desk", Phase.ACCESS, at=Offset("starts", days=2, clock=time(9)))
    where, due = _world(step), datetime(2031, 3, 5, 9, tzinfo=UTC)
    assert _runs(_subject(), where, MONDAY, Verb.JOINER) == []
    assert [o.due for o in owed(_subject(), where, MONDAY) if "call" in o.basis] == [due]
    assert _runs(_subject(), where, due - timedelta(seconds=1), Verb.RECHECK) == []
    assert _runs(_subject(), where, due, Verb.RECHECK) == ["call"]
    account = Account(
        id="x",
        application_id="desk",
        person_id="p",
        state=AccountState.ACTIVE,
        settings={"call": "joiner:2031-03-03"},
    )
    assert _runs(replace(_subject(), accounts=(account,)), where, due, Verb.RECHECK) == []
    adopted_later = _world(step, since=due + timedelta(hours=1))
    assert _runs(_subject(), adopted_later, due + timedelta(days=1), Verb.RECHECK) == []


def test_a_fixed_term_has_the_steps_of_its_beginning_too() -> None:
    step = OwnStep("call", "desk", Phase.ACCESS, at=Offset("starts", days=2, clock=time(9)))
    where, due = _world(step), datetime(2031, 3, 5, 9, tzinfo=UTC)
    term = replace(_subject().person, access_ends=datetime(2031, 9, 1, tzinfo=UTC))
    subject = Subject(person=term)
    assert due in {o.due for o in owed(subject, where, MONDAY)}
    assert _runs(subject, where, due, Verb.RECHECK) == ["call"]
    gone = Subject(person=replace(term, access_ends=due - timedelta(hours=1)))
    assert _runs(gone, where, due, Verb.RECHECK) == [], "who has left is not welcomed any more"


def test_a_step_waits_for_what_it_needs_to_know() -> None:
    brae = Compare("site", Op.EQ, "brae point")
    step = OwnStep("key", "desk", Phase.ACCESS, wait_for=brae)
    where = _world(step)
    assert _runs(_subject(), where, MONDAY, Verb.JOINER) == []
    assert ready_steps(_subject(), where, MONDAY) == []
    posted = _subject("Brae Point")
    assert [s.name for _, s in ready_steps(posted, where, MONDAY)] == ["key"]
    assert _runs(posted, where, MONDAY, Verb.RECHECK) == ["key"]
