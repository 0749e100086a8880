"""Undo by rule: what each action's way back is, for every state its account may be in since."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import timedelta
from typing import Any

import pytest

from tests.builders import (
    NOW,
    account,
    asset,
    by_role,
    done_step,
    open_step,
    person,
    role,
    subject,
    world,
)
from yugum.core.accounts import Account, AccountState, HoldingKind
from yugum.core.actions import Action, Arguments, Done, Facet
from yugum.core.applications import Capability, Deletion
from yugum.core.decisions import FOUND, Decision, DecisionKind, Origin, OriginKind
from yugum.core.desired import Subject, World
from yugum.core.dockets import DoneStep, Outcome
from yugum.core.invitations import OPEN_DUTIES
from yugum.core.plans import Plan
from yugum.core.returns import plan_return
from yugum.core.undo import Since, plan_undo
from yugum.core.verbs import Verb
from yugum.core.wording import plural

STATES = [s for s in AccountState if s is not AccountState.PURGED]
ITEM = "deck"
DAY = timedelta(days=1)
ACCOUNT, GROUP, SEAT, SETTING = HoldingKind
HANDED = Arguments(to_external_id="x2", to_name="Signe Varga")
MADE: dict[Action, dict[str, Any]] = {
    Action.SET: {"arguments": Arguments(value="new", was="old")},
    Action.UPDATE: {"arguments": Arguments(value="new", was="old")},
    Action.RENAME: {"found": Facet(login="old")},
    Action.RUN: {"arguments": Arguments(run="42", undo=True)},
    Action.TRANSFER: {"did": Done(assets=(asset("r1"), asset("r2"))), "arguments": HANDED},
    Action.COPY: {"did": Done(assets=(asset("c1"),), copied=("r1",)), "arguments": HANDED},
    Action.CALL_OFF: {"did": Done(assets=(asset("m1"),))},
    Action.REQUIRE: {"arguments": Arguments(value="to do")},
    Action.REDIRECT: {"arguments": Arguments(value="new", was="old", place="s1")},
    Action.REPLACE_KEY: {"arguments": Arguments(value="new", was="old", place="s1")},
    Action.END_DEVICES: {"found": Facet(devices=1)},
    Action.CUT_OFF: {"found": Facet(sessions=2, keys=1)},
}
"""What a step of each action left behind, where its way back looks at it."""
IN_FORCE: dict[str, Any] = {
    "entitlements": frozenset({ITEM}),
    "seats": frozenset({ITEM}),
    "settings": {ITEM: "new", OPEN_DUTIES: "terms"},
    "login": ITEM,
}


def step(action: Action, **more: Any) -> DoneStep:
    item = "terms" if action is Action.REQUIRE else ITEM
    return done_step(action, item, **{**MADE.get(action, {}), **more})


def crew(deletion: Deletion = Deletion.RECOVERABLE) -> World:
    known = world()
    app = known.applications["crew"]
    profile = replace(app.profile, deletion=deletion)
    # Without devices: what comes along with a cut-off is another test's.
    can = frozenset(Capability) - {Capability.DEVICES, Capability.INVITE}
    made = replace(app, profile=profile, capabilities=can)
    return replace(known, applications={**known.applications, "crew": made})


def whose(*accounts: Account, department: str = "Kitchen", **more: Any) -> Subject:
    """Somebody to whom no role gives anything, if nothing else is said."""
    return subject(person=person(department=department, **more), accounts=accounts)


def undone(account: Account, *steps: DoneStep, world: World | None = None) -> Plan:
    return plan_undo(whose(account), world or crew(), NOW, steps)


def told(plan: Plan) -> dict[str, tuple[bool, str]]:
    return {f.what.removeprefix("Crew: "): (f.comes_back, f.why) for f in plan.fidelity}


def actions(plan: Plan) -> list[Action]:
    return [s.action for s in plan.steps]


@dataclass(frozen=True, slots=True)
class Way:
    """Which states of the account an action's way back acts in, and by what."""

    acts_in: frozenset[AccountState]
    by: Callable[[Deletion, AccountState], list[Action]]


