"""What a person should have: settings, exclusions, roles by decision; joiners, renames, own steps."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from typing import Any

import pytest

from tests.builders import RULES, account, by_role, person, role, subject, world
from yugum.core.accounts import AccountState, HoldingKind
from yugum.core.actions import Action, Phase
from yugum.core.applications import Application, Capability, Trust
from yugum.core.causes import MoverCause, cause_document, cause_from
from yugum.core.conditions import EVERYONE
from yugum.core.decisions import Decision, DecisionKind, Payload
from yugum.core.desired import World, desired
from yugum.core.obligations import owed
from yugum.core.planning import plan_subject
from yugum.core.renames import kept_as, plan_rename
from yugum.core.roles import (
    Exclusion,
    Given,
    OwnStep,
    Precedence,
    Procedure,
    Reach,
    Role,
    Rules,
    merged,
)
from yugum.core.verbs import Verb

NOW = datetime(2031, 3, 3, 8, 40, tzinfo=UTC)


def with_rules(**changes: Any) -> World:
    made = world()
    return replace(made, rules=replace(made.rules, **changes))


def quota(name: str, value: str) -> Role:
    return Role(
        name, EVERYONE, "userName pr", (Given("crew", HoldingKind.SETTING, "quota", value),)
    )


@pytest.mark.parametrize(
    ("how", "wanted"),
    [
        (Precedence.LARGEST, "10 GB"),
        (Precedence.SMALLEST, "900 MB"),
        (Precedence.FIRST, "2 GB"),
        (Precedence.ALL, "10 2 900 GB MB"),
    ],
)
def test_several_roles_agree_on_one_value(how: Precedence, wanted: str) -> None:
    roles = (quota("A", "2 GB"), quota("B", "10 GB"), quota("C", "900 MB"))
    made = with_rules(roles=roles, precedence={"quota": how})
    assert merged(["2 GB", "10 GB", "900 MB"], how) == wanted
    if how is not Precedence.ALL:
        value, origin, reason = desired(subject(), made.rules, NOW)["crew"].settings["quota"]
        assert value == wanted
        assert origin.name in reason
        assert "before" in reason


def test_a_setting_is_given_and_goes_back_with_its_role() -> None:
    made = with_rules(roles=(*RULES.roles, quota("Post", "2 GB")))
    have = account(entitlements=frozenset({"deck"}), seats=frozenset({"planner"}))
    plan = plan_subject(subject(accounts=(have,)), made, NOW, Verb.MOVER)
    step = next(s for s in plan.steps if s.action is Action.SET)
    assert (step.item, step.after, step.origin) == ("quota", "2 GB", by_role("Post"))
    held = replace(have, settings={"quota": "2 GB"})
    ledger = {(have.id, HoldingKind.SETTING, "quota"): by_role("Post")}
    gone = plan_subject(subject(accounts=(held,), ledger=ledger), world(), NOW, Verb.MOVER)
    back = next(s for s in gone.steps if s.action is Action.SET)
    assert (back.after, back.reason) == ("nothing", "role Post no longer applies")


def test_a_value_carries_the_persons_own_dates() -> None:
    expires = Role(
        "T", EVERYONE, "x", (Given("crew", HoldingKind.SETTING, "ends", "until {contract_ends}"),)
    )
    who = subject(person=person(contract_ends=date(2031, 9, 30)))
    found = desired(who, with_rules(roles=(expires,)).rules, NOW)["crew"].settings["ends"]
    assert found[0] == "until 2031-09-30"


def test_what_excludes_each_other_is_given_once_and_told() -> None:
    both = role("Both", "Deck", ("crew", HoldingKind.ENTITLEMENT, "timetables"))
    made = with_rules(
        roles=(*RULES.roles, both),
        exclusions=(Exclusion("not both", (("crew", "deck"), ("crew", "timetables"))),),
    )
    plan = plan_subject(subject(), made, NOW, Verb.JOINER)
    granted = {s.item for s in plan.steps if s.action is Action.GRANT}
    assert granted == {"deck", "deck_reports"}
    assert any("timetables is not given beside deck" in c.text for c in plan.cautions)


def test_a_role_can_be_given_by_decision_for_a_time() -> None:
    ends = NOW + timedelta(days=14)
    decision = Decision(
        id="d1",
        subject_id="p1",
        kind=DecisionKind.ROLE,
        payload=Payload(role="Timetables"),
        reason="overlap",
        starts=NOW,
        ends=ends,
    )
    cause = MoverCause(decisions=(decision,))
    assert cause_from(Verb.MOVER, cause_document(cause)) == cause
    who = subject(decisions=(decision,))
    assert "timetables" in desired(who, RULES, NOW)["crew"].entitlements
    assert "timetables" not in desired(who, RULES, ends)["crew"].entitlements
    assert ends in {o.due for o in owed(who, world(), NOW)}


def prepared(days: int) -> World:
    made = world()
    crew = made.applications["crew"]
    crew = replace(crew, profile=replace(crew.profile, prepare_days=days))
    return replace(made, applications={**made.applications, "crew": crew})


def test_a_joiner_is_prepared_ahead_and_opened_on_the_day() -> None:
    made = prepared(5)
    who = subject(person=person(starts=date(2031, 3, 10)))
    start = datetime(2031, 3, 10, tzinfo=UTC)
    assert plan_subject(who, made, start - timedelta(days=5, seconds=1), Verb.JOINER).steps == ()
    assert start - timedelta(days=5) in {o.due for o in owed(who, made, NOW)}
    early = plan_subject(who, made, start - timedelta(days=5), Verb.JOINER)
    create = early.steps[0]
    assert create.arguments.closed is True
    assert {s.application_id for s in early.steps} == {"crew"}
    assert Action.SET_CREDENTIAL not in {s.action for s in early.steps}
    closed = account(state=AccountState.SUSPENDED, entitlements=frozenset({"deck"}))
    ledger = {(closed.id, HoldingKind.ACCOUNT, ""): by_role("Deck")}
    there = replace(who, accounts=(closed,), ledger=ledger)
    day = [
        (s.application_id, s.action) for s in plan_subject(there, made, start, Verb.JOINER).steps
    ]
    assert ("crew", Action.RESUME) in day
    assert ("crew", Action.SET_CREDENTIAL) in day
    assert ("reports", Action.CREATE) in day


def test_a_postponed_joiner_is_closed_and_kept() -> None:
    who = subject(
        person=person(starts=date(2031, 5, 1)),
        accounts=(account(entitlements=frozenset({"deck"}), seats=frozenset({"planner"})),),
        ledger={("a-crew", HoldingKind.ACCOUNT, ""): by_role("Deck")},
    )
    plan = plan_subject(who, prepared(5), NOW, Verb.JOINER)
    assert [s.action for s in plan.steps] == [Action.CUT_OFF]
    assert [o.kind for o in owed(who, prepared(5), NOW)] == ["recheck"]


def test_a_rename_names_what_cannot_follow() -> None:
    made = world()
    reports = made.applications["reports"]
    able = reports.capabilities - {Capability.RENAME}
    made = replace(
        made, applications={**made.applications, "reports": replace(reports, capabilities=able)}
    )
    who = subject(
        person=person(user_name="mberg", display_name="Mara Berg"),
        accounts=(account(), account("reports"), account(id="a-other", login="mara-admin")),
    )
    plan = plan_rename(who, made, NOW, "mquill")
    renames = [(s.application_id, s.item) for s in plan.steps if s.action is Action.RENAME]
    assert renames == [("crew", "mberg")]
    assert {c.code for c in plan.cautions} >= {"cannot-rename", "other-login"}


def test_an_alias_lasts_exactly_its_days() -> None:
    until = NOW + timedelta(days=30)
    where = {"crew": ("d1", "alias"), "reports": ("d2", "")}
    made = kept_as(person(), where, "mquill", until, NOW, "iholm", "the old name")
    assert kept_as(person(), where, "mquill", NOW, NOW, "iholm", "for no time") == []
    assert [(d.starts, d.ends) for d in made] == [(NOW, NOW + timedelta(days=30))]
    who = subject(decisions=tuple(made))
    assert desired(who, Rules(), NOW)["crew"].settings["alias"][0] == "mquill"
    assert desired(who, Rules(), NOW + timedelta(days=30)) == {}


def test_own_steps_run_once_for_what_caused_them() -> None:
    desk = Application(
        id="desk",
        name="Desk",
        kind="web-hook",
        capabilities=frozenset({Capability.RUN}),
        trust=Trust.FULL,
    )
    step = OwnStep("badge", "desk", Phase.ACCESS)
    made = with_rules(procedures={Verb.LEAVER: Procedure(steps=(step,))})
    made = replace(made, applications={**made.applications, "desk": desk})
    who = subject(person=person(access_ends=NOW))
    plan = plan_subject(who, made, NOW, Verb.LEAVER)
    run = next(s for s in plan.steps if s.action is Action.RUN)
    assert run.arguments.run == "leaver:2031-03-03T08:40:00Z"
    done = account("desk", settings={"badge": run.arguments.run}, state=AccountState.SUSPENDED)
    again = plan_subject(
        replace(who, accounts=(done,)), made, NOW + timedelta(hours=1), Verb.LEAVER
    )
    assert [s for s in again.steps if s.application_id == "desk"] == []
    later = replace(who.person, access_ends=NOW + timedelta(days=90))
    once_more = replace(who, person=later, accounts=(done,))
    plan = plan_subject(once_more, made, NOW + timedelta(days=90), Verb.LEAVER)
    assert [s.item for s in plan.steps if s.application_id == "desk"] == ["badge"]


def test_a_change_for_later_joiners_leaves_who_began_before_as_they_were() -> None:
    def deck(version: int, reach: Reach, *entitlements: str) -> Rules:
        made = role("Deck", "Deck", *(("crew", HoldingKind.ENTITLEMENT, e) for e in entitlements))
        return Rules(version, (replace(made, reach=reach),), since=NOW + timedelta(days=version))

    first = deck(1, Reach.EVERYBODY, "deck")
    second = deck(2, Reach.LATER_JOINERS, "deck", "boats")
    third = deck(3, Reach.LATER_JOINERS, "boats")
    history = [(r.since or NOW, r) for r in (first, second)]
    rules = third.after(history)

    def held(starts: date | None) -> set[str]:
        one = subject(person=person(starts=starts))
        return set(desired(one, rules, NOW + timedelta(days=90))["crew"].entitlements)

    assert held(None) == held(date(2031, 1, 1)) == {"deck"}
    assert held(date(2031, 3, 6)) == {"deck", "boats"}, "between the second and the third"
    assert held(date(2031, 3, 9)) == {"boats"}
    everybody = deck(4, Reach.EVERYBODY, "watch").after([*history, (rules.since or NOW, third)])
    assert everybody.roles[0].earlier == (), "a change for everybody ends all that was before"
    fresh = deck(1, Reach.LATER_JOINERS, "deck").after([(NOW, Rules(0, ()))])
    old = subject(person=person(starts=date(2031, 1, 1)))
    assert desired(old, fresh, NOW + timedelta(days=90)).get("crew") is None
    assert first.after([]) is first
