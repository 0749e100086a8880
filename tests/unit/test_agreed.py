"""What waits for a yes and what never does; what a docket is called, and what it came to."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest

from tests.builders import NOW, RULES, account, made_docket, person, subject, world
from yugum.core.accounts import HoldingKind
from yugum.core.actions import Action, Phase
from yugum.core.approvals import PURGE, needing
from yugum.core.decisions import Origin, OriginKind
from yugum.core.dockets import DocketOutcome, DocketState
from yugum.core.lines import AskedDocket, Hand, LineStatus
from yugum.core.mails import again
from yugum.core.offsets import WorkingHours
from yugum.core.people import PersonState
from yugum.core.planning import plan_subject
from yugum.core.plans import Plan, PlannedStep
from yugum.core.requests import PlanRequest
from yugum.core.roles import Procedure
from yugum.core.standing import as_agreed, standing
from yugum.core.veils import Veil
from yugum.core.verbs import Verb, title_of
from yugum.engine.plans.meanings import meaning_of
from yugum.engine.plans.safeguards import guard_done
from yugum.errors import Conflict, InvalidInput


def hand(verb: Verb, *, expired: bool = False) -> Hand:
    asked = AskedDocket(id="d1", number=1, subject_id="p1", verb=verb, expired=expired, made=NOW)
    return Hand(asked=(asked,))


LEFT: dict[str, Any] = {"access_ends": NOW - timedelta(hours=1)}
HELD: dict[str, Any] = {"entitlements": frozenset({"deck"}), "seats": frozenset({"planner"})}
LEDGER = {
    ("a-crew", HoldingKind.ACCOUNT, ""): Origin(OriginKind.ROLE, "Deck"),
    ("a-crew", HoldingKind.ENTITLEMENT, "deck"): Origin(OriginKind.ROLE, "Deck"),
}


@pytest.mark.parametrize("expired", [False, True])
def test_of_a_leaver_who_is_asked_about_only_the_end_of_access_is_done(expired: bool) -> None:
    leaver = subject(person=person(**LEFT), accounts=(account(**HELD),), ledger=LEDGER)
    plan = plan_subject(leaver, world(), NOW, Verb.RECHECK)
    assert {s.in_phase for s in plan.steps} > {Phase.SECURE}
    asked = as_agreed(plan, hand(Verb.LEAVER, expired=expired), PersonState.LEFT, world())
    assert {s.action for s in asked.steps} == {Action.CUT_OFF}
    there = as_agreed(plan, hand(Verb.LEAVER, expired=expired), PersonState.ACTIVE, world())
    assert there == plan, "who has not left yet is looked at as ever"
    assert as_agreed(plan, hand(Verb.MOVER), PersonState.ACTIVE, world()) == plan
    assert (
        as_agreed(plan, hand(Verb.JOINER, expired=expired), PersonState.ACTIVE, world()).steps == ()
    )


def test_a_leaver_nobody_agreed_to_is_planned_again_though_every_account_is_shut() -> None:
    """Somebody suspended before (as a precaution): no step is left, what closes later still waits."""
    gone, empty = person(**LEFT), Plan(subject_id="p1", verb=Verb.LEAVER, steps=())
    request = PlanRequest(verb=Verb.LEAVER, who=("p1",))
    guard_done(request, gone, empty, hand(Verb.LEAVER, expired=True), NOW)
    with pytest.raises(Conflict, match="has left already"):
        guard_done(request, gone, empty, hand(Verb.MOVER), NOW)


@pytest.mark.parametrize(
    ("expired", "status", "code"),
    [(False, LineStatus.WAITING, "approval"), (True, LineStatus.FINDING, "")],
)
def test_the_end_of_access_is_no_line_that_waits_for_a_yes(
    expired: bool, status: LineStatus, code: str
) -> None:
    leaver = subject(person=person(**LEFT), accounts=(account(**HELD),), ledger=LEDGER)
    lines = standing(leaver, world(), hand(Verb.LEAVER, expired=expired), NOW)
    told = {(x.kind.value, x.item): (x.status, x.code) for x in lines}
    assert told["account", ""] == (LineStatus.FINDING, "")
    assert told["entitlement", "deck"] == (status, code)
    assert told["docket", "leaver"] == (status, "expired" if expired else "approval")
    ahead = subject(
        person=person(access_ends=NOW + timedelta(days=3)), accounts=(account(),), ledger=LEDGER
    )
    told = {
        (x.kind.value, x.item): (x.status, x.code)
        for x in standing(ahead, world(), hand(Verb.LEAVER), NOW)
    }
    assert told["entitlement", "deck"] == (LineStatus.FINDING, ""), (
        "that has to do with the days before"
    )


def test_an_approval_is_about_what_needs_it() -> None:
    deck, *others = RULES.roles
    rules = replace(RULES, roles=(replace(deck, approval="captains"), *others))
    origin = Origin(OriginKind.ROLE, "Deck")
    grant = PlannedStep(
        application_id="crew",
        account_id="",
        action=Action.GRANT,
        before="not held",
        after="held",
        reason="role Deck",
        item="deck",
        origin=origin,
    )
    other = replace(grant, item="shore", origin=Origin(OriginKind.ROLE, "Timetables"))
    purge = replace(grant, account_id="a1", action=Action.PURGE, item="", origin=None)
    about = needing(Verb.MOVER, (grant, other, purge), rules)
    assert about == {
        PURGE: (("crew", "purge", "", "a1"),),
        "captains": (("crew", "grant", "deck", ""),),
    }
    ruled = replace(rules, procedures={Verb.MOVER: Procedure(approval="board")})
    assert needing(Verb.MOVER, (grant, other), ruled)["board"] == (
        ("crew", "grant", "deck", ""),
        ("crew", "grant", "shore", ""),
    )


def test_working_hours_are_counted_over_nights_and_weekends() -> None:
    hours = WorkingHours()
    friday = datetime(2031, 3, 7, 15, tzinfo=UTC)
    assert hours.later(friday, 2, "UTC") == friday.replace(hour=17)
    monday = datetime(2031, 3, 10, 10, tzinfo=UTC)
    assert hours.later(friday, 4, "UTC") == monday
    assert hours.later(friday.replace(hour=22), 1, "UTC") == monday.replace(hour=9)
    assert hours.later(friday, 2 + 9 * 6, "UTC") == datetime(2031, 3, 17, 17, tzinfo=UTC)


@pytest.mark.parametrize(
    ("more", "outcome"),
    [
        ({"steps_total": 3, "steps_done": 3}, DocketOutcome.DONE),
        ({"steps_total": 0, "steps_done": 0}, DocketOutcome.NOTHING),
        ({"steps_total": 2, "steps_done": 2, "steps_so_already": 2}, DocketOutcome.NOTHING),
        ({"steps_total": 2, "steps_done": 2, "steps_left_out": 2}, DocketOutcome.LEFT_OUT),
        ({"steps_total": 2, "steps_done": 2, "steps_left_out": 1}, DocketOutcome.IN_PART),
        ({"steps_done": 1, "brought_back": True}, DocketOutcome.BROUGHT_BACK),
        ({"state": DocketState.SUPERSEDED}, DocketOutcome.TAKEN_OVER),
        ({"state": DocketState.AWAITING}, DocketOutcome.AWAITING),
    ],
)
def test_a_docket_is_called_done_only_if_it_did_something(
    more: dict[str, Any], outcome: DocketOutcome
) -> None:
    assert made_docket(**more).outcome is outcome


def test_a_docket_is_called_by_what_it_does() -> None:
    assert title_of(Verb.EXTENSION) == "extension"
    assert title_of(Verb.RECHECK, basis="rules version 3") == "recheck: rules version 3"
    assert title_of(Verb.ACCOUNT, "suspend") == "suspend account"
    assert title_of(Verb.ACCOUNT, "suspend", "secure") == "precaution, secured anew"


def test_what_is_to_be_done_again_is_told_by_application() -> None:
    told = again(
        [
            ("Mail", Action.RENAME, "mberg"),
            ("Crew", Action.RESUME, ""),
            ("Crew", Action.SET_CREDENTIAL, ""),
            ("Crew", Action.GRANT, "deck"),
        ]
    )
    first, second = told.splitlines()
    assert first.startswith("Crew: open again")
    assert "new password, told apart" in first
    assert (
        second == "Mail: the login is now mberg; replace it where a device or a program keeps it."
    )


def test_a_ground_is_hidden_wherever_it_stands() -> None:
    veil = Veil({}, {"p1": ["a claim (2031)"]})
    assert bool(veil)
    assert veil.hide("suspended: a claim (2031).", "p1") == "suspended: (in confidence)."
    assert veil.hide("suspended: a claim (2031).", "p2") == "suspended: a claim (2031)."


def test_a_first_day_back_begins_in_the_morning_and_a_joiner_is_put_off_for_a_month() -> None:
    away = person(absent_from=NOW - timedelta(days=9))

    def back(at: str) -> datetime:
        asked = PlanRequest(verb=Verb.RETURNER, who=("mquill",), at=at)
        return meaning_of(asked, away, WorkingHours(), NOW).due

    assert back("2031-03-05") == datetime(2031, 3, 5, tzinfo=UTC)
    assert back("2031-03-05 14:00") == datetime(2031, 3, 5, 14, tzinfo=UTC)
    assert back("today") == back("") == NOW
    with pytest.raises(InvalidInput, match="past"):
        back("2031-03-02")

    def put_off(days: int) -> datetime:
        came = person(starts=(NOW - timedelta(days=days)).date())
        asked = PlanRequest(verb=Verb.JOINER, who=("mquill",), at="2031-03-20")
        return meaning_of(asked, came, WorkingHours(), NOW).due

    assert put_off(30) == datetime(2031, 3, 20, tzinfo=UTC)
    with pytest.raises(Conflict, match="has begun already"):
        put_off(32)
