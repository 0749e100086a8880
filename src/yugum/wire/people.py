"""People."""

from __future__ import annotations

from datetime import date
from typing import Annotated, Literal

from pydantic import Field

from yugum.core.accounts import AccountState, HoldingKind
from yugum.core.applications import Duty
from yugum.core.dockets import DocketOutcome, DocketState
from yugum.core.entry import Doubted
from yugum.core.people import PersonState
from yugum.core.seats import SeatState
from yugum.core.verbs import Verb
from yugum.wire.common import (
    Address,
    AssetKind,
    Birthday,
    Changes,
    ConnectorKind,
    Language,
    Line,
    Model,
    Moment,
    Money,
    Named,
    Phone,
    Request,
    Seen,
    When,
    Words,
    Zone,
)
from yugum.wire.decisions import DecisionLine, PayloadView
from yugum.wire.rules import OwnName
from yugum.wire.standing import StandingRow

Right = Annotated[
    list[Doubted],
    Field(max_length=20, description="Fields that are right though they look like a slip."),
]


class NewPerson(Request):
    """A person to create; days as ISO 8601 or as typed (``Monday``)."""

    user_name: Annotated[str, Field(min_length=1, max_length=60, pattern=r"^[a-z0-9][a-z0-9._-]*$")]
    given_name: Line = ""
    family_name: Line = ""
    middle_name: Line = ""
    honorific_prefix: Line = ""
    honorific_suffix: Line = ""
    nick_name: Line = ""
    display_name: Line = ""
    employee_number: Line = ""
    user_type: Line = ""
    department: Line = ""
    division: Line = ""
    organization: Line = ""
    cost_center: Line = ""
    title: Line = ""
    site: Line = ""
    manager: Line = Field("", description="Login, number or name of the manager.")
    time_zone: Zone = ""
    preferred_language: Language = ""
    locale: Language = ""
    mail: Address = ""
    outside_mail: Address = ""
    phone: Phone = ""
    mobile: Phone = ""
    groups: Line = Field("", description="Groups that a source reports, separated by semicolons.")
    own: dict[OwnName, Line] = Field({}, description="Attributes that the rules declare, by name.")
    starts: When = ""
    contract_ends: When = ""
    birthday: Birthday = ""
    another: bool = Field(
        default=False, description="Another person than who has the number, address or names."
    )
    again: bool = Field(default=False, description="To be taken in though declined before.")
    right: Right = []


class DeclinePerson(Request):
    reason: Words


class DeclinedRow(Model):
    """Somebody who was declined before they began."""

    id: str
    user_name: str
    display_name: str
    employee_number: str
    author: str
    reason: str
    at: Moment


class NewPeople(Request):
    people: Annotated[list[NewPerson], Field(min_length=1, max_length=500)]


class PersonChange(Request):
    """Fields to correct; those left out stay."""

    changes: Changes
    reason: Line = ""
    right: Right = []


class WouldGet(Request):
    """Fields of somebody who may not exist yet."""

    department: Line = ""
    title: Line = ""
    site: Line = ""
    user_type: Line = ""
    division: Line = ""
    organization: Line = ""
    cost_center: Line = ""
    groups: Line = ""
    own: dict[OwnName, Line] = {}
    user_name: Line = ""
    given_name: Line = ""
    family_name: Line = ""
    mail: Line = ""


class GivenLine(Model):
    """One thing somebody would get, and because of what."""

    application_id: str
    application_name: str
    kind: Seen[HoldingKind]
    item: str
    because: str
    note: str


class ReadyLine(Model):
    """``credential`` is told, opened, not told, link expired, set before, or nothing."""

    application_id: str
    application_name: str
    state: Literal[""] | Seen[AccountState]
    lacks: list[str]
    credential: str
    signed_in: bool | None
    tried: str = Field(
        "", description="How the trial sign-in went; empty where there was to be none."
    )
    duties: list[Seen[Duty]] = Field([], description="What is left to do at the first sign-in.")
    invited_at: Moment | None = Field(None, description="Since when an invitation is open.")


class JoinerRow(Model):
    """Somebody who begins, and whether everything for the first day is there."""

    id: str
    user_name: str
    display_name: str
    department: str
    title: str
    site: str
    starts: date
    ready: bool
    missing: list[str] = Field(description="What is missing, each with its application.")
    lines: list[ReadyLine]