def always(*by: Action) -> Callable[[Deletion, AccountState], list[Action]]:
    return lambda deletion, state: list(by)


def closes(deletion: Deletion, state: AccountState) -> list[Action]:
    """Closed again the application's way, unless that would be for good."""
    how = {Deletion.RECOVERABLE: [Action.DELETE], Deletion.PARK: [Action.PARK], Deletion.FINAL: []}
    return how[deletion]


def unmakes(deletion: Deletion, state: AccountState) -> list[Action]:
    """Out at once where it is open, and closed; for good where there is no other way."""
    out = [Action.CUT_OFF] if state is AccountState.ACTIVE else []
    return out + (closes(deletion, state) or [Action.PURGE])


def opens(deletion: Deletion, state: AccountState) -> list[Action]:
    return [Action.RESUME, Action.SET_CREDENTIAL]


S = AccountState
ANY = frozenset(STATES)
WAYS = {
    Action.CREATE: Way(ANY - {S.DELETED}, unmakes),
    Action.RESTORE: Way(ANY - {S.DELETED}, closes),
    Action.CUT_OFF: Way(frozenset({S.SUSPENDED}), opens),
    Action.RESUME: Way(frozenset({S.ACTIVE}), always(Action.CUT_OFF)),
    Action.DELETE: Way(frozenset({S.DELETED}), always(Action.RESTORE)),
    Action.PARK: Way(frozenset({S.DELETED}), always(Action.RESTORE)),
    Action.ARCHIVE: Way(frozenset({S.ARCHIVED}), always(Action.REOPEN)),
    Action.REOPEN: Way(frozenset({S.SUSPENDED}), always(Action.ARCHIVE)),
    Action.GRANT: Way(ANY, always(Action.REVOKE)),
    Action.REVOKE: Way(ANY, always()),
    Action.TRY_SIGN_IN: Way(ANY, always()),
    Action.TAKE_SEAT: Way(ANY, always(Action.FREE_SEAT)),
    Action.FREE_SEAT: Way(ANY, always()),
    Action.SET: Way(ANY, always(Action.SET)),
    Action.UPDATE: Way(ANY, always(Action.UPDATE)),
    Action.RENAME: Way(ANY, always(Action.RENAME)),
    Action.TRANSFER: Way(ANY, always(Action.TRANSFER)),
    Action.REDIRECT: Way(ANY, always(Action.REDIRECT)),
    Action.REPLACE_KEY: Way(frozenset(), always()),
    Action.COPY: Way(frozenset(), always()),
    Action.CALL_OFF: Way(frozenset(), always()),
    Action.RUN: Way(frozenset(), always()),
    Action.SET_CREDENTIAL: Way(frozenset(), always()),
    Action.INVITE: Way(frozenset(), always()),
    Action.REQUIRE: Way(ANY - {S.DELETED}, always(Action.REQUIRE)),
    Action.END_DEVICES: Way(frozenset(), always()),
    Action.LOCK: Way(frozenset(), always()),
    Action.PURGE: Way(frozenset(), always()),
}
"""Written down apart from the actions: an account holds what ``IN_FORCE`` says."""


def test_every_action_has_a_way_back_here() -> None:
    assert set(WAYS) == set(Action)


@pytest.mark.parametrize("deletion", list(Deletion))
@pytest.mark.parametrize("state", STATES)
@pytest.mark.parametrize("action", list(Action))
def test_a_step_is_taken_back_in_the_states_that_allow_it_and_said_in_all(
    action: Action, state: AccountState, deletion: Deletion
) -> None:
    left = account(state=state, recoverable_until=NOW + timedelta(seconds=1), **IN_FORCE)
    plan = undone(left, step(action), world=crew(deletion))
    way = WAYS[action]
    wanted = way.by(deletion, state) if state in way.acts_in else []
    assert sorted(actions(plan)) == sorted(wanted)
    assert plan.fidelity, "silence would be a promise that it is as before"
    assert all(s.reason.startswith(("undo", "put back")) for s in plan.steps)


