"""Pages about plans: what happens to somebody's accounts, by who they are and how these stand."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from datetime import timedelta
from functools import partial
from itertools import product
from typing import Any

from tests.book import show
from tests.book.scene import (
    ALL,
    HEIRS,
    MARA,
    NOW,
    PEOPLE,
    POOLS,
    RULES,
    SERVICE,
    STATES,
    account,
    decision,
    everywhere,
    subject,
    with_app,
    world,
)
from tests.book.show import Lines
from yugum.core.accounts import Account, AccountState, Asset, HoldingKind
from yugum.core.actions import Action, Arguments, Done, Facet
from yugum.core.applications import Capability, Deletion, SeatReturn, SeatRule, Trust
from yugum.core.closing import plan_close, plan_credential, plan_purge
from yugum.core.decisions import FOUND, DecisionKind, Origin, OriginKind
from yugum.core.deviations import Deviation, DeviationKind
from yugum.core.dockets import DoneStep, Outcome
from yugum.core.drafts import Draft
from yugum.core.planning import plan_subject
from yugum.core.plans import Plan
from yugum.core.quick import plan_quick
from yugum.core.renames import kept_as, plan_rename
from yugum.core.returns import plan_return
from yugum.core.reverts import plan_revert
from yugum.core.undo import plan_undo
from yugum.core.verbs import Quick, Verb

S = AccountState


def people() -> Lines:
    """Everybody without and with accounts that are open, and with these as they were left."""
    verbs = {
        "active": Verb.MOVER,
        "in Timetables": Verb.MOVER,
        "of no role": Verb.MOVER,
        "expected in five days": Verb.JOINER,
        "expected in two days": Verb.JOINER,
        "absent": Verb.ABSENCE,
        "absent, of no role": Verb.ABSENCE,
        "just left": Verb.LEAVER,
        "left a month ago": Verb.LEAVER,
        "on a term": Verb.JOINER,
    }
    for name, who in PEOPLE.items():
        for accounts in ((), everywhere(S.ACTIVE)):
            yield f"# {name}, {'accounts open' if accounts else 'no accounts'}"
            yield from show.plan(plan_subject(subject(who, *accounts), world(), NOW, verbs[name]))


def states() -> Lines:
    """Somebody who works, is expected or has left, by how the accounts stand."""
    for name, state in product(("active", "expected in two days", "just left"), STATES[1:]):
        yield f"# {name}, accounts {state.value}"
        whose = subject(PEOPLE[name], *everywhere(state))
        yield from show.plan(plan_subject(whose, world(), NOW, Verb.RETURNER))
    over = account("crew", S.DELETED, recoverable_until=NOW)
    endless = account("crew", S.DELETED, recoverable_until=None)
    for name, have in (("over", over), ("without an end", endless)):
        yield f"# deleted, the window {name}"
        yield from show.plan(plan_subject(subject(MARA, have), world(), NOW, Verb.RETURNER))
    yield "# two accounts, one of them deleted"
    second = account("crew", S.SUSPENDED, id="a-two", login="mara")
    both = subject(MARA, account("crew", S.DELETED), second)
    yield from show.plan(plan_subject(both, world(), NOW, Verb.RETURNER))
    yield "# a service account is nobody's to plan"
    served = subject(MARA, account("crew", kind=SERVICE))
    yield from show.plan(plan_subject(served, world(), NOW, Verb.LEAVER))
    yield "# an account that is nobody's"
    nobody = subject(MARA, account("crew"), is_person=False)
    yield from show.plan(plan_subject(nobody, world(), NOW, Verb.RECHECK))


def decisions() -> Lines:
    """Exceptions, denials, roles, holds and suspensions."""
    for name, made in {
        "an account": decision(
            DecisionKind.GRANT, about={"application": "lockers", "kind": HoldingKind.ACCOUNT}
        ),
        "an entitlement": decision(
            DecisionKind.GRANT,
            about={"application": "crew", "kind": HoldingKind.ENTITLEMENT, "item": "pilot"},
        ),
        "a seat": decision(
            DecisionKind.GRANT,
            about={"application": "crew", "kind": HoldingKind.SEAT, "item": "planner"},
        ),
        "a seat of no pool": decision(
            DecisionKind.GRANT,
            about={"application": "crew", "kind": HoldingKind.SEAT, "item": "gold"},
        ),
        "a setting": decision(
            DecisionKind.GRANT,
            about={
                "application": "crew",
                "kind": HoldingKind.SETTING,
                "item": "quota",
                "value": "9 GB",
            },
        ),
        "no account": decision(DecisionKind.DENY, about={"application": "crew"}),
        "no entitlement": decision(
            DecisionKind.DENY,
            about={"application": "crew", "kind": HoldingKind.ENTITLEMENT, "item": "deck"},
        ),
        "no setting": decision(
            DecisionKind.DENY,
            about={"application": "crew", "kind": HoldingKind.SETTING, "item": "quota"},
        ),
        "nothing where nothing is": decision(DecisionKind.DENY, about={"application": "desk"}),
        "a role": decision(DecisionKind.ROLE, about={"role": "Timetables"}),
        "a hold": decision(DecisionKind.HOLD),
        "suspended": decision(DecisionKind.SUSPEND, about={"application": "crew"}),
        "suspended where nobody can be": decision(
            DecisionKind.SUSPEND, about={"application": "radio"}
        ),
        "not yet": decision(
            DecisionKind.SUSPEND, about={"application": "crew"}, starts=NOW + timedelta(1)
        ),
        "not any more": decision(DecisionKind.SUSPEND, about={"application": "crew"}, ends=NOW),
    }.items():
        yield f"# {name}"
        have = (account("crew"), account("radio"))
        whose = subject(MARA, *have, decisions=(made,))
        yield from show.plan(plan_subject(whose, world(), NOW, Verb.RECHECK))
    yield "# suspended, and has left"
    closed = decision(DecisionKind.SUSPEND, about={"application": "crew"})
    whose = subject(PEOPLE["just left"], account("crew"), decisions=(closed,))
    yield from show.plan(plan_subject(whose, world(), NOW, Verb.LEAVER))


def profiles() -> Lines:
    """The same leaver, and the same returner, by what is particular about one application."""
    left, back = PEOPLE["just left"], MARA
    never = ALL - {Capability.SETTINGS, Capability.ENTITLEMENTS, Capability.DEVICES}
    changes: dict[str, dict[str, Any]] = {
        "kept when suspended": {"profile": {"seat_at_suspension": SeatRule.KEPT}},
        "freed when suspended": {"profile": {"seat_at_suspension": SeatRule.FREED}},
        "returned": {"profile": {"seat_at_restore": SeatReturn.RETURNED}},
        "no must change": {"profile": {"must_change": False}},
        "prepared at once": {"profile": {"prepare_days": 9}},
        "not prepared": {"profile": {"prepare_days": 0}},
        "no settings, no groups": {"capabilities": never},
        "no suspension": {"capabilities": ALL - {Capability.SUSPEND}},
        "no credentials": {"capabilities": ALL - {Capability.CREDENTIAL}},
        "no sessions, no keys": {"capabilities": ALL - {Capability.SESSIONS, Capability.KEYS}},
        "no assets": {"capabilities": ALL - {Capability.ASSETS}},
        "added to": {"trust": Trust.ADD},
        "watched": {"trust": Trust.WATCH},
    }
    for name, changed in changes.items():
        known = with_app("crew", **changed)
        here = replace(known, applications={"crew": known.applications["crew"]})
        for who, state in (
            (left, S.ACTIVE),
            (back, S.DELETED),
            (PEOPLE["absent"], S.ACTIVE),
            (PEOPLE["expected in five days"], None),
        ):
            accounts = () if state is None else (account("crew", state),)
            yield f"# {name}: {'left' if who is left else 'not left'}, {state or 'no account'}"
            whose = subject(who, *accounts, successor=HEIRS)
            yield from show.plan(plan_subject(whose, here, NOW, Verb.RECHECK))
    frees = replace(world(), rules=replace(RULES, absence_frees_seats=True))
    yield "# absence frees seats"
    away = subject(PEOPLE["absent"], account("crew"))
    yield from show.plan(plan_subject(away, frees, NOW, Verb.ABSENCE))


def successors() -> Lines:
    """Who takes over: nobody, somebody without an account, somebody whose account is not open."""
    left = PEOPLE["just left"]
    closed = account("crew", S.SUSPENDED, id="h-crew")
    for name, heir in {
        "nobody": None,
        "without an account": replace(HEIRS, accounts={}),
        "with a suspended one": replace(HEIRS, accounts={"crew": closed}),
        "with open ones": HEIRS,
    }.items():
        yield f"# {name}"
        whose = subject(left, account("crew"), account("tickets"), successor=heir)
        yield from show.plan(plan_subject(whose, world(), NOW, Verb.LEAVER))
    yield "# later: what was set for a time ends"
    for days in (29, 30, 89, 90):
        yield f"# after {days} days"
        long_ago = replace(left, access_ends=NOW - timedelta(days=days))
        settings = {"forward": "svarga@morrow.example", "reply": "gone", "container": "leavers"}
        have = account("crew", S.SUSPENDED, settings=settings, assets=())
        whose = subject(long_ago, have, successor=HEIRS)
        yield from show.plan(plan_subject(whose, world(), NOW, Verb.RECHECK))


def quick() -> Lines:
    """Every quick action on every state of an account, and what is refused."""
    for app in ("crew", "reports", "tickets"):
        for what, state in product(Quick, STATES):
            yield f"# {what.value} {app}, {state.value}"
            have = account(app, state)
            whose = subject(MARA, have, successor=HEIRS)
            yield from show.tried_plan(partial(plan_quick, whose, world(), [have], what, NOW))
    over = account("crew", S.DELETED, recoverable_until=NOW)
    endless = account("crew", S.DELETED, recoverable_until=None)
    left = PEOPLE["just left"]
    hold = decision(DecisionKind.HOLD)
    spare = replace(world(), pools={})
    kept = with_app("tickets", profile={"deletion": Deletion.RECOVERABLE, "window_days": 9})
    for name, whose, known, have, what in (
        ("over", subject(MARA), world(), over, Quick.RESTORE),
        ("without an end", subject(MARA), world(), endless, Quick.RESTORE),
        ("no pools", subject(MARA), spare, account("crew", S.DELETED), Quick.RESTORE),
        ("returned seats", subject(MARA), kept, account("tickets", S.DELETED), Quick.RESTORE),
        ("of a leaver", subject(left), world(), account("crew", S.ARCHIVED), Quick.REOPEN),
        (
            "of no role",
            subject(PEOPLE["of no role"]),
            world(),
            account("crew", S.ARCHIVED),
            Quick.REOPEN,
        ),
        ("without a successor", subject(MARA), world(), account("crew"), Quick.DELETE),
        ("held", subject(MARA, decisions=(hold,)), world(), account("crew"), Quick.DELETE),
        (
            "held",
            subject(MARA, decisions=(hold,)),
            world(),
            account("crew", S.SUSPENDED),
            Quick.PURGE,
        ),
        ("held", subject(MARA, decisions=(hold,)), world(), account("crew"), Quick.SUSPEND),
    ):
        yield f"# {name}: {what.value} {have.application_id}, {have.state.value}"
        yield from show.tried_plan(partial(plan_quick, whose, known, [have], what, NOW))
    for bought in (2, 3):
        pool = replace(POOLS["tickets", "seller"], bought=bought)
        known = replace(kept, pools={("tickets", "seller"): pool})
        gone = account("tickets", S.DELETED, seats=frozenset())
        yield f"# seats come back with it, {bought} bought"
        yield from show.plan(plan_quick(subject(MARA), known, [gone], Quick.RESTORE, NOW))
    for held in (2, 3):
        pool = replace(POOLS["crew", "planner"], held=held)
        known = world(pools={("crew", "planner"): pool})
        gone = account("crew", S.DELETED, seats=frozenset())
        yield f"# a seat has to be taken again, {held} of 3 held"
        yield from show.plan(plan_quick(subject(MARA), known, [gone], Quick.RESTORE, NOW))
    both = [account("crew"), account("reports")]
    yield "# two at once"
    yield from show.plan(plan_quick(subject(MARA, *both), world(), both, Quick.SUSPEND, NOW))


def closing() -> Lines:
    """An account's day to be closed, the end of a window, a credential asked for."""
    left, hold = PEOPLE["left a month ago"], decision(DecisionKind.HOLD)
    ours = {"crew": (replace(hold, id="d2", subject_id="crew", author="bo"),)}
    for app, state in product(("crew", "reports", "tickets"), STATES):
        have = account(app, state)
        yield f"# close {app}, {state.value}"
        heir = subject(left, have, successor=HEIRS)
        yield from show.plan(plan_close(heir, world(), have, NOW))
    have = account("crew", S.SUSPENDED)
    for name, whose, known in (
        ("held", subject(left, have, decisions=(hold,)), world()),
        ("the application is", subject(left, have), world(holds=ours)),
        ("wanted again", subject(MARA, have), world()),
        ("nobody takes over", subject(left, have), world()),
        ("of no role", subject(PEOPLE["of no role"], have, successor=HEIRS), world()),
    ):
        yield f"# close crew: {name}"
        yield from show.plan(plan_close(whose, known, have, NOW))
    for state in STATES:
        gone = account("crew", state)
        yield f"# purge crew, {state.value}"
        yield from show.plan(plan_purge(subject(left, gone), world(), gone, NOW))
    for until in (NOW, NOW + timedelta(seconds=1)):
        gone = account("crew", S.DELETED, recoverable_until=until)
        yield f"# purge crew, held, the window until {until.time()}"
        held = subject(left, gone, decisions=(hold,))
        yield from show.plan(plan_purge(held, world(), gone, NOW))
    for app, state, sealed in product(("crew", "reports", "radio"), STATES[::3], ("", "c2VjcmV0")):
        have = account(app, state)
        yield f"# credential {app}, {state.value}, {'chosen' if sealed else 'made'}"
        yield from show.plan(plan_credential(subject(MARA, have), world(), have, NOW, sealed))


