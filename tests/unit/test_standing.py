"""The standing difference: each line once, with exactly one status, and why."""

from __future__ import annotations

from dataclasses import replace
from datetime import timedelta
from typing import Any

import pytest

from tests.builders import NOW, acceptance, account, by_role, open_step, person, subject, world
from yugum.core.accounts import AccountState, HoldingKind
from yugum.core.actions import Action, Rival
from yugum.core.applications import Capability, Trust
from yugum.core.decisions import Decision, DecisionKind, Payload
from yugum.core.desired import Subject, World
from yugum.core.dockets import OpenStep, StepProblem, StepState
from yugum.core.lines import (
    AskedDocket,
    Hand,
    Line,
    LineStatus,
    Side,
    waits_for,
)
from yugum.core.outlived import closing_of_given, outlived
from yugum.core.planning import plan_subject
from yugum.core.roles import Exclusion
from yugum.core.standing import less, standing
from yugum.core.verbs import Measure, Verb

HELD = account(entitlements=frozenset({"deck"}), seats=frozenset({"planner"}))
LEDGER = {
    ("a-crew", HoldingKind.ACCOUNT, ""): by_role("Deck"),
    ("a-crew", HoldingKind.ENTITLEMENT, "deck"): by_role("Deck"),
}
GRANT = open_step(Action.GRANT, "deck")


def stuck(code: str, state: StepState = StepState.WAITING) -> OpenStep:
    return replace(GRANT, state=state, problem=StepProblem(code=code, text="…"), held_at=NOW)


def lacking() -> Subject:
    """Somebody of Deck with an account in crew that lacks its group, and none in reports."""
    mine = replace(HELD, entitlements=frozenset())
    return subject(accounts=(mine,), ledger=LEDGER)


def lines(one: Subject, known: World | None = None, hand: Hand | None = None) -> dict[Any, Line]:
    found = standing(one, known or world(), hand or Hand(), NOW)
    assert len({line.key for line in found}) == len(found), "each line once"
    return {(x.application_id, x.kind.value, x.item, x.side.value): x for x in found}


MISSING = ("crew", "entitlement", "deck", "missing")


def test_what_a_look_would_plan_is_the_difference() -> None:
    found = lines(lacking())
    assert set(found) == {
        MISSING,
        ("reports", "account", "", "missing"),
        ("reports", "entitlement", "deck_reports", "missing"),
    }
    assert {x.status for x in found.values()} == {LineStatus.FINDING}
    assert found[MISSING].reason == "role Deck"


@pytest.mark.parametrize(
    ("step", "status", "code"),
    [
        (GRANT, LineStatus.RUNNING, ""),
        (replace(GRANT, waiting=True), LineStatus.WAITING, "needs"),
        (stuck("no-seat"), LineStatus.WAITING, "seat"),
        (stuck("task", StepState.INTENT), LineStatus.WAITING, "task"),
        (stuck("silent", StepState.DUE), LineStatus.WAITING, "no-answer"),
        (stuck("settling", StepState.SETTLING), LineStatus.WAITING, "not-seen"),
        (stuck("rejected", StepState.ATTENTION), LineStatus.WAITING, "attention"),
        (stuck("held"), LineStatus.WAITING, "hold"),
    ],
)
def test_a_line_in_hand_says_what_its_step_waits_for(
    step: OpenStep, status: LineStatus, code: str
) -> None:
    line = lines(lacking(), hand=Hand(steps=[step]))[MISSING]
    assert (line.status, line.code, line.step_id, line.ref) == (status, code, "s1", "d1")
    if code not in ("", "needs"):
        assert line.waits_since == NOW
        assert waits_for(code)


