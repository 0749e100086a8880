"""Seats of an account as planned: what a base, a suite or a refusal makes of those beside it."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime

from tests.builders import RULES, account, by_role, role, subject, world
from yugum.core.accounts import HoldingKind
from yugum.core.actions import Action
from yugum.core.decisions import Decision, DecisionKind, Ledger, Origin, Payload
from yugum.core.licenses import License, WhenEmpty
from yugum.core.planning import plan_subject
from yugum.core.plans import Plan
from yugum.core.seats import Pool
from yugum.core.verbs import Verb
from yugum.wire.filters import parse_filter

NOW = datetime(2031, 3, 3, 8, 40, tzinfo=UTC)


def planned(
    licenses: dict[str, License],
    *,
    gives: tuple[str, ...],
    holds: tuple[str, ...] = (),
    found: tuple[str, ...] = (),
    free: int = 1,
    decisions: tuple[Decision, ...] = (),
) -> Plan:
    """Somebody of Deck, to whom a role gives seats, with those held by that role or found there."""
    items = [("crew", HoldingKind.ACCOUNT, ""), *(("crew", HoldingKind.SEAT, i) for i in gives)]
    rules = replace(
        RULES,
        roles=(role("Deck", "Deck", *items),),
        licenses={("crew", name): one for name, one in licenses.items()},
    )
    pools = {
        ("crew", i): Pool(id=i, application_id="crew", license=i, bought=free)
        for i in {*gives, *holds, *found, *licenses}
    }
    ledger: dict[tuple[str, HoldingKind, str], Origin] = {
        ("a-crew", HoldingKind.SEAT, i): by_role("Deck") for i in holds
    }
    ledger["a-crew", HoldingKind.ACCOUNT, ""] = by_role("Deck")
    mine = account("crew", seats=frozenset({*holds, *found}))
    kept: Ledger = ledger
    who = subject(accounts=(mine,), ledger=kept, decisions=decisions)
    return plan_subject(who, replace(world(), rules=rules, pools=pools), NOW, Verb.RECHECK)


def seats(plan: Plan) -> list[tuple[Action, str]]:
    kinds = (Action.TAKE_SEAT, Action.FREE_SEAT)
    return [(s.action, s.item) for s in plan.steps if s.action in kinds]


def test_a_part_stays_while_its_suite_is_not_to_be_had() -> None:
    suite = License(contains=("part",), when_empty=WhenEmpty.BLOCK)
    plan = planned({"suite": suite}, gives=("suite", "part"), holds=("part",), free=0)
    assert seats(plan) == []
    assert [c.code for c in plan.cautions if c.code == "no-seat-left"] == ["no-seat-left"]
    plan = planned({"suite": suite}, gives=("suite", "part"), holds=("part",), free=1)
    assert seats(plan) == [(Action.TAKE_SEAT, "suite"), (Action.FREE_SEAT, "part")]


def test_an_add_on_is_not_planned_whose_base_is_not_to_be_had() -> None:
    licenses = {"extra": License(requires=("base",)), "base": License(when_empty=WhenEmpty.BLOCK)}
    plan = planned(licenses, gives=("extra", "base"), free=0)
    assert seats(plan) == []
    assert {c.code for c in plan.cautions} >= {"no-base", "no-seat-left"}


def test_a_base_that_is_refused_takes_its_add_on_along_also_where_it_was_found() -> None:
    refused = Decision(
        id="d",
        subject_id="p1",
        kind=DecisionKind.DENY,
        payload=Payload(application="crew", kind=HoldingKind.SEAT, item="base"),
        reason="unused",
    )
    licenses = {"extra": License(requires=("base",))}
    plan = planned(
        licenses, gives=("extra",), holds=("extra",), found=("base",), decisions=(refused,)
    )
    assert seats(plan) == [(Action.FREE_SEAT, "extra"), (Action.FREE_SEAT, "base")]
    assert seats(planned(licenses, gives=("extra",), holds=("extra",), found=("base",))) == []


def test_people_are_alike_only_if_they_may_have_the_same_licenses() -> None:
    staff = License(who=parse_filter('userType eq "employee"', ("userType",)))
    rules = replace(RULES, licenses={("crew", "planner"): staff})
    assert rules.attributes() == RULES.attributes() | {"userType"}