DEEDS: Mapping[Action, dict[str, Any]] = {
    Action.SET: {"arguments": Arguments(value="9 GB", was="1 GB"), "item": "quota"},
    Action.RENAME: {"found": Facet(login="mara"), "item": "mquill"},
    Action.RUN: {"arguments": Arguments(run="r1", undo=True), "item": "print badge"},
    Action.TRANSFER: {
        "did": Done(assets=(Asset("roster", "r3", "May"), Asset("roster", "r4", "June"))),
        "arguments": Arguments(to_name="Signe Varga", to_external_id="y-crew"),
        "item": "roster",
    },
    Action.REDIRECT: {
        "arguments": Arguments(value="svarga", was="mquill", place="s1"),
        "item": "Bridge › alert",
    },
    Action.REPLACE_KEY: {
        "arguments": Arguments(value="svarga", was="mquill", place="s2", to_name="Signe Varga"),
        "item": "Bridge › tides",
    },
    Action.COPY: {
        "item": "board",
        "did": Done(assets=(Asset("board", "b9", "Bridge"),), copied=("b1",)),
        "arguments": Arguments(to_name="Signe Varga"),
    },
    Action.CALL_OFF: {"item": "meeting", "did": Done(assets=(Asset("meeting", "m1", "Round"),))},
    Action.END_DEVICES: {"found": Facet(devices=2)},
    Action.CUT_OFF: {"found": Facet(sessions=2, keys=1)},
    Action.GRANT: {"item": "deck", "origin": Origin(OriginKind.ROLE, "Deck")},
    Action.REVOKE: {"item": "pilot", "origin": Origin(OriginKind.DECISION, "d5")},
    Action.TAKE_SEAT: {"item": "planner"},
    Action.FREE_SEAT: {"item": "gold"},
}