def test_one_that_is_accepted_counts_again_after_its_end() -> None:
    made = acceptance(made=NOW - timedelta(days=1), ends=NOW + timedelta(days=1))
    assert lines(lacking(), hand=Hand(accepted=[made]))[MISSING].status is LineStatus.ACCEPTED
    for other in (
        replace(made, ends=NOW),
        replace(made, side=Side.TOO_MUCH),
        replace(made, item="bridge"),
    ):
        line = lines(lacking(), hand=Hand(accepted=[other]))[MISSING]
        assert line.status is LineStatus.FINDING
    both = lines(lacking(), hand=Hand(accepted=[made], steps=[GRANT]))
    assert both[MISSING].status is LineStatus.RUNNING, "what is in hand comes first"


def test_a_docket_that_awaits_a_yes_is_a_line_and_what_it_would_do_waits_with_it() -> None:
    asked = AskedDocket(
        id="d9", number=9, subject_id="p1", verb=Verb.MOVER, expired=False, made=NOW
    )
    found = lines(lacking(), hand=Hand(asked=[asked]))
    assert found[MISSING].code == "approval"
    docket = found["", "docket", "mover", "asked"]
    assert (docket.status, docket.ref) == (LineStatus.WAITING, "d9")
    gone = lines(lacking(), hand=Hand(asked=[replace(asked, expired=True)]))
    assert gone["", "docket", "mover", "asked"].status is LineStatus.FINDING
    assert gone[MISSING].status is LineStatus.FINDING


def with_crew(**more: Any) -> World:
    made = world()
    crew = replace(made.applications["crew"], **more)
    return replace(made, applications={**made.applications, "crew": crew})


def test_what_cannot_be_planned_is_a_line_all_the_same() -> None:
    watched = lines(lacking(), with_crew(trust=Trust.WATCH))[MISSING]
    assert (watched.status, watched.code) == (LineStatus.WAITING, "trust")
    every = world().applications["crew"].capabilities
    silent = lines(lacking(), with_crew(capabilities=every - {Capability.ENTITLEMENTS}))[MISSING]
    assert (silent.status, silent.code) == (LineStatus.FINDING, "cannot-grant")
    poor = replace(HELD, seats=frozenset())
    none = lines(subject(accounts=(poor,), ledger=LEDGER), replace(world(), pools={}))
    assert none["crew", "seat", "planner", "missing"].code == "no-pool"


def test_what_a_leaver_keeps_and_a_close_that_is_due_are_too_much() -> None:
    left = person(access_ends=NOW - timedelta(days=8))
    suspended = replace(HELD, state=AccountState.SUSPENDED, seats=frozenset())
    one = subject(person=left, accounts=(suspended,), ledger=LEDGER)
    found = lines(one)
    assert ("crew", "entitlement", "deck", "too_much") in found
    closing = found["crew", "account", "closing", "too_much"]
    assert (closing.status, closing.code) == (LineStatus.FINDING, "")
    hold = Decision(
        id="h", subject_id="p1", kind=DecisionKind.HOLD, author="ines", reason="claim", made=NOW
    )
    early = replace(hold, made=NOW - timedelta(days=20))
    for placed in (hold, early):
        held = lines(replace(one, decisions=(placed,)))
        assert ("crew", "account", "closing", "too_much") not in held, "it is not due"


def test_under_a_hold_a_deleted_account_is_to_come_back_and_nothing_is_to_go() -> None:
    left = person(access_ends=NOW - timedelta(days=8))
    until = NOW + timedelta(days=20)
    deleted = replace(HELD, state=AccountState.DELETED, recoverable_until=until)
    hold = Decision(id="h", subject_id="p1", kind=DecisionKind.HOLD, reason="claim", made=NOW)
    one = subject(person=left, accounts=(deleted,), ledger=LEDGER, decisions=(hold,))
    back = ("crew", "account", "", "missing")
    found = lines(one)
    assert set(found) == {back}
    assert (found[back].want, found[back].code) == ("suspended", "")
    watched = lines(one, with_crew(trust=Trust.WATCH))
    assert (watched[back].status, watched[back].code) == (LineStatus.WAITING, "trust")
    over = lines(replace(one, accounts=(replace(deleted, recoverable_until=NOW),)))
    closing = over["crew", "account", "closing", "too_much"]
    assert (closing.status, closing.code) == (LineStatus.WAITING, "hold")


