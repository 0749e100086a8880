"""Small things tests are made of."""

from __future__ import annotations

from typing import Any

from yugum.core.accounts import Account, AccountState, Asset
from yugum.core.applications import Application, Capability, Deletion, Profile
from yugum.core.conditions import Compare, Op
from yugum.core.decisions import Origin, OriginKind
from yugum.core.desired import Subject, World
from yugum.core.people import Person
from yugum.core.roles import Given, Role, Rules
from yugum.core.seats import Pool

APPS = ("crew", "reports")


def role(name: str, department: str, *given: tuple[str, str, str]) -> Role:
    condition = Compare("department", Op.EQ, department.casefold())
    return Role(name, condition, f'department eq "{department}"', tuple(Given(*g) for g in given))


RULES = Rules(
    1,
    (
        role(
            "Deck",
            "Deck",
            ("crew", "account", ""),
            ("crew", "entitlement", "deck"),
            ("crew", "seat", "planner"),
            ("reports", "account", ""),
            ("reports", "entitlement", "deck_reports"),
        ),
        role(
            "Timetables",
            "Timetables",
            ("crew", "account", ""),
            ("crew", "entitlement", "timetables"),
            ("crew", "seat", "planner"),
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
            - {Capability.RESTORE, Capability.SEATS, Capability.RUN},
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


def by_role(name: str) -> Origin:
    return Origin(OriginKind.ROLE, name)


def subject(**more: Any) -> Subject:
    return Subject(**{"person": person(), **more})