def done(action: Action, app: str = "crew", **more: Any) -> DoneStep:
    values: dict[str, Any] = {"position": 1, "application_id": app, "account_id": f"a-{app}"}
    return DoneStep(**{"item": "", **values, "action": action, **DEEDS.get(action, {}), **more})


IDLE = replace(MARA, department="Shore", title="Hand")


def undo() -> Lines:
    """Every action taken back, by how the account stands since, and what was changed meanwhile."""
    for action, state in product(Action, STATES):
        yield f"# {action.value}, {state.value}"
        have = account("crew", state, settings={"quota": "9 GB", "print badge": "r1"})
        yield from show.plan(plan_undo(subject(IDLE, have), world(), NOW, [done(action)]))
    crew = account("crew", settings={"quota": "5 GB"}, login="mq", seats=frozenset({"gold"}))
    many = [
        done(Action.SET),
        done(Action.SET, found=Facet(value="5 GB")),
        done(Action.SET, item="label", arguments=Arguments(value="")),
        done(Action.SET, item="label", found=Facet(value="x"), arguments=Arguments(value="")),
        done(Action.RENAME),
        done(Action.RUN, arguments=Arguments(run="r1")),
        done(Action.RUN),
        done(Action.TRANSFER, did=Done()),
        done(Action.TRANSFER, arguments=Arguments()),
        done(Action.FREE_SEAT),
        done(Action.FREE_SEAT, item="planner"),
        done(Action.CUT_OFF, found=Facet(sessions=1)),
        done(Action.CUT_OFF, found=Facet()),
        done(Action.END_DEVICES, found=Facet()),
        done(Action.GRANT, item="lost"),
        done(Action.REVOKE, item="deck"),
    ]
    for step in many:
        yield f"# {step.action.value} {step.item}, changed since"
        yield from show.plan(plan_undo(subject(IDLE, crew), world(), NOW, [step]))
    yield "# a seat is free for what was freed"
    whose = subject(IDLE, account("crew", seats=frozenset()))
    yield from show.plan(plan_undo(whose, world(), NOW, [done(Action.FREE_SEAT, item="planner")]))
    yield "# nobody's, by hand, in an application that is gone, in one only watched"
    steps = [
        done(Action.GRANT, account_id="other"),
        done(Action.GRANT, outcome=Outcome.BY_HAND),
        done(Action.GRANT, outcome=Outcome.ALREADY),
        done(Action.GRANT, application_id="gone"),
        done(Action.GRANT, "log", item="read"),
    ]
    whose = subject(IDLE, account("crew"), account("log"))
    yield from show.plan(plan_undo(whose, world(), NOW, steps))
    yield "# the last first, and once"
    order = [
        done(Action.GRANT, position=1),
        done(Action.GRANT, position=2, item="choir"),
        done(Action.GRANT, position=3),
        done(Action.CUT_OFF, "reports", position=0),
    ]
    whose = subject(IDLE, account("crew"), account("reports", S.SUSPENDED))
    yield from show.plan(plan_undo(whose, world(), NOW, order))
    for app in ("reports", "tickets"):
        for assets in ((), (Asset("tour", "t1", "Lights"),)):
            have = account(app, assets=assets)
            yield f"# made in {app}, owns {len(assets)}"
            yield from show.plan(
                plan_undo(subject(IDLE, have), world(), NOW, [done(Action.CREATE, app)])
            )
    hold = decision(DecisionKind.HOLD)
    yield "# made, on hold"
    held = subject(IDLE, account("crew"), decisions=(hold,))
    yield from show.plan(plan_undo(held, world(), NOW, [done(Action.CREATE)]))
    over = account("crew", S.DELETED, recoverable_until=NOW)
    yield "# deleted, the window over"
    yield from show.plan(plan_undo(subject(IDLE, over), world(), NOW, [done(Action.DELETE)]))
    yield "# what is given by now stays, and who is let in again"
    for step in (done(Action.GRANT, item="deck"), done(Action.CREATE), done(Action.CUT_OFF)):
        shut = account("crew", S.SUSPENDED, entitlements=frozenset({"deck"}))
        yield from show.plan(plan_undo(subject(MARA, shut), world(), NOW, [step]))
    yield "# the cause taken back"
    yield from show.plan(
        plan_undo(subject(MARA, account("crew")), world(), NOW, [], subject(IDLE, account("crew")))
    )
    yield from show.plan(
        plan_undo(subject(IDLE, account("crew")), world(), NOW, [], subject(MARA, account("crew")))
    )