@pytest.mark.parametrize("deletion", list(Deletion))
def test_an_account_on_hold_is_not_closed_by_an_undo(deletion: Deletion) -> None:
    hold = Decision(
        id="d1", subject_id="p1", kind=DecisionKind.HOLD, author="ines", reason="a claim"
    )
    known = crew(deletion)
    for held in (replace(whose(account()), decisions=(hold,)), whose(account())):
        holds = {} if held.decisions else {"crew": (hold,)}
        plan = plan_undo(held, replace(known, holds=holds), NOW, [step(Action.CREATE)])
        assert actions(plan) == [Action.CUT_OFF], "nobody gets in, nothing is lost"
        assert told(plan)["no account"] == (False, "mquill is on hold by ines: a claim")


def test_what_an_account_owns_by_now_is_not_lost_by_an_undo() -> None:
    owner = account(assets=(asset("r1"), asset("r2")))
    plan = undone(owner, step(Action.CREATE), world=crew(Deletion.FINAL))
    assert actions(plan) == [Action.CUT_OFF]
    why = "mquill owns 2 things by now, and would be deleted for good"
    assert told(plan)["no account"] == (False, why)
    assert Action.DELETE in actions(undone(owner, step(Action.CREATE)))


@pytest.mark.parametrize("action", list(Action))
def test_nothing_is_taken_back_of_what_this_docket_did_not_do(action: Action) -> None:
    """Found so, or done by somebody's hand: it is not the docket's to put back."""
    held = account(**IN_FORCE)
    for outcome in (Outcome.ALREADY, Outcome.BY_HAND):
        plan = undone(held, step(action, outcome=outcome))
        assert (plan.steps, plan.fidelity) == ((), ())
    elsewhere = undone(held, step(action, application_id="given-up"))
    assert (elsewhere.steps, elsewhere.fidelity) == ((), ())


@pytest.mark.parametrize("action", list(Action))
def test_of_an_account_that_is_gone_for_good_nothing_comes_back(action: Action) -> None:
    for accounts in ((account(state=AccountState.PURGED, **IN_FORCE),), ()):
        plan = plan_undo(subject(accounts=accounts), crew(), NOW, [step(action)])
        assert plan.steps == ()
        item = step(action).item
        assert told(plan) == {item: (False, "the account is gone for good")}
    whole = plan_undo(subject(), crew(), NOW, [done_step(action)])
    assert list(told(whole)) == ["account"]


@pytest.mark.parametrize("action", [Action.DELETE, Action.PARK])
def test_the_end_of_the_window_is_too_late(action: Action) -> None:
    gone = account(state=AccountState.DELETED, recoverable_until=NOW)
    plan = undone(gone, step(action))
    assert plan.steps == ()
    assert told(plan)["account mquill"] == (False, "its window is over")
    still = undone(replace(gone, recoverable_until=NOW + timedelta(microseconds=1)), step(action))
    assert actions(still) == [Action.RESTORE]
    assert told(still)["account mquill"] == (True, "restored within its window")
    assert actions(undone(replace(gone, recoverable_until=None), step(action))) == [Action.RESTORE]


