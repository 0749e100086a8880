"""What becomes of seats when an account is suspended, archived, deleted, resumed: as its application says."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from itertools import product
from typing import Any

import pytest

from tests.builders import NOW, account, by_role, person, subject, world
from yugum.core.accounts import Account, AccountState, HoldingKind
from yugum.core.actions import Action
from yugum.core.applications import SeatReturn, SeatRule
from yugum.core.decisions import Decision, DecisionKind, Payload
from yugum.core.desired import Subject, World
from yugum.core.orders import Order, OrderState
from yugum.core.planning import plan_subject
from yugum.core.plans import Plan
from yugum.core.quick import plan_quick
from yugum.core.seats import Pool, Purchase
from yugum.core.starting import Readiness, Supply, working_days
from yugum.core.verbs import Quick, Verb

SEAT = "planner"


def crew(**profile: Any) -> World:
    known = world()
    app = known.applications["crew"]
    made = replace(app, profile=replace(app.profile, **profile))
    return replace(known, applications={**known.applications, "crew": made})


def holder(state: AccountState = AccountState.ACTIVE, **more: Any) -> tuple[Subject, Account]:
    have = account(state=state, **{"seats": frozenset({SEAT, "radar"}), **more})
    ledger = {
        ("a-crew", HoldingKind.SEAT, SEAT): by_role("Deck"),
        ("a-crew", HoldingKind.ACCOUNT, ""): by_role("Deck"),
    }
    return subject(accounts=(have,), ledger=ledger), have


def seats(plan: Plan) -> list[tuple[Action, str]]:
    moves = (Action.TAKE_SEAT, Action.FREE_SEAT)
    return [(s.action, s.item) for s in plan.steps if s.action in moves]


BOTH = [(Action.FREE_SEAT, SEAT), (Action.FREE_SEAT, "radar")]


@pytest.mark.parametrize(("rule", "what"), product(SeatRule, sorted(set(Quick) - {Quick.INVITE})))
def test_an_action_frees_seats_as_the_application_says(rule: SeatRule, what: Quick) -> None:
    state = {
        Quick.RESUME: AccountState.SUSPENDED,
        Quick.REOPEN: AccountState.ARCHIVED,
        Quick.RESTORE: AccountState.DELETED,
        Quick.PURGE: AccountState.DELETED,
    }.get(what, AccountState.ACTIVE)
    whose, have = holder(state)
    for field, when in (
        ("seat_at_suspension", (Quick.SUSPEND, Quick.ARCHIVE)),
        ("seat_at_deletion", (Quick.DELETE,)),
    ):
        other = dict.fromkeys(("seat_at_suspension", "seat_at_deletion"), SeatRule.KEPT)
        plan = plan_quick(whose, crew(**{**other, field: rule}), [have], what, NOW)
        freed = rule is SeatRule.FREED and what in when
        assert seats(plan) == (BOTH if freed else [])


def test_seats_are_free_before_the_account_is_gone() -> None:
    whose, have = holder()
    plan = plan_quick(whose, crew(seat_at_deletion=SeatRule.FREED), [have], Quick.DELETE, NOW)
    actions = [s.action for s in plan.steps]
    assert actions == [Action.CUT_OFF, Action.FREE_SEAT, Action.FREE_SEAT, Action.DELETE]
    assert plan.steps[1].origin == by_role("Deck")


def test_a_suspension_that_freed_seats_takes_them_again_when_it_ends() -> None:
    whose, have = holder(AccountState.SUSPENDED, seats=frozenset())
    freed = crew(seat_at_suspension=SeatRule.FREED)
    plan = plan_quick(whose, freed, [have], Quick.RESUME, NOW)
    assert seats(plan) == [(Action.TAKE_SEAT, SEAT)], "what a role gives, nothing found there"
    assert seats(plan_quick(whose, crew(), [have], Quick.RESUME, NOW)) == []
    nobody, alone = holder(AccountState.SUSPENDED, seats=frozenset())
    nobody = replace(nobody, person=person(department="Galley"))
    assert seats(plan_quick(nobody, freed, [alone], Quick.RESUME, NOW)) == []
    still, kept = holder(AccountState.SUSPENDED)
    assert seats(plan_quick(still, freed, [kept], Quick.RESUME, NOW)) == [], "it holds one"


@pytest.mark.parametrize("rule", list(SeatRule))
def test_rules_leave_seats_where_a_suspension_put_them(rule: SeatRule) -> None:
    whose, _ = holder(AccountState.SUSPENDED)
    decision = Decision(
        id="d1",
        subject_id="p1",
        kind=DecisionKind.SUSPEND,
        payload=Payload(application="crew"),
        author="ines",
        reason="lost",
    )
    closed = replace(whose, decisions=(decision,))
    plan = plan_subject(closed, crew(seat_at_suspension=rule), NOW, Verb.RECHECK)
    mine = [s for s in plan.steps if s.application_id == "crew"]
    assert [(s.action, s.item) for s in mine] == (BOTH if rule is SeatRule.FREED else [])


@pytest.mark.parametrize(("rule", "frees"), product(SeatRule, (True, False)))
def test_absence_frees_seats_by_the_rules_or_the_application(rule: SeatRule, frees: bool) -> None:
    whose, _ = holder()
    away = replace(whose, person=person(absent_from=NOW))
    known = crew(seat_at_suspension=rule)
    known = replace(known, rules=replace(known.rules, absence_frees_seats=frees))
    plan = plan_subject(away, known, NOW, Verb.ABSENCE)
    freed = frees or rule is SeatRule.FREED
    assert seats(plan) == (BOTH if freed else [])
    (cut,) = (s for s in plan.steps if s.action is Action.CUT_OFF)
    assert cut.reason == ("absent; all but seats kept" if freed else "absent; all kept")


@pytest.mark.parametrize("back", list(SeatReturn))
def test_a_restored_account_has_its_seat_again_or_takes_one(back: SeatReturn) -> None:
    whose, _ = holder(AccountState.DELETED, seats=frozenset())
    plan = plan_subject(whose, crew(seat_at_restore=back), NOW, Verb.RETURNER)
    takes = [(Action.TAKE_SEAT, SEAT)] if back is SeatReturn.ASSIGN else []
    assert seats(plan) == takes


def test_working_days_are_counted_from_the_first_that_is_one() -> None:
    friday = date(2031, 3, 7)
    assert working_days(friday, 1, range(5)) == friday
    assert working_days(friday, 2, range(5)) == date(2031, 3, 10)
    assert working_days(date(2031, 3, 8), 1, range(5)) == date(2031, 3, 10), "a Saturday"
    assert working_days(friday, 10, range(5)) == date(2031, 3, 20)


def test_an_order_brings_a_seat_only_to_whom_it_comes_in_time() -> None:
    day = date(2031, 3, 10)
    pool = Pool(id="x", application_id="crew", license="planner", bought=1, held=1)
    order = Order(
        id="o",
        number=7,
        pool_id="x",
        count=1,
        state=OrderState.EXPECTED,
        expected=day,
        reason="",
        author="",
        made_at=datetime(2031, 3, 1, tzinfo=UTC),
    )
    supply = Supply(pool, [Purchase(id="p", pool_id="x", count=1)], [order])
    assert supply.ready(day, 0) == (Readiness.ORDERED, "SO-0007")
    assert supply.ready(day - timedelta(days=1), 0)[0] is Readiness.LACKING
    assert supply.ready(day, 1)[0] is Readiness.LACKING
    assert Supply(replace(pool, held=0), supply.purchases, []).ready(day, 0)[0] is Readiness.FREE
