"""Plans carried out on a model of the applications: nothing is left to do, undo puts it back."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from datetime import UTC, datetime, timedelta
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.builders import account, asset, by_role, person, world
from yugum.core.accounts import Account, AccountState, Asset, HoldingKind
from yugum.core.actions import NOTHING_DONE, Action, Done, Facet
from yugum.core.decisions import Ledger, Origin
from yugum.core.desired import Subject, Successor, desired
from yugum.core.dockets import DoneStep, Outcome
from yugum.core.people import Person
from yugum.core.planning import plan_subject
from yugum.core.plans import Plan
from yugum.core.undo import plan_undo
from yugum.core.verbs import Verb

NOW = datetime(2031, 3, 3, 8, 40, tzinfo=UTC)
HEIR = person(id="p2", user_name="svarga", display_name="Signe Varga")
HEIRS = {
    "crew": account(id="a2", person_id="p2", external_id="x2"),
    "reports": account("reports", id="a3", person_id="p2", external_id="x3"),
}


@dataclass
class Model:
    """The applications as far as plans change them."""

    accounts: dict[str, Account]
    ledger: dict[tuple[str, HoldingKind, str], Origin] = field(default_factory=dict)
    with_heir: dict[str, list[Asset]] = field(default_factory=dict)

    def subject(self, who: Person) -> Subject:
        ledger: Ledger = dict(self.ledger)
        return Subject(
            person=who,
            accounts=tuple(self.accounts.values()),
            ledger=ledger,
            successor=Successor(person=HEIR, accounts=HEIRS),
        )

    def carry_out(self, plan: Plan) -> list[DoneStep]:
        return [self._do(n, s) for n, s in enumerate(plan.steps)]

    def _do(self, number: int, step: Any) -> DoneStep:
        key = step.account_id or f"new-{step.application_id}"
        have = self.accounts.get(key) or account(step.application_id, id=key)
        found = Facet(sessions=have.sessions, keys=have.keys)
        did = NOTHING_DONE
        match step.action:
            case Action.CREATE:
                have = account(step.application_id, id=key, external_id=f"x-{key}")
                self.ledger[(key, HoldingKind.ACCOUNT, "")] = step.origin
            case Action.CUT_OFF:
                have = replace(have, state=AccountState.SUSPENDED, sessions=0, keys=0)
            case Action.RESUME:
                have = replace(have, state=AccountState.ACTIVE)
            case Action.RESTORE:
                have = replace(have, state=AccountState.SUSPENDED, recoverable_until=None)
            case Action.DELETE | Action.PARK:
                have = replace(
                    have, state=AccountState.DELETED, recoverable_until=NOW + timedelta(days=30)
                )
            case Action.GRANT:
                have = replace(have, entitlements=have.entitlements | {step.item})
                self.ledger[(key, HoldingKind.ENTITLEMENT, step.item)] = step.origin
            case Action.REVOKE:
                have = replace(have, entitlements=have.entitlements - {step.item})
                self.ledger.pop((key, HoldingKind.ENTITLEMENT, step.item), None)
            case Action.TAKE_SEAT:
                have = replace(have, seats=have.seats | {step.item})
                self.ledger[(key, HoldingKind.SEAT, step.item)] = step.origin
            case Action.FREE_SEAT:
                have = replace(have, seats=have.seats - {step.item})
                self.ledger.pop((key, HoldingKind.SEAT, step.item), None)
            case Action.TRANSFER:
                have, did = self._transfer(have, step)
        self.accounts[key] = have
        return DoneStep(
            position=number,
            application_id=step.application_id,
            account_id=key,
            action=step.action,
            item=step.item,
            arguments=step.arguments,
            origin=step.origin,
            outcome=Outcome.DONE,
            found=found,
            did=did,
        )

    def _transfer(self, have: Account, step: Any) -> tuple[Account, Done]:
        if step.arguments.only is not None:
            back = [
                a for a in self.with_heir.get(have.id, ()) if a.external_id in step.arguments.only
            ]
            self.with_heir[have.id] = [a for a in self.with_heir[have.id] if a not in back]
            return replace(have, assets=(*have.assets, *back)), NOTHING_DONE
        gone = [a for a in have.assets if a.kind == step.item]
        self.with_heir.setdefault(have.id, []).extend(gone)
        left = tuple(a for a in have.assets if a.kind != step.item)
        return replace(have, assets=left), Done(assets=tuple(gone))


@st.composite
def models(draw: st.DrawFn) -> Model:
    """Accounts of somebody in Deck, with what roles gave and what was found there."""
    accounts: dict[str, Account] = {}
    ledger: dict[tuple[str, HoldingKind, str], Origin] = {}
    for application, given_ in (("crew", "deck"), ("reports", "deck_reports")):
        if not draw(st.booleans()):
            continue
        extra = draw(st.sets(st.sampled_from(["night", "archive"])))
        by_rule = draw(st.booleans())
        seats = {"planner"} if application == "crew" and draw(st.booleans()) else set()
        owned = draw(st.sets(st.sampled_from(["r1", "r2", "t1"])))
        made = account(
            application,
            entitlements=frozenset(extra | ({given_} if by_rule else set())),
            seats=frozenset(seats),
            sessions=draw(st.integers(0, 2)),
            keys=draw(st.integers(0, 1)),
            assets=tuple(asset(n, "roster" if n[0] == "r" else "table") for n in sorted(owned)),
        )
        accounts[made.id] = made
        if by_rule:
            ledger[(made.id, HoldingKind.ACCOUNT, "")] = by_role("Deck")
            ledger[(made.id, HoldingKind.ENTITLEMENT, given_)] = by_role("Deck")
        for seat in seats:
            ledger[(made.id, HoldingKind.SEAT, seat)] = by_role("Deck")
    return Model(accounts, ledger)


PEOPLE = st.sampled_from(
    [
        person(),
        person(department="Timetables"),
        person(department="None"),
        person(access_ends=NOW),
        person(absent_from=NOW),
    ]
)


@settings(max_examples=200, deadline=None)
@given(model=models(), who=PEOPLE)
def test_the_same_inputs_give_the_same_plan(model: Model, who: Person) -> None:
    first = plan_subject(model.subject(who), world(), NOW, Verb.MOVER)
    again = plan_subject(model.subject(who), world(), NOW, Verb.MOVER)
    assert first == again
    assert first.digest == again.digest


@settings(max_examples=300, deadline=None)
@given(model=models(), who=PEOPLE)
def test_a_plan_carried_out_leaves_no_difference(model: Model, who: Person) -> None:
    model.carry_out(plan_subject(model.subject(who), world(), NOW, Verb.MOVER))
    left = plan_subject(model.subject(who), world(), NOW, Verb.MOVER)
    assert left.steps == ()


@settings(max_examples=300, deadline=None)
@given(model=models(), who=PEOPLE)
def test_undo_gives_the_state_before_but_for_what_the_report_names(
    model: Model, who: Person
) -> None:
    before = dict(model.accounts)
    done = model.carry_out(plan_subject(model.subject(who), world(), NOW, Verb.MOVER))
    undo = plan_undo(model.subject(person()), world(), NOW, done, model.subject(who))
    model.carry_out(undo)
    lost = {line.what for line in undo.fidelity if not line.comes_back}
    then = desired(model.subject(person()), world().rules, NOW)
    for key, was in before.items():
        now = model.accounts[key]
        name, want = world().applications[was.application_id].name, then.get(was.application_id)
        given = want is not None and want.account is not None
        if now.state is not was.state:
            assert (given and now.state is AccountState.ACTIVE) or f"{name}: access" in lost
        things = set(want.entitlements) | set(want.seats) if want else set()
        for item in (now.entitlements ^ was.entitlements) | (now.seats ^ was.seats):
            held = item in now.entitlements | now.seats
            assert held is (item in things) or f"{name}: {item}" in lost
        assert set(now.assets) == set(was.assets)
        if was.sessions > now.sessions or was.keys > now.keys:
            assert any(what.startswith(f"{name}: ") for what in lost)
    for key in model.accounts.keys() - before.keys():
        made = model.accounts[key]
        stays = made.application_id in then
        assert stays or made.state is AccountState.DELETED