@pytest.mark.parametrize(
    ("action", "since", "comes_back", "why"),
    [
        (Action.GRANT, {}, True, "already as before; nothing to do"),
        (Action.REVOKE, IN_FORCE, True, "already as before; nothing to do"),
        (Action.TAKE_SEAT, {}, True, "already as before; nothing to do"),
        (Action.FREE_SEAT, IN_FORCE, True, "already as before; nothing to do"),
        (Action.SET, {"settings": {ITEM: "old"}}, True, "already as before; nothing to do"),
        (Action.SET, {"settings": {ITEM: "x"}}, False, "changed since to x; left as it is"),
        (Action.SET, {}, False, "changed since to nothing; left as it is"),
        (Action.RUN, {}, True, "is not in force any more; nothing to do"),
        (Action.RUN, {"settings": {ITEM: "41"}}, True, "is not in force any more; nothing to do"),
    ],
)
def test_what_was_changed_since_stays_and_is_named(
    action: Action, since: dict[str, Any], comes_back: bool, why: str
) -> None:
    plan = undone(account(**since), step(action))
    assert plan.steps == ()
    assert told(plan) == {ITEM: (comes_back, why)}


def test_a_login_is_put_back_unless_it_was_changed_since() -> None:
    since = undone(account(login="newest"), step(Action.RENAME))
    assert since.steps == ()
    assert told(since) == {"login old": (False, "renamed since to newest; left as it is")}
    (back,) = undone(account(login=ITEM), step(Action.RENAME)).steps
    assert (back.before, back.after, back.item) == (ITEM, "old", "old")
    assert back.arguments.display_name == person().display_name


@pytest.mark.parametrize(
    ("action", "put_back", "why"),
    [
        (Action.REVOKE, Action.GRANT, "entitlement put back"),
        (Action.FREE_SEAT, Action.TAKE_SEAT, "no seat is free; waits in line"),
    ],
)
def test_what_was_taken_is_given_again_while_something_gives_it(
    action: Action, put_back: Action, why: str
) -> None:
    known = replace(crew(), rules=replace(crew().rules, roles=(GIVES,)))
    taken = step(action, origin=by_role("Deck"))
    plan = plan_undo(whose(account(), department="Deck"), known, NOW, [taken])
    assert [(s.action, s.item, s.origin) for s in plan.steps] == [(put_back, ITEM, by_role("Deck"))]
    assert told(plan)[ITEM][1] == why
    for origin, over in (
        (by_role("Deck"), "no role gives it any more"),
        (Origin(OriginKind.DECISION, "d1"), "the exception has ended"),
    ):
        plan = undone(account(), step(action, origin=origin))
        assert (plan.steps, told(plan)) == ((), {ITEM: (False, over)})
    for found in (FOUND, None):
        assert actions(undone(account(), step(action, origin=found))) == [put_back]


GIVES = role("Deck", "Deck", *((("crew", k, ITEM)) for k in (GROUP, SEAT)), ("crew", ACCOUNT, ""))


@pytest.mark.parametrize("action", [Action.GRANT, Action.TAKE_SEAT, Action.CREATE, Action.RESTORE])
def test_what_something_else_gives_by_now_stays_and_is_named(action: Action) -> None:
    known = replace(crew(), rules=replace(crew().rules, roles=(GIVES,)))
    held = account(**IN_FORCE)
    whom = whose(held, department="Deck")
    plan = plan_undo(whom, known, NOW, [step(action, origin=by_role("Before"))])
    assert plan.steps == ()
    assert list(told(plan).values()) == [(False, "stays: role Deck")]
    own = plan_undo(whom, known, NOW, [step(action, origin=by_role("Deck"))])
    assert own.steps, "what the docket's own cause gives is taken back where somebody says so"


@pytest.mark.parametrize(
    ("more", "why"),
    [
        ({"access_ends": NOW}, "has left; stays closed"),
        ({"absent_from": NOW}, "is absent; stays closed"),
        ({"starts": (NOW + DAY).date()}, "has not begun yet; stays closed"),
        ({}, "nothing gives the account any more; stays closed"),
    ],
)
def test_nobody_is_let_in_whose_access_is_over(more: dict[str, Any], why: str) -> None:
    shut = account(state=AccountState.SUSPENDED)
    ledger = {(shut.id, ACCOUNT, ""): by_role("Deck")}
    one = replace(whose(shut, **more), ledger=ledger)
    plan = plan_undo(one, crew(), NOW, [step(Action.CUT_OFF)])
    assert (plan.steps, told(plan)["access"]) == ((), (False, why))
    given = replace(one, person=person(department="Deck"))
    back = [Action.RESUME, Action.SET_CREDENTIAL]
    assert actions(plan_undo(given, crew(), NOW, [step(Action.CUT_OFF)])) == back


