"""Small things tests are made of."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

from yugum.core.accounts import Account, AccountState, Asset, HoldingKind
from yugum.core.actions import NO_ARGUMENTS, Action
from yugum.core.actions.registry import ACTIONS
from yugum.core.applications import Application, Capability, Deletion, Profile
from yugum.core.conditions import Compare, Op
from yugum.core.decisions import Origin, OriginKind
from yugum.core.desired import Subject, World
from yugum.core.dockets import DocketDetail, DocketState, DoneStep, OpenStep, StepDetail, StepState
from yugum.core.lines import Acceptance, LineKind, Side
from yugum.core.people import Person
from yugum.core.plans import NO_NOTES
from yugum.core.roles import Given, Role, Rules
from yugum.core.seats import Pool
from yugum.core.verbs import Verb

APPS = ("crew", "reports")
NOW = datetime(2031, 3, 3, 8, 40, tzinfo=UTC)


def role(name: str, department: str, *given: tuple[str, HoldingKind, str]) -> Role:
    condition = Compare("department", Op.EQ, department.casefold())
    return Role(name, condition, f'department eq "{department}"', tuple(Given(*g) for g in given))


RULES = Rules(
    1,
    (
        role(
            "Deck",
            "Deck",
            ("crew", HoldingKind.ACCOUNT, ""),
            ("crew", HoldingKind.ENTITLEMENT, "deck"),
            ("crew", HoldingKind.SEAT, "planner"),
            ("reports", HoldingKind.ACCOUNT, ""),
            ("reports", HoldingKind.ENTITLEMENT, "deck_reports"),
        ),
        role(
            "Timetables",
            "Timetables",
            ("crew", HoldingKind.ACCOUNT, ""),
            ("crew", HoldingKind.ENTITLEMENT, "timetables"),
            ("crew", HoldingKind.SEAT, "planner"),
        ),
    ),
)


def world(**more: Any) -> World:
    applications = {
        "crew": Application(
            id="crew", name="Crew", kind="scim", profile=Profile(window_days=30, close_after_days=7)
        ),
        "reports": Application(
            id="reports",
            name="Reports",
            kind="postgres",
            profile=Profile(deletion=Deletion.PARK, window_days=28, close_after_days=14),
            capabilities=frozenset(Capability)
            - {Capability.RESTORE, Capability.SEATS, Capability.RUN, Capability.DEVICES}
            - {Capability.INVITE},
        ),
    }
    pool = Pool(id="p", application_id="crew", license="planner", bought=10)
    return World(applications=applications, rules=RULES, pools={("crew", "planner"): pool}, **more)


def person(**more: Any) -> Person:
    return Person(
        **{
            "id": "p1",
            "user_name": "mquill",
            "display_name": "Mara Quill",
            "department": "Deck",
            "time_zone": "UTC",
            **more,
        }
    )


def account(application: str = "crew", **more: Any) -> Account:
    return Account(
        **{
            "id": f"a-{application}",
            "application_id": application,
            "person_id": "p1",
            "login": "mquill",
            "external_id": f"x-{application}",
            "state": AccountState.ACTIVE,
            **more,
        }
    )


def asset(name: str, kind: str = "roster") -> Asset:
    return Asset(kind, name, name)


def acceptance(**more: Any) -> Acceptance:
    """That a missing group may stay missing, from a moment on."""
    return Acceptance(
        **{
            "id": "k",
            "subject_id": "p1",
            "application_id": "crew",
            "kind": LineKind.ENTITLEMENT,
            "item": "deck",
            "side": Side.MISSING,
            "author": "ines",
            "reason": "another watch",
            **more,
        }
    )


def by_role(name: str) -> Origin:
    return Origin(OriginKind.ROLE, name)


def subject(**more: Any) -> Subject:
    return Subject(**{"person": person(), **more})


def done_step(action: Action, item: str = "", **more: Any) -> DoneStep:
    """A step as undo and return see it: carried out in the first application, unless said."""
    known = {"position": 1, "application_id": "crew", "account_id": "a-crew"}
    return DoneStep(**{**known, "action": action, "item": item, **more})


def open_step(action: Action, item: str = "", **more: Any) -> OpenStep:
    """A step that a docket has still to do."""
    known = {"id": "s1", "docket_id": "d1", "number": 321, "verb": Verb.MOVER, "subject_id": "p1"}
    where = {"application_id": "crew", "account_id": "a-crew", "arguments": NO_ARGUMENTS}
    state = {"state": StepState.DUE, "problem": None}
    return OpenStep(**{**known, **where, **state, "action": action, "item": item, **more})


def made_step(**more: Any) -> StepDetail:
    """A step with everything people read of it: a cut-off that is done, if nothing else is said."""
    action = more.get("action", Action.CUT_OFF)
    return StepDetail(
        **{
            "id": "s1",
            "position": 1,
            "application_id": "crew",
            "application_name": "Crew",
            "contact": "",
            "account_id": "a-crew",
            "phase": ACTIONS[action].phase,
            "action": action,
            "item": "",
            "before": "active",
            "after": "suspended",
            "reason": "has left",
            "state": StepState.DONE,
            "attempts": 1,
            "retry_at": None,
            "problem": None,
            "receipt": None,
            **more,
        }
    )


def made_docket(*steps: StepDetail, **more: Any) -> DocketDetail:
    """A docket with steps, as it is shown."""
    return DocketDetail(
        **{
            "id": "d1",
            "number": 1,
            "subject_id": "p1",
            "subject_name": "Mara Quill",
            "subject_login": "mquill",
            "verb": Verb.LEAVER,
            "state": DocketState.DONE,
            "reference": "",
            "reason": "",
            "author": "iholm",
            "due_at": NOW,
            "made_at": NOW,
            "started_at": NOW,
            "ended_at": NOW,
            "machine_started": NOW,
            "machine_ended": NOW,
            "steps_total": len(steps),
            "steps_done": len(steps),
            "steps_stuck": 0,
            "steps_left_out": 0,
            "steps_so_already": 0,
            "brought_back": False,
            "action": None,
            "measure": None,
            "basis": None,
            "notes": NO_NOTES,
            "batch_id": None,
            "undoes": None,
            "digest": "",
            "steps": steps,
            **more,
        }
    )