class SameAsException(Model):
    payload: PayloadView
    reason: str
    ends: Moment | None


class FoundLine(Model):
    application_id: str
    kind: Seen[HoldingKind]
    item: str


class SameAs(Model):
    """What it takes to be as somebody else: ``changes`` for a move, ``exceptions`` to decide anew.

    ``found`` is what the other one has without any rule or decision; it is not proposed.
    """

    who: str
    like: str
    roles: list[str]
    changes: dict[str, str]
    exceptions: list[SameAsException]
    found: list[FoundLine]


class BirthdaySaid(Request):
    """A day of birth, of which a digest is kept; "" forgets it."""

    birthday: Birthday


class SameBirthday(Model):
    """Somebody who was born on the same day and has one of the names: perhaps the same person."""

    name: str
    user_name: str
    employee_number: str
    department: str
    has_left: bool


class MergePeople(Request):
    """``other`` goes: everything of theirs becomes the first person's."""

    other: Words
    reason: Line = ""


class NamedPerson(Model):
    """A person that was made or changed."""

    id: str
    user_name: str


class PersonRow(Model):
    """A person in a list."""

    id: str
    user_name: str
    display_name: str
    given_name: str
    family_name: str
    employee_number: str
    user_type: str
    department: str
    title: str
    site: str
    manager_id: str | None
    manager_name: str | None = None
    time_zone: str
    starts: date | None
    access_ends: Moment | None
    contract_ends: date | None
    state: Seen[PersonState]
    open_accounts: int
    rev: int


class Bar(Model):
    """A piece of a lifeline: a state from ``start`` until ``until`` (open-ended when null)."""

    state: Seen[AccountState]
    start: Moment
    until: Moment | None
    planned: bool


class Holding(Model):
    kind: Seen[HoldingKind]
    item: str
    because: str
    nested: bool


class AccountLine(Model):
    """One account on a person's page."""

    id: str
    application_id: str
    application_name: str
    application_kind: ConnectorKind
    window: str
    login: str
    state: Seen[AccountState]
    locked: bool
    invited_at: Moment | None
    duties: list[Seen[Duty]]
    askable: list[Seen[Duty]]
    takes_credential: bool
    sessions: int
    keys: int
    recoverable_until: Moment | None
    seen_at: Moment | None
    owned: dict[AssetKind, int]
    holdings: list[Holding]
    bars: list[Bar]


class ComingLine(Model):
    """An application in which the person will get an account."""

    application_id: str
    application_name: str
    application_kind: ConnectorKind
    bars: list[Bar]


class Step(Model):
    """Something that happens next, and why."""

    at: Moment
    text: str
    because: str
    docket: str | None = None


class RoleLine(Model):
    name: str
    when: str


class SeatLine(Model):
    license: str
    application_id: str
    state: Seen[SeatState]
    place: int | None
    cost: Money


class FactLine(Model):
    effective_at: Moment
    known_at: Moment
    before: dict[str, str | None]
    after: dict[str, str | None]
    author: str
    reason: str


class PersonDocket(Model):
    id: str
    number: str
    verb: Seen[Verb]
    title: str
    state: Seen[DocketState]
    outcome: Seen[DocketOutcome]
    due_at: Moment
    steps_total: int
    steps_done: int
    steps_stuck: int


class PersonView(Model):
    """One person over all applications, past and future on one time line."""

    id: str
    user_name: str
    display_name: str
    given_name: str
    family_name: str
    employee_number: str
    middle_name: str
    honorific_prefix: str
    honorific_suffix: str
    nick_name: str
    user_type: str
    department: str
    division: str
    organization: str
    cost_center: str
    title: str
    site: str
    time_zone: str
    preferred_language: str
    locale: str
    mail: str
    outside_mail: str
    phone: str
    mobile: str
    groups: list[str]
    own: dict[str, str]
    starts: date | None
    last_working_day: date | None
    access_ends: Moment | None
    contract_ends: date | None
    absent_from: Moment | None
    absent_until: Moment | None
    state: Seen[PersonState]
    rev: int
    now: Moment
    manager: Named | None
    successor: Named | None
    roles: list[RoleLine]
    accounts: list[AccountLine]
    coming: list[ComingLine]
    next: list[Step]
    standing: list[StandingRow]
    seats: list[SeatLine]
    decisions: list[DecisionLine]
    dockets: list[PersonDocket]
    facts: list[FactLine]