def returns() -> Lines:
    """Somebody who comes back: today's rights, and what was theirs."""
    left = [
        done(Action.CUT_OFF, position=1),
        done(Action.REVOKE, position=2, item="choir", origin=FOUND),
        done(Action.REVOKE, position=3, item="pilot", origin=Origin(OriginKind.ROLE, "Old")),
        done(Action.REVOKE, position=4, item="deck", origin=Origin(OriginKind.ROLE, "Deck")),
        done(Action.REVOKE, position=5, item="bell", origin=None),
        done(Action.TRANSFER, position=6),
        done(Action.SET, position=7),
        done(Action.SET, position=8, item="theme", arguments=Arguments(value="", was="dark")),
        done(Action.FREE_SEAT, position=9),
        done(Action.REVOKE, position=10, item="x", outcome=Outcome.BY_HAND),
        done(Action.CUT_OFF, "gone", position=11),
        done(Action.CUT_OFF, "reports", position=12, account_id="other"),
    ]
    for state in STATES:
        yield f"# accounts {state.value}"
        have = account("crew", state, entitlements=frozenset({"Staff"}), seats=frozenset())
        others = (account("reports", state), account("desk"), account("radio", state))
        yield from show.plan(plan_return(subject(MARA, have, *others), world(), NOW, left))
    yield "# the window is over"
    over = account("crew", S.DELETED, recoverable_until=NOW)
    yield from show.plan(plan_return(subject(MARA, over), world(), NOW, left))
    yield "# what is held again is not given twice"
    have = account("crew", settings={"theme": ""})
    yield from show.plan(plan_return(subject(MARA, have), world(), NOW, left))