def test_what_was_cut_off_and_deleted_is_open_again_with_what_it_held() -> None:
    """Not every application gives back the groups of an account that it restores."""
    gone = account(state=AccountState.DELETED, recoverable_until=NOW + DAY)
    found = Facet(account="suspended", entitlements=("mess", "radio"), seats=("planner",))
    steps = [step(Action.CUT_OFF), step(Action.DELETE, position=2, found=found)]
    one = replace(whose(gone), ledger={(gone.id, GROUP, "radio"): by_role("Deck")})
    plan = plan_undo(one, crew(), NOW, steps)
    opened = [Action.RESTORE, Action.RESUME, Action.GRANT, Action.TAKE_SEAT, Action.SET_CREDENTIAL]
    assert actions(plan) == opened
    assert [s.item for s in plan.steps[2:4]] == ["mess", "planner"]
    assert told(plan)["radio"] == (False, "no role gives it any more")
    kept = replace(gone, entitlements=frozenset({"mess", "radio"}), seats=frozenset({"planner"}))
    assert Action.GRANT not in actions(
        plan_undo(replace(one, accounts=(kept,)), crew(), NOW, steps)
    )


def test_a_cause_taken_back_brings_what_later_dockets_took() -> None:
    """The overlap of a move is over, and a later docket has taken what the role before gave."""
    held = account(entitlements=frozenset({"timetables"}))
    ledger = {(held.id, ACCOUNT, ""): by_role("Deck"), (held.id, GROUP, "timetables"): by_role("T")}
    after = person(department="Deck")
    before = person(department="Timetables")
    one = subject(person=after, accounts=(held,), ledger=ledger)
    granted = done_step(Action.GRANT, "timetables", origin=by_role("Timetables"))
    plan = plan_undo(one, world(), NOW, [granted], replace(one, person=before))
    crews = {(s.action, s.item) for s in plan.steps if s.application_id == "crew"}
    assert crews == {(Action.GRANT, "deck"), (Action.REVOKE, "timetables")}
    assert told(plan)["deck"] == (True, "role Deck")
    alone = plan_undo(one, world(), NOW, [granted], one)
    assert actions(alone) == [Action.REVOKE], "the cause stands: what differs otherwise is not its"


def test_what_the_docket_had_taken_over_and_not_done_yet_is_gone_on_with() -> None:
    held = account(entitlements=frozenset({"ropes"}))
    ledger = {(held.id, ACCOUNT, ""): by_role("Deck"), (held.id, GROUP, "ropes"): by_role("Ropes")}
    one = subject(person=person(department="Deck"), accounts=(held,), ledger=ledger)
    as_now = replace(one, person=person(department="Timetables"))
    left = open_step(Action.REVOKE, "ropes", account_id=held.id)
    without = plan_undo(one, world(), NOW, [], as_now)
    assert (Action.REVOKE, "ropes") not in {(s.action, s.item) for s in without.steps}
    plan = plan_undo(one, world(), NOW, [], as_now, since=Since(left=[left]))
    assert (Action.REVOKE, "ropes") in {(s.action, s.item) for s in plan.steps}


