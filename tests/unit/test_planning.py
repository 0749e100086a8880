"""Planning: what goes, stays and comes, in which order and why."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, date, datetime, timedelta

from tests.builders import account, asset, by_role, person, subject, world
from yugum.core.accounts import AccountState, HoldingKind
from yugum.core.actions import Action, Facet, Phase
from yugum.core.applications import Capability, Deletion
from yugum.core.closing import plan_close, plan_purge
from yugum.core.decisions import Decision, DecisionKind, Payload
from yugum.core.desired import Successor
from yugum.core.dockets import DoneStep
from yugum.core.obligations import ObligationKind, owed
from yugum.core.planning import plan_subject
from yugum.core.plans import Plan
from yugum.core.seats import Pool
from yugum.core.undo import plan_undo
from yugum.core.verbs import Verb

NOW = datetime(2031, 3, 3, 8, 40, tzinfo=UTC)
LEFT = {"access_ends": NOW}


def actions(plan: Plan) -> list[tuple[str, Action, str]]:
    return [(s.application_id, s.action, s.item) for s in plan.steps]


def hold() -> Decision:
    return Decision(
        id="h", subject_id="p1", kind=DecisionKind.HOLD, author="ines", reason="a dispute"
    )


def test_a_newcomer_gets_account_then_access_then_credential() -> None:
    plan = plan_subject(subject(), world(), NOW, Verb.JOINER)
    crew = [a for a in actions(plan) if a[0] == "crew"]
    assert crew == [
        ("crew", Action.CREATE, ""),
        ("crew", Action.GRANT, "deck"),
        ("crew", Action.TAKE_SEAT, "planner"),
        ("crew", Action.SET_CREDENTIAL, ""),
    ]
    assert {s.reason for s in plan.steps if s.action is Action.GRANT} == {"role Deck"}


def test_nothing_before_the_first_day() -> None:
    expected = subject(person=person(starts=date(2031, 3, 10)))
    assert plan_subject(expected, world(), NOW, Verb.JOINER).steps == ()


def test_a_move_takes_only_what_a_role_gave() -> None:
    held = account(entitlements=frozenset({"deck", "night"}), seats=frozenset({"planner"}))
    ledger = {
        ("a-crew", HoldingKind.ACCOUNT, ""): by_role("Deck"),
        ("a-crew", HoldingKind.ENTITLEMENT, "deck"): by_role("Deck"),
        ("a-crew", HoldingKind.SEAT, "planner"): by_role("Deck"),
    }
    moved = subject(person=person(department="Timetables"), accounts=(held,), ledger=ledger)
    plan = plan_subject(moved, world(), NOW, Verb.MOVER)
    assert actions(plan) == [("crew", Action.REVOKE, "deck"), ("crew", Action.GRANT, "timetables")]
    assert plan.steps[0].reason == "role Deck no longer applies"
    assert {s.item for s in plan.stays} == {"night", "planner"}


def test_a_leaver_is_cut_off_before_anything_else_happens() -> None:
    heir = person(id="p2", user_name="svarga", display_name="Signe Varga")
    theirs = {"crew": account(id="a2", person_id="p2", external_id="x2")}
    mine = account(
        entitlements=frozenset({"deck"}),
        seats=frozenset({"planner"}),
        sessions=2,
        keys=1,
        assets=(asset("r1"), asset("r2")),
    )
    left = subject(
        person=person(**LEFT), accounts=(mine,), successor=Successor(person=heir, accounts=theirs)
    )
    plan = plan_subject(left, world(), NOW, Verb.LEAVER)
    assert [s.action for s in plan.steps] == [
        Action.CUT_OFF,
        Action.TRANSFER,
        Action.REVOKE,
        Action.FREE_SEAT,
    ]
    assert plan.steps[0].before == "active, 2 sessions, 1 API key"
    assert plan.steps[1].arguments.to_external_id == "x2"


def test_trusted_devices_end_with_the_cut_off_and_do_not_come_back() -> None:
    made = world()
    crew = made.applications["crew"]
    crew = replace(crew, capabilities=crew.capabilities | {Capability.DEVICES})
    made = replace(made, applications={**made.applications, "crew": crew})
    left = subject(person=person(**LEFT), accounts=(account(), account("reports")))
    plan = plan_subject(left, made, NOW, Verb.LEAVER)
    secure = [(s.application_id, s.action) for s in plan.steps if s.in_phase is Phase.SECURE]
    assert secure == [
        ("crew", Action.CUT_OFF),
        ("crew", Action.END_DEVICES),
        ("reports", Action.CUT_OFF),
    ]
    done = DoneStep(
        position=2,
        application_id="crew",
        account_id="a-crew",
        action=Action.END_DEVICES,
        item="",
        found=Facet(devices=2),
    )
    back = plan_undo(subject(accounts=(account(),)), made, NOW, [done])
    assert [(f.what, f.comes_back) for f in back.fidelity] == [("Crew: 2 trusted devices", False)]
    assert back.steps == ()


def test_without_a_successor_the_leaver_is_cut_off_and_the_account_stays() -> None:
    mine = account(assets=(asset("r1"),))
    left = subject(person=person(**LEFT), accounts=(mine,))
    plan = plan_subject(left, world(), NOW, Verb.LEAVER)
    assert [s.action for s in plan.steps] == [Action.CUT_OFF]
    assert plan.cautions[0].code == "no-successor"
    suspended = replace(mine, state=AccountState.SUSPENDED)
    later = replace(left, accounts=(suspended,))
    closing = plan_close(later, world(), suspended, NOW + timedelta(days=7))
    assert closing.steps == ()


def test_an_absent_person_keeps_everything() -> None:
    away = person(absent_from=NOW, absent_until=NOW + timedelta(days=90))
    mine = account(entitlements=frozenset({"deck"}), seats=frozenset({"planner"}))
    plan = plan_subject(subject(person=away, accounts=(mine,)), world(), NOW, Verb.ABSENCE)
    assert [s.action for s in plan.steps] == [Action.CUT_OFF]


def test_an_empty_pool_is_said_in_the_plan() -> None:
    full = Pool(id="p", application_id="crew", license="planner", bought=3, held=3, waiting=1)
    plan = plan_subject(
        subject(), replace(world(), pools={("crew", "planner"): full}), NOW, Verb.JOINER
    )
    caution = next(c for c in plan.cautions if c.code == "no-seat")
    assert "waits in line; 1 wait already" in caution.text
    assert ("crew", Action.TAKE_SEAT, "planner") in actions(plan)


def test_an_exception_gives_and_a_denial_takes() -> None:
    def decide(kind: DecisionKind, item: str) -> Decision:
        payload = Payload(application="crew", kind=HoldingKind.ENTITLEMENT, item=item)
        return Decision(id=f"d-{item}", subject_id="p1", kind=kind, payload=payload, reason="why")

    decided = subject(
        decisions=(decide(DecisionKind.GRANT, "night"), decide(DecisionKind.DENY, "deck"))
    )
    granted = {
        s.item: s.reason
        for s in plan_subject(decided, world(), NOW, Verb.JOINER).steps
        if s.action is Action.GRANT and s.application_id == "crew"
    }
    assert granted == {"night": "exception: why"}


def test_an_application_without_groups_is_named_and_not_asked() -> None:
    base = world()
    plain = replace(
        base.applications["crew"], capabilities=frozenset({Capability.SUSPEND, Capability.DELETE})
    )
    plan = plan_subject(
        subject(),
        replace(base, applications={**base.applications, "crew": plain}),
        NOW,
        Verb.JOINER,
    )
    assert ("crew", Action.GRANT, "deck") not in actions(plan)
    assert any(c.code == "cannot-grant" for c in plan.cautions)


def test_a_hold_keeps_from_closing_and_brings_back_what_was_deleted() -> None:
    suspended = account(state=AccountState.SUSPENDED)
    held = subject(person=person(**LEFT), accounts=(suspended,), decisions=(hold(),))
    assert plan_close(held, world(), suspended, NOW + timedelta(days=7)).steps == ()
    gone = account(state=AccountState.DELETED, recoverable_until=NOW + timedelta(days=3))
    deleted = replace(held, accounts=(gone,))
    assert [s.action for s in plan_purge(deleted, world(), gone, NOW).steps] == [Action.RESTORE]
    over = NOW + timedelta(days=3)  # then it is another line, and looked at again
    found = [(o.kind, o.due) for o in owed(deleted, world(), NOW)]
    assert found == [("purge", NOW), ("recheck", over)]
    assert owed(held, world(), NOW) == ()


def test_somebody_who_should_have_the_account_again_is_not_closed() -> None:
    suspended = account(state=AccountState.SUSPENDED)
    back = subject(accounts=(suspended,))
    assert plan_close(back, world(), suspended, NOW).cautions[0].code == "wanted-again"


def test_closing_parks_where_nothing_can_be_restored() -> None:
    suspended = account("reports", state=AccountState.SUSPENDED)
    left = subject(person=person(**LEFT), accounts=(suspended,))
    plan = plan_close(left, world(), suspended, NOW + timedelta(days=14))
    assert [s.action for s in plan.steps] == [Action.PARK]
    base = world()
    final = replace(base.applications["reports"].profile, deletion=Deletion.FINAL)
    applications = {
        **base.applications,
        "reports": replace(base.applications["reports"], profile=final),
    }
    at_once = plan_close(left, replace(base, applications=applications), suspended, NOW)
    assert [s.action for s in at_once.steps] == [Action.PURGE]
    assert "Cannot be put back" in at_once.summary[-1]


def test_a_deleted_account_is_restored_within_its_window_and_made_anew_after_it() -> None:
    gone = account(state=AccountState.DELETED, recoverable_until=NOW + timedelta(seconds=1))
    back = subject(accounts=(gone,))
    first = [
        s.action
        for s in plan_subject(back, world(), NOW, Verb.RETURNER).steps
        if s.application_id == "crew"
    ]
    assert first[:2] == [Action.RESTORE, Action.RESUME]
    late = plan_subject(back, world(), NOW + timedelta(seconds=1), Verb.RETURNER)
    assert ("crew", Action.CREATE, "") in actions(late)


def test_what_is_owed_later_has_its_exact_moment() -> None:
    suspended = account(state=AccountState.SUSPENDED)
    gone = account("reports", state=AccountState.DELETED, recoverable_until=NOW)
    left = subject(person=person(**LEFT), accounts=(suspended, gone))
    due = {(o.account_id, o.kind): o.due for o in owed(left, world(), NOW)}
    assert due == {
        ("a-crew", ObligationKind.CLOSE): NOW + timedelta(days=7),
        ("a-reports", ObligationKind.PURGE): NOW,
    }