def renames() -> Lines:
    """A new name, by what the applications know of the old one."""
    new = replace(MARA, user_name="mstorm", family_name="Storm", display_name="Mara Storm")
    for name, have in {
        "as before": [account("crew"), account("tickets", S.SUSPENDED), account("desk")],
        "in capitals": [account("crew", login="MQuill")],
        "otherwise": [account("crew", login="mara")],
        "already": [account("crew", login="mstorm")],
        "where it cannot be": [account("reports"), account("radio")],
        "deleted": [account("crew", S.DELETED)],
        "of a service": [account("crew", kind=SERVICE)],
        "where nothing is known": [account("crew", application_id="gone")],
    }.items():
        yield f"# {name}"
        yield from show.plan(plan_rename(subject(new, *have), world(), NOW, "mquill"))
    apps, ids = world().applications, {"crew": "i1", "reports": "i2", "tickets": "i3"}
    settings = {i: a.profile.alias_setting for i, a in apps.items()}
    for name, known, days in (
        ("60 days", settings, 60),
        ("none", settings, 0),
        ("no settings", {}, 60),
    ):
        yield f"# aliases for {name}"
        where = {i: (ids[i], known.get(i, "")) for i in ids}
        until, why = NOW + timedelta(days=days), f"the old name for {days} days"
        for made in kept_as(MARA, where, "mquill", until, NOW, "ines", why):
            yield show.told(made)