def test_both_of_a_pair_are_one_line() -> None:
    pair = Exclusion("no two watches", (("crew", "deck"), ("crew", "engine")))
    both = replace(HELD, entitlements=frozenset({"deck", "engine"}))
    known = replace(world(), rules=replace(world().rules, exclusions=(pair,)))
    found = lines(subject(accounts=(both,), ledger=LEDGER), known)
    line = found["crew", "entitlement", "engine", "both"]
    assert line.want == "not beside deck"


def test_what_only_a_docket_asked_for_is_a_line_until_it_is_done() -> None:
    step = replace(GRANT, verb=Verb.CREDENTIAL, action=Action.SET_CREDENTIAL, item="")
    found = lines(subject(accounts=(HELD,), ledger=LEDGER), hand=Hand(steps=[step]))
    assert found["crew", "step", "set credential", "asked"].status is LineStatus.RUNNING
    idle = replace(GRANT, item="bridge")
    assert not any(
        x.item == "bridge" for x in lines(lacking(), hand=Hand(steps=[idle])).values()
    ), "what is not due any more is left out by the next look"


def test_an_account_that_comes_back_in_two_steps_is_one_line() -> None:
    back = NOW + timedelta(days=9)
    mine = replace(HELD, state=AccountState.DELETED, recoverable_until=back)
    steps = [open_step(a, verb=Verb.UNDO, id=a.value) for a in (Action.RESTORE, Action.RESUME)]
    found = lines(subject(accounts=(mine,), ledger=LEDGER), hand=Hand(steps=steps))
    assert [k for k in found if k[0] == "crew"] == [("crew", "account", "", "missing")]


def test_a_look_yields_to_what_is_in_hand_and_leaves_out_what_is_not_due() -> None:
    plan = plan_subject(lacking(), world(), NOW, Verb.RECHECK)
    idle = replace(GRANT, id="s2", item="bridge")
    doubt = replace(idle, id="s3", state=StepState.SETTLING)
    other = replace(idle, id="s4", verb=Verb.CREDENTIAL)
    create = replace(
        GRANT, id="s5", application_id="reports", account_id="new", action=Action.CREATE, item=""
    )
    rest, gone = less(plan, [GRANT, idle, doubt, other, create], (), world())
    assert gone == ["s2"], "what is in doubt, or nobody's look, stays"
    assert rest.summary[0] != plan.summary[0], "its head tells of what is left"
    left = {(s.application_id, s.action) for s in rest.steps}
    assert ("crew", Action.GRANT) not in left
    assert ("reports", Action.CREATE) not in left, "an account is made once"
    assert {s.account_id for s in rest.steps if s.application_id == "reports"} <= {"new", ""}


def test_the_one_that_comes_waits_until_the_one_that_goes_is_seen_gone() -> None:
    pair = Exclusion("not both", (("reports", "deck_reports"), ("crew", "timetables")))
    known = replace(world(), rules=replace(world().rules, exclusions=(pair,)))
    reports = account("reports", entitlements=frozenset({"deck_reports"}))
    moved = subject(
        person=person(department="Timetables"),
        accounts=(HELD, reports),
        ledger={**LEDGER, ("a-reports", HoldingKind.ENTITLEMENT, "deck_reports"): by_role("Deck")},
    )
    steps = plan_subject(moved, known, NOW, Verb.MOVER).steps
    (grant,) = [s for s in steps if s.action is Action.GRANT]
    assert grant.arguments.after == (Rival("a-reports", "deck_reports"),)
    assert grant.reason == "role Timetables; once deck_reports is seen gone in Reports"
    free = plan_subject(moved, world(), NOW, Verb.MOVER).steps
    assert all(not s.arguments.after for s in free)