@pytest.mark.parametrize("there", [None, frozenset({"r1"}), frozenset[str]()])
def test_only_what_the_receiver_still_has_is_promised(there: frozenset[str] | None) -> None:
    handed = replace(HANDED, to_account="a2")
    moved = step(Action.TRANSFER, arguments=handed)
    plan = plan_undo(
        whose(account()), crew(), NOW, [moved], None, {"a2": there} if there is not None else {}
    )
    only = [s.arguments.only for s in plan.steps]
    assert (
        only == {None: [("r1", "r2")], 1: [("r1",)], 0: []}[None if there is None else len(there)]
    )
    lost = [(f.what, f.why) for f in plan.fidelity if not f.comes_back]
    gone = 0 if there is None else 2 - len(there)
    assert lost == (
        [(f"Crew: {plural(gone, 'deck')}", "not with Signe Varga any more")] if gone else []
    )


def test_what_a_leaver_s_account_was_set_to_for_a_time_does_not_begin_anew() -> None:
    known = crew()
    app = known.applications["crew"]
    profile = replace(
        app.profile, leaver_setting_days={ITEM: 9}, standard_settings={ITEM: "{name}"}
    )
    known = replace(known, applications={"crew": replace(app, profile=profile)})
    ended = step(Action.SET, arguments=Arguments(value="Mara Quill", was="boss"))
    plan = undone(account(settings={ITEM: "Mara Quill"}), ended, world=known)
    assert (plan.steps, told(plan)[ITEM]) == ((), (False, "its time is over"))
    begun = step(Action.SET, arguments=Arguments(value="boss", was="own"))
    assert actions(undone(account(settings={ITEM: "boss"}), begun, world=known)) == [Action.SET]


@pytest.mark.parametrize(("bought", "comes_back"), [(10, True), (0, False)])
def test_a_seat_comes_back_where_one_is_free(bought: int, comes_back: bool) -> None:
    known = crew()
    pool = replace(known.pools["crew", "planner"], bought=bought)
    known = replace(known, pools={("crew", "planner"): pool})
    plan = undone(account(), done_step(Action.FREE_SEAT, "planner"), world=known)
    assert actions(plan) == [Action.TAKE_SEAT], "it waits in line where none is"
    assert told(plan)["planner"][0] is comes_back


@pytest.mark.parametrize("value", ["found", ""])
def test_a_setting_becomes_what_was_found_and_else_what_was_planned(value: str) -> None:
    held = account(settings={ITEM: "new"})
    (found,) = undone(held, step(Action.SET, found=Facet(value=value))).steps
    assert (found.item, found.arguments.value) == (ITEM, value)
    (planned,) = undone(held, step(Action.SET)).steps
    assert planned.arguments.value == "old"


@pytest.mark.parametrize(("undo", "steps"), [(True, [Action.RUN]), (False, [])])
def test_a_call_is_put_back_where_the_rules_say_so(undo: bool, steps: list[Action]) -> None:
    in_force = account(settings={ITEM: "42"})
    plan = undone(in_force, step(Action.RUN, arguments=Arguments(run="42", undo=undo)))
    assert actions(plan) == steps
    assert told(plan)[ITEM][0] is undo
    assert all(s.arguments.back for s in plan.steps)


def test_exactly_what_was_moved_comes_back_once_the_account_is_there() -> None:
    steps = [step(Action.TRANSFER, position=2), step(Action.DELETE, position=3)]
    gone = account(state=AccountState.DELETED, recoverable_until=NOW + timedelta(days=1))
    plan = undone(gone, *steps)
    assert actions(plan) == [Action.RESTORE, Action.TRANSFER]
    back = plan.steps[1].arguments
    assert (back.only, back.from_external_id) == (("r1", "r2"), "x2")
    assert (back.to_external_id, back.to_account) == (gone.external_id, gone.id)
    assert told(plan)["2 decks"] == (True, "those still with Signe Varga")
    nothing = undone(gone, step(Action.TRANSFER, did=Done()))
    assert (nothing.steps, nothing.fidelity) == ((), ())


