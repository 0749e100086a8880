"""People."""

from __future__ import annotations

from datetime import date
from typing import Annotated

from pydantic import Field

from yugum.wire.common import Document, Line, Model, Moment, Named, Request, Zone


class NewPerson(Request):
    """A person to create; days as ISO 8601 or as typed (``Monday``)."""

    user_name: Annotated[
        Line, Field(min_length=1, max_length=60, pattern=r"^[a-z0-9][a-z0-9._-]*$")
    ]
    given_name: Line = ""
    family_name: Line = ""
    display_name: Line = ""
    employee_number: Line = ""
    user_type: Line = ""
    department: Line = ""
    title: Line = ""
    site: Line = ""
    manager: Line = Field("", description="Login, number or name of the manager.")
    time_zone: Zone = ""
    mail: Line = ""
    outside_mail: Line = ""
    starts: Line = ""
    contract_ends: Line = ""


class NewPeople(Request):
    people: Annotated[list[NewPerson], Field(min_length=1, max_length=500)]


class PersonChange(Request):
    """Fields to correct; those left out stay."""

    changes: dict[str, Line | None]
    reason: Line = ""


class WouldGet(Request):
    """Fields of somebody who may not exist yet."""

    department: Line = ""
    title: Line = ""
    site: Line = ""
    user_type: Line = ""
    user_name: Line = ""
    given_name: Line = ""
    family_name: Line = ""
    mail: Line = ""


class GivenLine(Model):
    """One thing somebody would get, and because of what."""

    application_id: str
    application_name: str
    kind: str
    item: str
    because: str
    note: str


class ReadyLine(Model):
    """``credential`` is told, opened, not told, link expired, set before, or nothing."""

    application_id: str
    application_name: str
    state: str
    lacks: list[str]
    credential: str
    signed_in: bool | None


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
    lines: list[ReadyLine]


class SameAsException(Model):
    payload: dict[str, str]
    reason: str
    ends: Moment | None


class FoundLine(Model):
    application_id: str
    kind: str
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


class MergePeople(Request):
    """``other`` goes: everything of theirs becomes the first person's."""

    other: Annotated[Line, Field(min_length=1)]
    reason: Line = ""


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
    state: str
    open_accounts: int
    rev: int


class Bar(Model):
    """A piece of a lifeline: a state from ``start`` until ``until`` (open-ended when null)."""

    state: str
    start: Moment
    until: Moment | None
    planned: bool


class Holding(Model):
    kind: str
    item: str
    because: str


class AccountLine(Model):
    """One account on a person's page."""

    id: str
    application_id: str
    application_name: str
    application_kind: str
    window: str
    login: str
    state: str
    sessions: int
    keys: int
    recoverable_until: Moment | None
    seen_at: Moment | None
    owned: dict[str, int]
    holdings: list[Holding]
    bars: list[Bar]


class ComingLine(Model):
    """An application in which the person will get an account."""

    application_id: str
    application_name: str
    application_kind: str
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
    state: str
    place: int | None
    price_cents: int
    currency: str


class FactLine(Model):
    effective_at: Moment
    known_at: Moment
    before: Document
    after: Document
    author: str
    reason: str


class DecisionLine(Model):
    id: str
    kind: str
    payload: Document
    author: str
    reason: str
    made_at: Moment
    ends_at: Moment | None


class PersonDocket(Model):
    id: str
    number: str
    verb: str
    state: str
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
    user_type: str
    department: str
    title: str
    site: str
    time_zone: str
    mail: str
    outside_mail: str
    starts: date | None
    last_working_day: date | None
    access_ends: Moment | None
    contract_ends: date | None
    absent_from: Moment | None
    absent_until: Moment | None
    state: str
    rev: int
    now: Moment
    manager: Named | None
    successor: Named | None
    roles: list[RoleLine]
    accounts: list[AccountLine]
    coming: list[ComingLine]
    next: list[Step]
    seats: list[SeatLine]
    decisions: list[DecisionLine]
    dockets: list[PersonDocket]
    facts: list[FactLine]
