"""What a leaver's account is set to: for how long, on what ground, and with whose name in it."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest

from tests.builders import RULES, account, person, subject
from yugum.core.accounts import AccountState
from yugum.core.actions import Action, Phase
from yugum.core.applications import Application, Profile
from yugum.core.desired import Subject, Successor, World
from yugum.core.obligations import owed
from yugum.core.planning import plan_subject
from yugum.core.references import is_as
from yugum.core.verbs import Verb

LEFT = datetime(2031, 3, 7, 17, tzinfo=UTC)
MAIL = Application(
    id="mail",
    name="Mail",
    kind="dovecot",
    profile=Profile(
        close_after_days=60,
        leaver_settings={
            "forward": "{successor_mail}",
            "reply": "{name} has left; {successor_name} reads this.",
            "mark": "left {date}",
        },
        standard_settings={"forward": "", "reply": "", "mark": ""},
        leaver_setting_days={"forward": 45, "reply": 30},
        leaver_ground="works agreement 12",
    ),
)
WORLD = World(applications={"mail": MAIL}, rules=RULES)
HEIR = Successor(
    person=person(id="p2", user_name="kaj", display_name="Kaj Lund", mail="kaj@ferries.example")
)


def leaver(settings: dict[str, str] | None = None, heir: Successor | None = HEIR) -> Subject:
    held = account("mail", settings=settings or {}, state=AccountState.SUSPENDED)
    return subject(person=person(access_ends=LEFT), accounts=(held,), successor=heir)


def settings(who: Subject, at: datetime) -> dict[str, str]:
    """Name to value of each setting the plan at a moment would make."""
    plan = plan_subject(who, WORLD, at, Verb.LEAVER)
    return {s.item: str(s.arguments.value) for s in plan.steps if s.action is Action.SET}


def test_they_name_the_successor_and_say_until_when_and_why() -> None:
    assert settings(leaver(), LEFT) == {
        "forward": "kaj@ferries.example",
        "reply": "Mara Quill has left; Kaj Lund reads this.",
        "mark": "left 2031-03-07",
    }
    steps = {s.item: s for s in plan_subject(leaver(), WORLD, LEFT, Verb.LEAVER).steps}
    assert "until 21 Apr 2031" in steps["forward"].reason
    assert "works agreement 12" in steps["forward"].reason
    assert steps["forward"].arguments.ground == "works agreement 12"
    assert "works agreement" not in steps["mark"].reason
    phases = [s.item for s in plan_subject(leaver(), WORLD, LEFT, Verb.LEAVER).steps]
    assert phases.index("forward") < phases.index("mark"), "mail comes before what is reclaimed"
    assert steps["forward"].phase is Phase.MAIL


@pytest.mark.parametrize(
    ("days", "seconds", "changed"),
    [
        (0, 60, {}),
        (30, -1, {}),
        (30, 0, {"reply": ""}),
        (45, -1, {"reply": ""}),
        (45, 0, {"forward": "", "reply": ""}),
    ],
)
def test_each_goes_back_to_the_standard_in_its_time(
    days: int, seconds: int, changed: dict[str, str]
) -> None:
    made = settings(leaver(), LEFT)
    at = LEFT + timedelta(days=days, seconds=seconds)
    assert settings(leaver(made), at) == changed


def test_the_end_is_owed_as_long_as_it_is_ahead() -> None:
    ends = {o.due for o in owed(leaver(), WORLD, LEFT) if o.kind == "recheck"}
    assert ends == {LEFT + timedelta(days=30)}, "the next one is enough"
    later = {o.due for o in owed(leaver(), WORLD, LEFT + timedelta(days=30)) if o.kind == "recheck"}
    assert later == {LEFT + timedelta(days=45)}
    gone = replace(leaver().accounts[0], state=AccountState.DELETED)
    assert not [
        o for o in owed(replace(leaver(), accounts=(gone,)), WORLD, LEFT) if o.kind == "recheck"
    ]


def test_without_a_successor_nothing_is_forwarded_and_the_plan_says_so() -> None:
    made = settings(leaver(heir=None), LEFT)
    assert made == {"mark": "left 2031-03-07"}
    plan = plan_subject(leaver(heir=None), WORLD, LEFT, Verb.LEAVER)
    assert sum(c.code == "no-successor" and "is not set" in c.text for c in plan.cautions) == 2


def test_the_day_in_a_mark_stays_the_day_somebody_left() -> None:
    made = settings(leaver(), LEFT)
    assert "mark" not in settings(leaver(made), LEFT + timedelta(days=20))


@pytest.mark.parametrize(
    ("held", "wanted", "same"),
    [
        ("left 2031-03-07 HR-7", "left {date} {reference}", False),
        ("left HR-7", "left {reference}", True),
        ("left", "left {reference}", True),
        ("left HR-7, gone", "left {reference}, gone", True),
        ("stays HR-7", "left {reference}", False),
        ("left HR-7", "left", False),
        ("left (a+b)", "left (a+b) {reference}", True),
    ],
)
def test_a_mark_is_as_wanted_with_any_reference(held: str, wanted: str, *, same: bool) -> None:
    assert is_as(held, wanted) is same


def test_a_mark_with_a_reference_is_set_once() -> None:
    profile = replace(MAIL.profile, leaver_settings={"mark": "left {date} {reference}"})
    world = replace(WORLD, applications={"mail": replace(MAIL, profile=profile)})

    def planned(held: str) -> dict[str, str]:
        steps = plan_subject(leaver({"mark": held}), world, LEFT, Verb.RECHECK).steps
        return {s.item: s.arguments.value for s in steps if s.action is Action.SET}

    assert planned("") == planned("left 2031-03-06 HR-7") == {"mark": "left 2031-03-07 {reference}"}
    assert planned("left 2031-03-07 HR-7") == planned("left 2031-03-07") == {}