def reverts() -> Lines:
    """What was changed outside, put back."""
    changes = [
        Deviation(DeviationKind.ENTITLEMENT, "choir", "not held", "held"),
        Deviation(DeviationKind.ENTITLEMENT, "pilot", "held", "not held"),
        Deviation(DeviationKind.SEAT, "planner", "not held", "held"),
        Deviation(DeviationKind.SEAT, "gold", "held", "not held"),
        Deviation(DeviationKind.ACCOUNT, "", "not there", "there"),
        Deviation(DeviationKind.ACCOUNT, "", "there", "gone"),
        *(
            Deviation(DeviationKind.STATE, "", was.value, now.value)
            for was, now in product(STATES, STATES)
            if was is not now
        ),
    ]
    hold = decision(DecisionKind.HOLD)
    for app, change in product(("crew", "tickets"), changes):
        yield f"# {app}: {change.kind.value} {change.item} {change.was} → {change.now_is}"
        yield from show.tried_plan(partial(_reverted, app, change))
    for app in ("reports", "tickets", "crew"):
        yield f"# {app}: a new account, suspended, and on hold"
        closed = account(app, S.SUSPENDED)
        yield from show.plan(_reverted(app, changes[4], closed))
        yield from show.plan(_reverted(app, changes[4], closed, decisions=(hold,)))


def _reverted(app: str, change: Deviation, have: Account | None = None, **more: Any) -> Plan:
    mine = have or account(app)
    draft = Draft(subject(MARA, mine, **more), world(), NOW)
    plan_revert(draft, world().applications[app], mine, change)
    return draft.finish(Verb.REVERT)
