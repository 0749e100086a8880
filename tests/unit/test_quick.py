"""Quick actions, guards and records: what is planned, refused and written down."""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest

from tests.builders import account, asset, by_role, made_docket, made_step, person, subject, world
from yugum.core.accounts import AccountKind, AccountState, HoldingKind
from yugum.core.actions import NOTHING_DONE, Action, Facet
from yugum.core.applications import Capability, SeatReturn, SeatRule
from yugum.core.decisions import Decision, DecisionKind, Payload
from yugum.core.desired import World
from yugum.core.dockets import Outcome, Receipt, StepProblem, StepState
from yugum.core.guards import Namesake, Surroundings, guard_leaver
from yugum.core.planning import plan_subject
from yugum.core.quick import plan_quick
from yugum.core.records import as_csv, lines_of
from yugum.core.roles import Guard, GuardForce
from yugum.core.verbs import Quick, Verb
from yugum.errors import Conflict, Held, WindowOver
from yugum.pages import record_page

NOW = datetime(2031, 3, 3, 8, 40, tzinfo=UTC)


def act(what: Quick, state: AccountState, *, app: str = "crew", **more: Any) -> list[Action]:
    have = account(app, state=state, **more)
    plan = plan_quick(subject(accounts=(have,)), world(), [have], what, NOW)
    return [s.action for s in plan.steps]


@pytest.mark.parametrize("what", list(Quick))
def test_what_is_gone_is_gone(what: Quick) -> None:
    error = WindowOver if what is Quick.RESTORE else Conflict
    with pytest.raises(error):
        act(what, AccountState.PURGED)


def test_the_windows_end_is_too_late_and_a_second_before_is_not() -> None:
    again = [Action.RESTORE, Action.GRANT, Action.TAKE_SEAT]
    before = NOW + timedelta(seconds=1)
    assert act(Quick.RESTORE, AccountState.DELETED, recoverable_until=before) == again
    with pytest.raises(WindowOver, match="2031-03-03 08:40"):
        act(Quick.RESTORE, AccountState.DELETED, recoverable_until=NOW)


@pytest.mark.parametrize("what", [Quick.DELETE, Quick.PURGE])
@pytest.mark.parametrize("whose", ["person", "application"])
def test_a_hold_forbids_it(what: Quick, whose: str) -> None:
    hold = Decision(id="h", subject_id="p1", kind=DecisionKind.HOLD, author="io", reason="why")
    have = account(state=AccountState.SUSPENDED)
    who = subject(accounts=(have,), decisions=(hold,) if whose == "person" else ())
    around = world(holds={"crew": (hold,)} if whose == "application" else {})
    with pytest.raises(Held, match="on hold by io: why"):
        plan_quick(who, around, [have], what, NOW)
    assert plan_quick(who, around, [have], Quick.RESUME, NOW).steps


def test_nothing_is_deleted_while_nobody_takes_what_it_owns() -> None:
    have = account(assets=(asset("Spring roster"),))
    plan = plan_quick(subject(accounts=(have,)), world(), [have], Quick.DELETE, NOW)
    assert [s.action for s in plan.steps] == [Action.CUT_OFF]
    assert any(c.blocks == "transfer" for c in plan.cautions)


def test_rules_do_not_open_what_somebody_closed() -> None:
    closed = Decision(
        id="d",
        subject_id="p1",
        kind=DecisionKind.SUSPEND,
        payload=Payload(application="crew"),
        author="io",
        reason="lost laptop",
    )
    have = account(state=AccountState.SUSPENDED)
    ledger = {(have.id, HoldingKind.ACCOUNT, ""): by_role("Deck")}
    who = subject(accounts=(have,), decisions=(closed,), ledger=ledger)
    crew = [
        s for s in plan_subject(who, world(), NOW, Verb.RECHECK).steps if s.account_id == have.id
    ]
    assert crew == []
    opened = replace(who, accounts=(account(),))
    steps = plan_subject(opened, world(), NOW, Verb.RECHECK).steps
    assert [s.reason for s in steps if s.action is Action.CUT_OFF] == [
        "suspended by io: lost laptop"
    ]


ALIKE = Namesake(name="Mara Quill", employee_number="2", department="Deck", site="Oxhaven")


