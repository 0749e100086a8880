"""The scene of the book: an organisation with every kind of application, and people in every state."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from typing import Any

from yugum.core.accounts import Account, AccountKind, AccountState, Asset, HoldingKind
from yugum.core.actions import Phase
from yugum.core.applications import (
    Application,
    Capability,
    CredentialRule,
    Deletion,
    Profile,
    SeatReturn,
    SeatRule,
    Trust,
)
from yugum.core.conditions import Compare, Op
from yugum.core.decisions import FOUND, Decision, DecisionKind, Origin, OriginKind, Payload
from yugum.core.desired import Subject, Successor, World
from yugum.core.names import NameKind, NameRules
from yugum.core.offsets import Offset, WorkingHours, parse_offset
from yugum.core.people import Person
from yugum.core.roles import (
    Approval,
    Exclusion,
    Given,
    OwnStep,
    Precedence,
    Procedure,
    Role,
    Rules,
)
from yugum.core.seats import Pool
from yugum.core.verbs import Verb

NOW = datetime(2031, 3, 26, 8, 40, tzinfo=UTC)
"""Wednesday; four days later the clocks change in Europe."""
ALL = frozenset(Capability) - {Capability.RUN, Capability.INVITE}
H = HoldingKind


def _role(name: str, attribute: str, value: str, *gives: Given, **more: Any) -> Role:
    when = Compare(attribute, Op.EQ, value)
    return Role(name=name, when=when, when_text=f'{attribute} eq "{value}"', gives=gives, **more)


APPLICATIONS = (
    Application(
        id="crew",
        name="Crew rosters",
        kind="scim",
        capabilities=ALL,
        contact="Jun Aster, +00 555 0142",
        owner="jaster",
        profile=Profile(
            window_days=21,
            close_after_days=7,
            prepare_days=3,
            must_change=True,
            alias_setting="alias",
            admin_group="Admins",
            primary_group="Staff",
            leaver_settings={
                "container": "leavers",
                "forward": "{successor_mail}",
                "reply": "{name} left on {date}; write to {successor_name} ({successor}).",
            },
            leaver_setting_days={"forward": 30, "reply": 90},
            leaver_ground="agreement 12",
            standard_settings={"container": "people", "forward": "", "home": "/home/{name}"},
        ),
        nested={"deck": ("Everybody",)},
    ),
    Application(
        id="reports",
        name="Reports",
        kind="postgres",
        capabilities=ALL
        - {
            Capability.RESTORE,
            Capability.SEATS,
            Capability.SESSIONS,
            Capability.ARCHIVE,
            Capability.DEVICES,
            Capability.RENAME,
            Capability.MUST_CHANGE,
        },
        profile=Profile(window_days=28, close_after_days=14, must_change=True),
    ),
    Application(
        id="tickets",
        name="Tickets",
        kind="scim",
        capabilities=ALL - {Capability.DEVICES},
        profile=Profile(
            deletion=Deletion.FINAL,
            window_days=0,
            close_after_days=30,
            credential_on_resume=CredentialRule.KEPT,
            seat_at_suspension=SeatRule.FREED,
            seat_at_deletion=SeatRule.KEPT,
            seat_at_restore=SeatReturn.RETURNED,
            never_returns=("sessions", "drafts"),
        ),
    ),
    Application(
        id="radio",
        name="Radio licences",
        kind="manual",
        capabilities=frozenset({Capability.DELETE, Capability.PURGE}),
        contact="Ada Vik",
    ),
    Application(id="log", name="Incident log", kind="scim", capabilities=ALL, trust=Trust.WATCH),
    Application(id="lockers", name="Lockers", kind="scim", capabilities=ALL, trust=Trust.ADD),
    Application(
        id="desk", name="Badge desk", kind="web-hook", capabilities=frozenset({Capability.RUN})
    ),
)
OWN = (
    OwnStep("print badge", "desk", Phase.ACCESS),
    OwnStep("deck shoes", "desk", Phase.ACCESS, when=Compare("department", Op.EQ, "deck")),
    OwnStep("induction", "desk", Phase.ACCESS, at=parse_offset("starts +2d 10:00 working")),
    OwnStep("cabin", "desk", Phase.ACCESS, wait_for=Compare("site", Op.EQ, "oxhaven")),
    OwnStep("tour", "crew", Phase.ACCESS),
    OwnStep("parade", "gone", Phase.ACCESS),
)
LEAVING = (
    OwnStep("collect badge", "desk", Phase.CLOSE, undo=False),
    OwnStep("last pay", "desk", Phase.CLOSE, at=Offset("last_working_day", days=-1)),
    OwnStep("survey", "desk", Phase.CLOSE, at=parse_offset("access_ends +3d")),
    OwnStep("pension", "desk", Phase.CLOSE, at=parse_offset("contract_ends +1w 09:30")),
)
RULES = Rules(
    version=7,
    roles=(
        _role(
            "Deck",
            "department",
            "deck",
            Given("crew", H.ACCOUNT),
            Given("crew", H.ENTITLEMENT, "deck"),
            Given("crew", H.ENTITLEMENT, "night"),
            Given("crew", H.SEAT, "planner"),
            Given("crew", H.SETTING, "quota", "2 GB"),
            Given("crew", H.SETTING, "label", "{name} of {department} at {site}"),
            Given("reports", H.ENTITLEMENT, "deck_reports"),
            Given("tickets", H.SEAT, "seller"),
            Given("radio", H.ENTITLEMENT, "VHF"),
            Given("radio", H.SETTING, "band", "high"),
            overlap_days=14,
            approval="bridge",
        ),
        _role(
            "Officers",
            "title",
            "officer",
            Given("crew", H.SETTING, "quota", "500 MB"),
            Given("crew", H.SETTING, "words", "watch deck"),
            Given("crew", H.ENTITLEMENT, "day"),
            Given("log", H.ENTITLEMENT, "write"),
            Given("lockers", H.ENTITLEMENT, "key"),
            Given("unknown", H.ACCOUNT),
            approval="bridge",
        ),
        _role(
            "Timetables",
            "department",
            "timetables",
            Given("crew", H.ENTITLEMENT, "timetables"),
            Given("crew", H.SETTING, "words", "deck plan"),
            Given("crew", H.SEAT, "unsold"),
            overlap_days=0,
        ),
    ),
    names=NameRules(patterns={NameKind.LOGIN: ("{given:1}{family}",)}),
    precedence={"quota": Precedence.LARGEST, "words": Precedence.ALL},
    exclusions=(Exclusion("watch rule", (("crew", "day"), ("crew", "night"))),),
    procedures={
        Verb.JOINER: Procedure(steps=OWN),
        Verb.LEAVER: Procedure(approval="people", urgent_afterwards=True, steps=LEAVING),
        Verb.EXTENSION: Procedure(remind_days=(30, 7, 1), longest_days=90),
        Verb.RENAME: Procedure(alias_days=60),
    },
    approvals={"bridge": Approval("bridge", ("manager",)), "people": Approval("people", ("bo",))},
    working_hours=WorkingHours(),
    since=NOW - timedelta(days=60),
)
POOLS = {
    ("crew", "planner"): Pool(id="p1", application_id="crew", license="planner", bought=3, held=1),
    ("tickets", "seller"): Pool(
        id="p2", application_id="tickets", license="seller", bought=2, held=2, waiting=1
    ),
}


def world(**more: Any) -> World:
    apps = {a.id: a for a in APPLICATIONS}
    return World(**{"applications": apps, "rules": RULES, "pools": POOLS, **more})


def with_app(id: str, known: World | None = None, /, **changes: Any) -> World:
    """The world with one application changed; ``profile`` takes fields of its profile."""
    known = known or world()
    app = known.applications[id]
    if profile := changes.pop("profile", None):
        changes["profile"] = replace(app.profile, **profile)
    return replace(known, applications={**known.applications, id: replace(app, **changes)})


MARA = Person(
    id="p1",
    user_name="mquill",
    given_name="Mara",
    family_name="Quill",
    display_name="Mara Quill",
    employee_number="40123",
    user_type="employee",
    department="Deck",
    title="Officer",
    site="Oxhaven",
    manager_id="p9",
    time_zone="Europe/Helsinki",
    mail="mquill@morrow.example",
)
HEIR = Person(
    id="p2",
    user_name="svarga",
    display_name="Signe Varga",
    department="Deck",
    mail="svarga@morrow.example",
)
PEOPLE: Mapping[str, Person] = {
    "active": MARA,
    "in Timetables": replace(MARA, department="Timetables", title="Planner", site=""),
    "of no role": replace(MARA, department="Galley", title="Cook"),
    "expected in five days": replace(MARA, starts=date(2031, 3, 31)),
    "expected in two days": replace(MARA, starts=date(2031, 3, 28)),
    "absent": replace(MARA, absent_from=NOW, absent_until=NOW + timedelta(days=9)),
    "absent, of no role": replace(MARA, department="Galley", title="Cook", absent_from=NOW),
    "just left": replace(MARA, access_ends=NOW, last_working_day=date(2031, 3, 25)),
    "left a month ago": replace(MARA, access_ends=NOW - timedelta(days=31)),
    "on a term": replace(
        MARA,
        starts=date(2031, 1, 7),
        contract_ends=date(2031, 4, 20),
        access_ends=datetime(2031, 4, 20, 21, tzinfo=UTC),
    ),
}
STATES = (
    AccountState.ACTIVE,
    AccountState.SUSPENDED,
    AccountState.ARCHIVED,
    AccountState.DELETED,
    AccountState.PURGED,
)
HELD: Mapping[str, dict[str, Any]] = {
    "crew": {
        "entitlements": frozenset({"deck", "choir", "Staff", "Admins"}),
        "seats": frozenset({"planner", "radar"}),
        "assets": (
            Asset("roster", "r1", "Easter"),
            Asset("roster", "r2", "Whitsun"),
            Asset("note", "n1", "Berths"),
        ),
        "settings": {"quota": "1 GB", "container": "people", "label": "old", "home": "/x"},
        "sessions": 2,
        "keys": 1,
    },
    "reports": {"entitlements": frozenset({"deck_reports", "ledger"}), "sessions": 1, "keys": 2},
    "tickets": {"seats": frozenset({"seller"}), "assets": (Asset("tour", "t1", "Lights"),)},
    "radio": {"entitlements": frozenset({"VHF"}), "settings": {"band": "low"}},
    "log": {"entitlements": frozenset({"read"})},
    "lockers": {"entitlements": frozenset({"key"})},
    "desk": {"settings": {"print badge": "joiner:2031-03-28"}},
}
ORIGINS: Mapping[tuple[str, HoldingKind, str], Origin] = {
    ("a-crew", H.ACCOUNT, ""): Origin(OriginKind.ROLE, "Deck"),
    ("a-crew", H.ENTITLEMENT, "deck"): Origin(OriginKind.ROLE, "Deck"),
    ("a-crew", H.ENTITLEMENT, "choir"): FOUND,
    ("a-crew", H.ENTITLEMENT, "Admins"): Origin(OriginKind.DECISION, "d9"),
    ("a-crew", H.SEAT, "planner"): Origin(OriginKind.ROLE, "Deck"),
    ("a-crew", H.SETTING, "quota"): Origin(OriginKind.ROLE, "Deck"),
    ("a-crew", H.SETTING, "home"): Origin(OriginKind.DECISION, "d8"),
    ("a-reports", H.ACCOUNT, ""): Origin(OriginKind.ROLE, "Deck"),
    ("a-reports", H.ENTITLEMENT, "deck_reports"): Origin(OriginKind.ROLE, "Deck"),
    ("a-tickets", H.ACCOUNT, ""): Origin(OriginKind.ROLE, "Deck"),
    ("a-radio", H.ACCOUNT, ""): Origin(OriginKind.DECISION, "d7"),
}


def account(application: str, state: AccountState = AccountState.ACTIVE, **more: Any) -> Account:
    known: dict[str, Any] = {
        "id": f"a-{application}",
        "application_id": application,
        "person_id": "p1",
        "login": "mquill",
        "external_id": f"x-{application}",
        "state": state,
        **HELD[application],
    }
    if state is not AccountState.ACTIVE:
        known |= {"sessions": 0, "keys": 0}
    if state is AccountState.DELETED:
        known["recoverable_until"] = NOW + timedelta(days=5)
    return Account(**{**known, **more})


def everywhere(state: AccountState) -> tuple[Account, ...]:
    return tuple(account(a, state) for a in HELD)


def subject(who: Person = MARA, *accounts: Account, **more: Any) -> Subject:
    return Subject(**{"person": who, "accounts": accounts, "ledger": ORIGINS, **more})


HEIRS = Successor(
    person=HEIR,
    accounts={
        a: Account(id=f"h-{a}", application_id=a, person_id="p2", external_id=f"y-{a}")
        for a in ("crew", "tickets")
    },
)


def decision(kind: DecisionKind, id: str = "d1", **more: Any) -> Decision:
    payload = Payload(**more.pop("about", {}))
    return Decision(
        **{
            "id": id,
            "subject_id": "p1",
            "kind": kind,
            "payload": payload,
            "author": "ines",
            "reason": "a claim",
            **more,
        }
    )


SERVICE = AccountKind.SERVICE