@pytest.mark.parametrize("verb", [Verb.CLOSE, Verb.PURGE])
def test_a_closing_does_nothing_to_an_account_that_is_given_again(verb: Verb) -> None:
    """Its application did not answer until then, and the closing itself has been called off."""
    left = [
        replace(GRANT, id=action.value, verb=verb, action=action, item="")
        for action in (Action.CUT_OFF, Action.REVOKE, Action.RESTORE)
    ]
    there = subject(accounts=(HELD,), ledger=LEDGER)
    assert closing_of_given(there, world(), left, NOW) == {"cut_off", "revoke"}
    assert ("crew", "step", "cut off", "asked") not in lines(there, hand=Hand(steps=left[:2]))
    shut = Decision(
        id="d2",
        subject_id="p1",
        kind=DecisionKind.SUSPEND,
        payload=Payload(measure=Measure.SUSPEND, review="2031-04-01"),
        author="ines",
        reason="a claim",
    )
    kept = replace(there, person=person(department="Kitchen"), decisions=(shut,))
    told = [k for k in lines(kept, hand=Hand(steps=left[1:2])) if k[1] == "step"]
    assert told == [], "what comes along with a closing is no line of its own"
    gone = replace(there, person=person(department="Kitchen"))
    assert closing_of_given(gone, world(), left, NOW) == set()
    doubt = [replace(s, state=StepState.INTENT) for s in left]
    assert closing_of_given(there, world(), doubt, NOW) == set(), "whether it was done is not known"


def test_an_account_whose_window_is_over_is_purged_though_its_person_should_have_one() -> None:
    mine = replace(HELD, state=AccountState.DELETED, recoverable_until=NOW - timedelta(days=1))
    purge = [open_step(Action.PURGE, verb=Verb.PURGE)]
    there = subject(accounts=(mine,), ledger=LEDGER)
    assert closing_of_given(there, world(), purge, NOW) == set()
    back = replace(mine, recoverable_until=NOW + timedelta(days=1))
    assert closing_of_given(replace(there, accounts=(back,)), world(), purge, NOW) == {"s1"}


def test_what_an_undo_has_left_for_an_account_that_nothing_gives_by_now_ends() -> None:
    left = [
        open_step(a, verb=Verb.UNDO, id=a.value)
        for a in (Action.RESUME, Action.UPDATE, Action.SET_CREDENTIAL, Action.CUT_OFF)
    ]
    closed = replace(HELD, state=AccountState.SUSPENDED)
    gone = subject(person=person(department="Kitchen"), accounts=(closed,), ledger=LEDGER)
    over = outlived(gone, world(), left, NOW)
    assert over == {"resume", "update", "set_credential"}, "what closes it goes on"
    assert outlived(gone, world(), left[1:2], NOW) == {"update"}
    given = replace(gone, person=person())
    assert outlived(given, world(), left, NOW) == set()
    away = {"absent_from": NOW - timedelta(days=1), "absent_until": NOW + timedelta(days=1)}
    absent = replace(gone, person=person(**away))
    assert outlived(absent, world(), left, NOW) == {"resume", "set_credential"}, "it is theirs"


def test_an_account_that_another_application_brings_is_waited_for() -> None:
    known = world()
    crew = known.applications["crew"]
    brought = replace(crew, profile=replace(crew.profile, comes_from="reports"))
    there = replace(known, applications={**known.applications, "crew": brought})
    nobody = subject()
    plan = plan_subject(nobody, there, NOW, Verb.JOINER)
    assert {s.application_id for s in plan.steps} == {"reports"}
    told = next(c for c in plan.cautions if c.code == "arrives")
    assert "arrives from Reports" in told.text
    line = lines(nobody, there)["crew", "account", "", "missing"]
    assert (line.status, line.code) == (LineStatus.WAITING, "arrives")
    here = subject(accounts=(replace(HELD, entitlements=frozenset()),), ledger=LEDGER)
    assert MISSING in lines(here, there), "once it is there it gets what roles give"