def guarded(around: Surroundings, how: Mapping[Guard, GuardForce] | None = None) -> dict[str, str]:
    made: World = world()
    crew = made.applications["crew"]
    crew = replace(crew, profile=replace(crew.profile, admin_group="admins"))
    rules = replace(made.rules, guards=how or {})
    made = replace(made, applications={**made.applications, "crew": crew}, rules=rules)
    who = subject(
        accounts=(
            account(entitlements=frozenset({"admins"})),
            account(id="a-svc", login="svc-x", kind=AccountKind.SERVICE),
        )
    )
    return {c.code.removeprefix("guard:"): c.blocks for c in guard_leaver(who, made, around)}


def test_guards_say_what_speaks_against_it_and_how_much() -> None:
    around = Surroundings(reports={"p1": ["A", "B"]}, alike={"p1": [ALIKE]})
    assert guarded(around) == {
        "last-administrator": "override",
        "service-accounts": "",
        "reports": "",
        "look-alike": "",
    }
    assert guarded(Surroundings(others={"crew": 1})) == {"service-accounts": ""}
    how = {Guard.LAST_ADMINISTRATOR: GuardForce.BLOCK, Guard.REPORTS: GuardForce.OVERRIDE}
    assert guarded(around, how)["last-administrator"] == "block"
    assert guarded(around, how)["reports"] == "override"


def test_a_record_says_what_was_and_what_is() -> None:
    receipt = Receipt(
        outcome=Outcome.DONE,
        found=Facet(account="active", sessions=2),
        did=NOTHING_DONE,
        seen=Facet(account="suspended"),
        at=NOW,
        machine_at=NOW,
        took_ms=1.0,
    )
    undone = made_step(
        action=Action.FREE_SEAT,
        item="=cmd",
        state=StepState.ATTENTION,
        problem=StepProblem(code="rejected", text="refused"),
    )
    docket = made_docket(made_step(receipt=receipt), undone, subject_name="<b>Q</b>")
    lines = lines_of(docket, "MS-1", "40001", {"a-crew": "mquill"}, ["Boss"])
    assert (lines[0].before, lines[0].after) == ("active, 2 sessions", "suspended")
    assert lines[0].verified == "read back"
    assert lines[1].outcome == "attention: refused"
    assert lines[1].verified == ""
    rows = list(csv.DictReader(io.StringIO(as_csv(lines))))
    assert rows[0]["at"] == "2031-03-03T08:40:00Z"
    assert rows[1]["item"] == "'=cmd", "no spreadsheet runs it"
    page = record_page("Record", [], lines)
    assert "&lt;b&gt;Q" in page
    assert "<b>Q" not in page


def test_an_application_without_an_archive_says_so() -> None:
    made = world()
    crew = made.applications["crew"]
    crew = replace(crew, capabilities=crew.capabilities - {Capability.ARCHIVE})
    have = account()
    around = replace(made, applications={**made.applications, "crew": crew})
    with pytest.raises(Conflict, match="no archive"):
        plan_quick(subject(accounts=(have,)), around, [have], Quick.ARCHIVE, NOW)


@pytest.mark.parametrize(
    ("more", "held", "taken"),
    [
        ({}, {}, ["deck", "planner"]),
        ({"seat_at_restore": SeatReturn.RETURNED}, {}, ["deck"]),
        ({"seat_at_suspension": SeatRule.FREED}, {}, ["deck"]),
        ({}, {"entitlements": frozenset({"deck"}), "seats": frozenset({"planner"})}, []),
    ],
)
def test_a_restored_account_gets_what_rules_give_and_the_application_kept_not(
    more: dict[str, Any], held: dict[str, Any], taken: list[str]
) -> None:
    known = world()
    app = known.applications["crew"]
    changed = replace(app, profile=replace(app.profile, **more))
    known = replace(known, applications={**known.applications, "crew": changed})
    gone = account(state=AccountState.DELETED, recoverable_until=NOW + timedelta(days=1), **held)
    plan = plan_quick(subject(accounts=(gone,)), known, [gone], Quick.RESTORE, NOW)
    assert [s.item for s in plan.steps[1:]] == taken
    told = {f.what: f.why for f in plan.fidelity}
    assert ("is given again" in told["Crew: deck"]) is ("deck" in taken)
    nothing = replace(subject(accounts=(gone,)), person=person(department="Kitchen"))
    assert len(plan_quick(nothing, known, [gone], Quick.RESTORE, NOW).steps) == 1