def test_a_cut_off_names_the_ways_in_that_stay_ended() -> None:
    shut = account(state=AccountState.SUSPENDED)
    lost = {
        what for what, (back, _) in told(undone(shut, step(Action.CUT_OFF))).items() if not back
    }
    assert lost == {"2 sessions", "1 API key", "password"}
    fewer = undone(shut, step(Action.CUT_OFF, found=Facet()))
    assert [f.what for f in fewer.fidelity if not f.comes_back] == ["Crew: password"]


def test_what_two_steps_would_put_back_is_put_back_once_the_last_first() -> None:
    gone = account(state=AccountState.DELETED, recoverable_until=NOW + timedelta(days=1))
    twice = [step(Action.PARK, position=1), step(Action.DELETE, position=2)]
    plan = undone(gone, *twice)
    assert (actions(plan), len(plan.fidelity)) == ([Action.RESTORE], 1)
    order = [done_step(Action.GRANT, name, position=n) for n, name in enumerate("abc", 1)]
    held = account(entitlements=frozenset("abc"))
    assert [s.item for s in undone(held, *order).steps] == ["c", "b", "a"]


def test_a_credential_is_made_only_where_the_application_takes_one() -> None:
    known = crew()
    app = known.applications["crew"]
    without = replace(app, capabilities=app.capabilities - {Capability.CREDENTIAL})
    known = replace(known, applications={"crew": without})
    shut = account(state=AccountState.SUSPENDED)
    assert actions(undone(shut, step(Action.CUT_OFF), world=known)) == [Action.RESUME]


def test_the_plan_is_an_undo() -> None:
    plan = undone(account(**IN_FORCE), step(Action.GRANT))
    assert plan.verb is Verb.UNDO


def test_a_return_gives_settings_back_as_they_were_before_the_leaving() -> None:
    """Whatever later dockets of the same leaving made of them."""
    known = crew()
    app = known.applications["crew"]
    can = app.capabilities - {Capability.RUN}
    profile = replace(app.profile, leaver_setting_days={ITEM: 9}, leaver_settings={ITEM: "boss"})
    known = replace(known, applications={"crew": replace(app, profile=profile, capabilities=can)})
    done = [
        step(Action.SET, position=1, found=Facet(value="own"), arguments=Arguments(value="boss")),
        step(Action.SET, position=2, found=Facet(value="boss"), arguments=Arguments(value="")),
        step(Action.SET, position=3, outcome=Outcome.ALREADY, arguments=Arguments(value="")),
    ]
    whom = whose(account(settings={}))
    plan = plan_return(whom, known, NOW, done)
    assert [s.arguments.value for s in plan.steps if s.action is Action.SET] == ["own"]
    standard = [replace(done[0], found=Facet(value="")), *done[1:]]
    plan = plan_return(whom, known, NOW, standard)
    assert [s for s in plan.steps if s.action is Action.SET] == [], "what has ended stays off"
    assert told(plan)[ITEM] == (True, "already as before; nothing to do")
    changed = plan_return(whose(account(settings={ITEM: "x"})), known, NOW, done)
    assert told(changed)[ITEM] == (False, "changed since to x; left as it is")


def test_a_return_gives_what_was_found_there_and_a_deletion_lost() -> None:
    gone = account(state=AccountState.DELETED, recoverable_until=NOW + DAY)
    found = Facet(account="suspended", entitlements=("mess", "radio"), seats=("gold",))
    one = replace(whose(gone, department="Deck"), ledger={(gone.id, GROUP, "radio"): by_role("T")})
    plan = plan_return(one, world(), NOW, [step(Action.DELETE, found=found)])
    crews = {(s.action, s.item) for s in plan.steps if s.application_id == "crew"}
    assert {(Action.GRANT, "mess"), (Action.TAKE_SEAT, "gold")} <= crews
    assert (Action.GRANT, "radio") not in crews
    assert told(plan)["radio"] == (False, "no rule gives it any more")
