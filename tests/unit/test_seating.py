"""Seats of an account as planned: what a base, a suite or a refusal makes of those beside it."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from typing import Any

from tests.builders import RULES, account, asset, by_role, person, role, subject, world
from yugum.core.accounts import HoldingKind
from yugum.core.actions import Action, Phase
from yugum.core.applications import Profile
from yugum.core.decisions import Decision, DecisionKind, Ledger, Origin, Payload
from yugum.core.desired import Successor
from yugum.core.licenses import Carries, Cheaper, License, WhenEmpty
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


def test_a_seat_is_swapped_for_a_cheaper_one_without_a_gap() -> None:
    cheaper = Cheaper("viewer", parse_filter('department eq "Deck"', ("department",)))
    licenses = {"planner": License(cheaper=(cheaper,))}
    swap = tuple(
        Decision(
            id=item,
            subject_id="p1",
            kind=kind,
            payload=Payload(application="crew", kind=HoldingKind.SEAT, item=item),
            reason="it does",
        )
        for kind, item in ((DecisionKind.DENY, "planner"), (DecisionKind.GRANT, "viewer"))
    )
    plan = planned(licenses, gives=("planner",), holds=("planner",), decisions=swap)
    assert not plan.steps, "no pool has the other"
    (stays,) = [s for s in plan.stays if s.item == "planner"]
    assert "until there is a seat of viewer" in stays.reason
    licenses["viewer"] = License()
    plan = planned(licenses, gives=("planner",), holds=("planner",), decisions=swap)
    assert seats(plan) == [(Action.TAKE_SEAT, "viewer"), (Action.FREE_SEAT, "planner")]


LEFT = NOW - timedelta(days=10)


def left(carries: Carries, at: datetime = NOW, **more: Any) -> Plan:
    """Somebody who left ten days ago, whose mail is forwarded for 21, with a seat that carries something."""
    profile = Profile(
        leaver_settings={"forward": "{successor_mail}"}, leaver_setting_days={"forward": 21}
    )
    there = world()
    crew = replace(there.applications["crew"], profile=profile)
    rules = replace(RULES, licenses={("crew", "box"): License(carries=frozenset({carries}))})
    held = account("crew", seats=frozenset({"box"}), assets=more.pop("assets", ()))
    heir = Successor(person=person(id="h", user_name="heir", mail="heir@example"))
    said = {"successor": heir, **more}
    who = subject(person=person(access_ends=LEFT), accounts=(held,), **said)
    there = replace(there, rules=rules, applications={**there.applications, "crew": crew})
    return plan_subject(who, there, at, Verb.RECHECK)


def kept(plan: Plan) -> list[str]:
    return [s.reason for s in plan.stays if s.item == "box"]


def test_a_leavers_seat_that_carries_mail_stays_until_that_is_over() -> None:
    assert kept(left(Carries.MAIL)) == ["carries mail until 14 Mar 2031"]
    assert seats(left(Carries.MAIL)) == []
    over = left(Carries.MAIL, LEFT + timedelta(days=21))
    assert seats(over) == [(Action.FREE_SEAT, "box")]
    assert seats(left(Carries.DATA)) == [(Action.FREE_SEAT, "box")], "nothing is owned"
    alone = left(Carries.MAIL, successor=None)
    assert seats(alone) == [(Action.FREE_SEAT, "box")], "nobody gets the mail"


def test_a_leavers_seat_that_carries_data_stays_until_somebody_has_it_and_under_hold() -> None:
    owned = (asset("spring"),)
    alone = left(Carries.DATA, assets=owned, successor=None)
    assert kept(alone) == ["carries data; until what is owned has a successor"]
    assert seats(alone) == []
    theirs = account("crew", id="a-heir", person_id="h")
    heir = Successor(person=person(id="h", user_name="heir"), accounts={"crew": theirs})
    plan = left(Carries.DATA, assets=owned, successor=heir)
    (step,) = [s for s in plan.steps if s.action is Action.FREE_SEAT]
    assert step.phase is Phase.ACCESS, "where a seat looks whether what it waits for is there"
    hold = Decision(
        id="h", subject_id="p1", kind=DecisionKind.HOLD, author="legal", reason="a case"
    )
    keep = replace(
        hold, kind=DecisionKind.SUCCESSOR, payload=Payload(application="crew", value="keeps")
    )
    plan = left(Carries.DATA, assets=owned, successor=heir, decisions=(keep,))
    assert kept(plan) == ["carries data for which the account is kept"]
    assert seats(plan) == []
    held = left(Carries.MAIL, LEFT + timedelta(days=40), decisions=(hold,))
    assert kept(held) == ["carries mail; on hold by legal: a case"]
