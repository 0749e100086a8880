"""Shut without being lost: precautions, locked mailboxes, accounts that another one takes the place of."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, timedelta
from typing import Any

import pytest

from tests.builders import NOW, account, asset, done_step, person, subject, world
from yugum.core.accounts import Account, AccountState, HoldingKind
from yugum.core.actions import TO_BE_MADE, Action, Facet, Phase
from yugum.core.applications import Capability, SeatRule
from yugum.core.decisions import Decision, DecisionKind, Origin, OriginKind, Payload
from yugum.core.desired import LOCKED, Subject, Successor, World
from yugum.core.fidelity import NOT_KNOWN
from yugum.core.obligations import AND, REVIEWED, ObligationKind, owed
from yugum.core.people import day_begins
from yugum.core.planning import plan_subject
from yugum.core.plans import Plan
from yugum.core.precautions import plan_precaution
from yugum.core.quick import plan_quick
from yugum.core.renames import not_renamed, plan_rename, replacing
from yugum.core.roles import Procedure
from yugum.core.undo import plan_undo
from yugum.core.verbs import Measure, Quick, Verb
from yugum.errors import Conflict

DAY = timedelta(days=1)
SHUT = Decision(
    id="s1",
    subject_id="p1",
    kind=DecisionKind.SUSPEND,
    payload=Payload(measure="suspend", review="2031-03-17"),
    author="ines",
    reason="a claim",
    made=NOW - DAY,
)
HELD: dict[str, Any] = {
    "entitlements": frozenset({"deck"}),
    "seats": frozenset({"planner"}),
}
BY_ROLE = Origin(OriginKind.ROLE, "Deck")
LEDGER = {
    ("a-crew", HoldingKind.ACCOUNT, ""): BY_ROLE,
    ("a-crew", HoldingKind.ENTITLEMENT, "deck"): BY_ROLE,
    ("a-crew", HoldingKind.SEAT, "planner"): BY_ROLE,
}


def frees(made: World) -> World:
    """With seats that come free when an account is suspended."""
    crew = made.applications["crew"]
    crew = replace(crew, profile=replace(crew.profile, seat_at_suspension=SeatRule.FREED))
    return replace(made, applications={**made.applications, "crew": crew})


def actions(plan: Plan, application: str = "crew") -> list[Action]:
    return [s.action for s in plan.steps if s.application_id == application]


def test_a_precaution_shuts_everything_and_frees_nothing() -> None:
    who = subject(accounts=(account(**HELD), account("reports")), ledger=LEDGER)
    plan = plan_precaution(who, frees(world()), Measure.SUSPEND, NOW)
    assert {s.action for s in plan.steps} == {Action.CUT_OFF}
    assert {s.application_id for s in plan.steps} == {"crew", "reports"}
    shut = subject(
        accounts=(account(state=AccountState.SUSPENDED, **HELD),),
        ledger=LEDGER,
        decisions=(SHUT,),
    )
    later = plan_subject(shut, frees(world()), NOW, Verb.RECHECK)
    assert later.steps == (), "no seat comes free, and what roles give besides stays away"
    moved = replace(shut, person=person(department="Timetables"))
    assert plan_subject(moved, world(), NOW, Verb.RECHECK).steps == ()
    assert "a claim" not in str(plan) + str(later)


def test_a_precaution_gives_way_to_leaving_and_bars_opening_one_account() -> None:
    closed = account(state=AccountState.SUSPENDED, **HELD)
    shut = subject(accounts=(closed,), ledger=LEDGER, decisions=(SHUT,))
    left = replace(shut, person=person(access_ends=NOW))
    assert Action.REVOKE in actions(plan_subject(left, world(), NOW, Verb.LEAVER))
    with pytest.raises(Conflict, match="precaution of ines"):
        plan_quick(shut, world(), [closed], Quick.RESUME, NOW)


def test_a_review_is_owed_once_on_its_day() -> None:
    shut = subject(accounts=(account(),), decisions=(SHUT,))
    due = [o for o in owed(shut, world(), NOW) if o.kind is ObligationKind.REMIND]
    assert [(o.basis, f"{o.due:%Y-%m-%d}") for o in due] == [(REVIEWED, "2031-03-17")]
    after = [o.kind for o in owed(shut, world(), NOW + 15 * DAY)]
    assert ObligationKind.REMIND not in after


def test_a_review_and_the_end_of_a_term_may_fall_on_one_moment() -> None:
    zone = person().time_zone
    ends = person(contract_ends=date(2031, 3, 23), access_ends=day_begins(date(2031, 3, 24), zone))
    shut = subject(person=ends, decisions=(SHUT,))
    rules = replace(world().rules, procedures={Verb.EXTENSION: Procedure(remind_days=(7,))})
    told = replace(world(), rules=rules)
    due = [o for o in owed(shut, told, NOW) if o.kind is ObligationKind.REMIND]
    assert [o.basis.split(AND) for o in due] == [[REVIEWED, "the term ends 2031-03-23"]]


def test_securing_anew_keeps_keys_and_lets_in_again() -> None:
    who = subject(accounts=(account(keys=1, sessions=2, **HELD),), ledger=LEDGER)
    plan = plan_precaution(who, world(), Measure.SECURE, NOW)
    order = [s.action for s in plan.steps if s.action is not Action.END_DEVICES]
    assert order == [Action.CUT_OFF, Action.RESUME, Action.SET_CREDENTIAL]
    assert plan.steps[0].arguments.keys_kept


def mail(made: World, **more: Any) -> World:
    crew = made.applications["crew"]
    profile = replace(
        crew.profile,
        suspended_refuses_mail=True,
        leaver_settings={"forward": "{successor_mail}"},
        leaver_setting_days={"forward": 21},
    )
    crew = replace(crew, profile=replace(profile, **more))
    return replace(made, applications={**made.applications, "crew": crew})


HEIR = Successor(person=person(id="p2", user_name="heir", mail="heir@morrowsound.example"))


def leaver(**more: Any) -> Subject:
    values = {"accounts": (account(**HELD),), "ledger": LEDGER, "successor": HEIR, **more}
    return subject(person=person(access_ends=NOW - DAY), **values)


def locked(**more: Any) -> Subject:
    ledger = {
        **LEDGER,
        ("a-crew", HoldingKind.ACCOUNT, LOCKED): Origin(OriginKind.DECISION, LOCKED),
    }
    settings = {"forward": "heir@morrowsound.example"}
    return leaver(accounts=(account(settings=settings),), ledger=ledger, **more)


def test_where_mail_must_go_on_an_account_is_locked_then_suspended() -> None:
    plan = plan_subject(leaver(), mail(world()), NOW, Verb.LEAVER)
    assert actions(plan)[0] is Action.LOCK
    assert Action.CUT_OFF not in actions(plan)
    during = plan_subject(locked(), mail(world()), NOW, Verb.RECHECK)
    assert not {Action.LOCK, Action.CUT_OFF} & set(actions(during)), "no line, no finding"
    after = plan_subject(locked(), mail(world()), NOW + 21 * DAY, Verb.RECHECK)
    assert actions(after) == [Action.CUT_OFF, Action.SET]
    for made in (mail(world(), suspended_refuses_mail=False), mail(world(), leaver_settings={})):
        assert actions(plan_subject(leaver(), made, NOW, Verb.LEAVER))[0] is Action.CUT_OFF
    alone = plan_subject(leaver(successor=None), mail(world()), NOW, Verb.LEAVER)
    assert actions(alone)[0] is Action.CUT_OFF, "nothing is forwarded to nobody"


def test_whoever_got_into_a_locked_account_is_locked_out_again() -> None:
    seen = locked()
    inside = replace(seen, accounts=(replace(seen.accounts[0], sessions=1),))
    assert Action.LOCK in actions(plan_subject(inside, mail(world()), NOW, Verb.RECHECK))


def test_a_locked_account_comes_back_with_a_new_credential_once() -> None:
    back = replace(locked(), person=person())
    plan = plan_subject(back, mail(world()), NOW, Verb.RETURNER)
    assert actions(plan).count(Action.SET_CREDENTIAL) == 1
    done = done_step(Action.LOCK, found=Facet(account="active", sessions=1, keys=0))
    undo = plan_undo(back, mail(world()), NOW, [done], locked(), NOT_KNOWN)
    assert actions(undo).count(Action.SET_CREDENTIAL) == 1
    assert any(f.what == "Crew: access" and f.comes_back for f in undo.fidelity)


def fixed(made: World) -> World:
    """With a login that cannot change."""
    crew = made.applications["crew"]
    crew = replace(crew, capabilities=crew.capabilities - {Capability.RENAME})
    return replace(made, applications={**made.applications, "crew": crew})


def renamed(old: Account, **more: Any) -> Subject:
    who = subject(person=person(user_name="mberg"), accounts=(old,), ledger=LEDGER, **more)
    decided = tuple(
        Decision(id=f"d{n}", subject_id="p1", kind=kind, payload=payload)
        for n, (kind, payload) in enumerate(replacing(who, fixed(world()), [old], NOW))
    )
    return replace(who, decisions=decided)


def test_another_account_takes_the_place_of_one_whose_login_cannot_change() -> None:
    held = {**HELD, "entitlements": frozenset({"deck", "night watch"})}
    old = account(assets=(asset("r1"), asset("r2")), **held)
    who = renamed(old)
    assert [a.id for a in not_renamed(who, fixed(world()), "mquill")] == ["a-crew"]
    assert not_renamed(who, world(), "mquill") == []
    plan = plan_rename(who, fixed(world()), NOW, "mquill")
    made = [
        (s.action, s.item) for s in plan.steps if s.application_id == "crew" and not s.account_id
    ]
    assert made == [
        (Action.CREATE, ""),
        (Action.GRANT, "deck"),
        (Action.GRANT, "night watch"),
        (Action.TAKE_SEAT, "planner"),
        (Action.TRANSFER, "roster"),
        (Action.SET_CREDENTIAL, ""),
    ]
    theirs = [s for s in plan.steps if s.account_id == "a-crew"]
    assert [s.action for s in theirs] == [
        Action.FREE_SEAT,
        Action.CUT_OFF,
        Action.DELETE,
    ]
    waiting = [s for s in theirs if s.in_phase is Phase.CLOSE]
    assert {s.arguments.replaced_by for s in waiting} == {TO_BE_MADE}
    moved = next(s for s in plan.steps if s.action is Action.TRANSFER)
    assert moved.arguments.from_external_id == "x-crew"
    assert not [c for c in plan.cautions if c.code == "cannot-rename"]


def test_what_took_the_place_stays_and_the_old_one_is_not_used_again() -> None:
    old = account(state=AccountState.DELETED)
    new = account(id="a-new", login="mberg", external_id="x-new", **HELD)
    who = renamed(old)
    ledger = {("a-new", kind, item): origin for (_, kind, item), origin in LEDGER.items()}
    done = replace(who, accounts=(old, new), ledger=ledger)
    assert actions(plan_subject(done, fixed(world()), NOW, Verb.RECHECK)) == []
    open_still = replace(done, accounts=(replace(old, state=AccountState.ACTIVE), new))
    left = plan_subject(open_still, fixed(world()), NOW, Verb.RECHECK)
    assert {s.arguments.replaced_by for s in left.steps if s.in_phase is Phase.CLOSE} == {"a-new"}
