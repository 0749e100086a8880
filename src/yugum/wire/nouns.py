"""The smaller nouns: applications, accounts, seats, rules, decisions, findings, audit, operators."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field, model_validator

from yugum.core.applications import CredentialRule, Deletion, SeatReturn, SeatRule, Trust
from yugum.wire.common import Document, Line, Model, Moment, Request

Slug = Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]{0,59}$")]


class ProfileDocument(Request):
    """What differs between applications; days are whole days. Fields left out stay as they are,
    and are the defaults shown for an application that is new."""

    deletion: Deletion = Deletion.RECOVERABLE
    window_days: Annotated[int, Field(ge=0, le=3650)] = 30
    close_after_days: Annotated[int, Field(ge=0, le=3650)] = 30
    seat_at_suspension: SeatRule = SeatRule.KEPT
    seat_at_deletion: SeatRule = SeatRule.FREED
    seat_at_restore: SeatReturn = SeatReturn.ASSIGN
    credential_on_resume: CredentialRule = CredentialRule.NEW
    never_returns: list[Line] = ["sessions", "keys"]
    must_change: bool = False
    password_length: Annotated[int, Field(ge=12, le=128)] = 20
    password_needs: list[Literal["upper", "lower", "digit", "sign"]] = ["upper", "lower", "digit"]
    login_length: Annotated[int, Field(ge=1, le=256)] = 64
    prepare_days: Annotated[int, Field(ge=0, le=365)] = 0
    alias_setting: Line = ""
    admin_group: Line = ""
    calls_per_second: Annotated[float, Field(ge=0, le=100_000)] = 0.0
    read_every_hours: Annotated[float, Field(ge=0, le=8760)] = 0.0
    ceiling_per_hour: Annotated[int, Field(ge=0, le=1_000_000)] = 0
    primary_group: Line = ""
    leaver_settings: dict[Line, Line] = {}
    leaver_setting_days: dict[Line, Annotated[int, Field(ge=0, le=3650)]] = {}
    leaver_ground: Line = ""
    standard_settings: dict[Line, Line] = {}


class ConnectApplication(Request):
    """How an application is reached.

    ``kind`` is the name of an installed connector. SCIM takes ``url`` and the bearer token as
    ``secret``; PostgreSQL the whole connection URL as ``secret``; LDAP ``url``, the password as
    ``secret`` and its layout as ``options``. A secret left out stays as it is, and so do the trust
    and what ``profile`` leaves out; a new application is watched only.
    """

    id: Slug
    name: Annotated[Line, Field(min_length=1)]
    kind: Slug
    url: Line = ""
    options: dict[Line, Line] = {}
    secret: Annotated[str, Field(max_length=4000)] | None = None
    contact: Line = ""
    owner: Line = ""
    trust: Trust | None = None
    credential_ends: Line = ""
    profile: ProfileDocument = ProfileDocument()

    @model_validator(mode="after")
    def _reachable(self) -> ConnectApplication:
        if self.kind == "scim" and not self.url.startswith(("http://", "https://")):
            raise ValueError("url: a SCIM application has an http(s) address")
        if self.kind == "ldap" and not self.url.startswith(("ldap://", "ldaps://")):
            raise ValueError("url: a directory has an ldap(s) address")
        return self


class ApplicationRow(Model):
    """``covered``: whether Yugum cuts off the sign-on ``through`` which alone it is reached;
    ``ruled``: the fields of the profile for which the rules say something else."""

    through: str
    covered: bool | None
    id: str
    name: str
    kind: str
    address: str
    contact: str
    owner: str = ""
    capabilities: list[str]
    profile: Document
    ruled: Document
    accounts: int
    active: int
    seen_at: Moment | None
    reading_at: Moment | None
    problem: str
    trust: str
    paused_until: Moment | None
    credential_ends: Moment | None


class ReadingResult(Model):
    """What a reading found; ``outside`` counts changes that Yugum did not make."""

    accounts: int
    new: int
    changed: int
    linked: int
    nobody: int
    unreadable: int
    gone: int
    outside: int


class ReadingRow(Model):
    id: str
    mode: str
    state: str
    author: str
    began_at: Moment
    ended_at: Moment | None
    counts: Document
    problem: str


class ReadingProblem(Model):
    """A record of an application that could not be understood."""

    external_id: str
    login: str
    reason: str
    at: Moment


class Proposal(Model):
    """A link between an account and a person that somebody should look at."""

    account_id: str
    person_id: str
    rule: str
    confidence: int
    login: str
    account_name: str
    application_name: str
    person_name: str
    employee_number: str
    department: str


class LinkAccount(Request):
    """``who`` empty: nobody is behind the account. ``kind`` says whose kind of account it is."""

    who: Line = ""
    kind: Literal["", "person", "shared", "service"] = ""


class Deviation(Model):
    """A change made outside Yugum."""

    id: str
    application_id: str
    application_name: str
    account_id: str
    login: str
    person_id: str | None
    person_name: str | None
    kind: str
    item: str
    was: str
    now_is: str
    seen_at: Moment
    state: str
    decided_by: str


class Decided(Model):
    id: str
    state: str
    docket: str | None


class TaskRow(Model):
    """What the owner of a manual application is asked to do."""

    id: str
    application_id: str
    application_name: str
    contact: str
    subject_id: str
    subject_name: str
    docket_id: str
    number: str
    action: str
    item: str
    instructions: str
    state: str
    made_at: Moment
    due_at: Moment
    reminded_at: Moment | None
    escalated_at: Moment | None
    ended_at: Moment | None
    ended_by: str
    evidence: str


class TaskDone(Request):
    evidence: Line = ""


class TaskRefused(Request):
    reason: Annotated[Line, Field(min_length=1)]


class TaskState(Model):
    id: str
    state: str


class Uploaded(Model):
    accounts: int


class StopView(Model):
    """Whether everything but cut-offs is stopped."""

    stopped: bool
    author: str = ""
    reason: str = ""
    since_at: Moment | None = None


class HoldRequest(Request):
    reason: Annotated[Line, Field(min_length=1)]
    ends: Line = ""


class StopRequest(Request):
    reason: Annotated[Line, Field(min_length=1)]


class TrustChange(Request):
    trust: Trust


class AccountRow(Model):
    id: str
    application_id: str
    application_name: str
    person_id: str | None
    person_name: str | None
    kind: str
    login: str
    external_id: str
    state: str
    entitlements: list[str]
    seats: list[str]
    sessions: int
    keys: int
    settings: dict[str, str]
    recoverable_until: Moment | None
    seen_at: Moment | None


class PoolRow(Model):
    """A license's seats; ``price_cents`` is per seat and month."""

    id: str
    application_id: str
    application_name: str
    license: str
    bought: int
    held: int
    waiting: int
    free: int
    price_cents: int
    currency: str


class PutPool(Request):
    application_id: Slug
    license: Annotated[Line, Field(min_length=1)]
    bought: Annotated[int, Field(ge=0, le=10_000_000, strict=True)]
    price_cents: Annotated[int, Field(ge=0, le=100_000_000, strict=True)] = 0


class SeatHolder(Model):
    id: str
    account_id: str
    login: str | None
    person_id: str | None
    person_name: str | None
    account_state: str | None
    state: str
    place: int | None
    since_at: Moment


class RoleView(Model):
    name: str
    when: str
    gives: list[Document]


class NewDecision(Request):
    """``payload``: grant and deny ``{application, kind, item}``; successor ``{person}``; role ``{role}``."""

    who: Line
    kind: Literal["grant", "deny", "successor", "hold", "role", "suspend"]
    payload: dict[str, str] = {}
    reason: Line
    ends: Line = ""


class DecisionView(Model):
    id: str
    subject_id: str
    kind: str
    payload: Document
    author: str
    reason: str
    ends_at: datetime | None = None


class FindingCount(Model):
    """``cents`` is what the seats of these accounts cost a month."""

    kind: str
    count: int
    cents: int


class Finding(Model):
    """``key`` is the id of the change for kind ``outside``."""

    kind: str
    key: str
    cents: int
    account_id: str | None
    person_id: str | None
    display_name: str | None
    login: str
    application_name: str
    since: Moment | None
    text: str


class AuditEvent(Model):
    id: str
    at: Moment
    machine_at: Moment
    actor: str
    action: str
    subject: str
    docket_id: str | None
    payload: Document | None
    leaf_index: int | None


class OperatorRow(Model):
    id: str
    login: str
    name: str
    role: str
    active: bool = True
    person_id: str | None = None


class NewOperator(Request):
    login: Annotated[Line, Field(min_length=1, max_length=60)]
    name: Annotated[Line, Field(min_length=1)]
    role: Literal["viewer", "operator", "administrator"]
    person: Line = ""


class OperatorChange(Request):
    role: Literal["viewer", "operator", "administrator"] | None = None
    active: bool | None = None


class OperatorLink(Model):
    """A one-time sign-in link; shown this once."""

    link: str
    operator: OperatorRow | None = None


class NewToken(Request):
    name: Annotated[Line, Field(min_length=1)]
    scope: Literal["viewer", "operator", "administrator"] = "operator"
    days: Annotated[int, Field(ge=1, le=3650)] | None = 90


class TokenRow(Model):
    id: str
    name: str
    scopes: list[str]
    expires: Moment | None


class NewTokenReply(TokenRow):
    token: str


class SignInRequest(Request):
    login: Line
    password: Annotated[str, Field(max_length=1000)]


class LinkRequest(Request):
    token: Annotated[str, Field(max_length=200)]


class PasswordRequest(Request):
    password: Annotated[str, Field(max_length=1000)]


class SessionView(Model):
    """Who is signed in; ``csrf`` goes back as X-Yugum-CSRF with every change."""

    operator: OperatorRow
    csrf: str
    organisation: str
    zone: str
    demo: bool


class CredentialLink(Model):
    link: str
    hours: float


class OpenedCredential(Model):
    application: str
    login: str
    secret: str


class ClockView(Model):
    now: Moment
    simulated: bool
    zone: str


class Advance(Request):
    to: Line


class Advanced(Model):
    """``reached`` False: stopped at a due moment on the way; call again to go on."""

    now: Moment
    target: Moment
    reached: bool
    drained: bool
    due: int


class Status(Model):
    version: str
    organisation: str
    demo: bool
    database_ms: float
    counts: Document
    applications: list[ApplicationRow]


class DayDocket(Model):
    id: str
    number: str
    verb: str
    state: str
    due_at: Moment
    person_id: str
    display_name: str
    title: str
    department: str
    site: str
    note: str
    change: str
    steps_total: int
    steps_done: int


class OpenLate(Model):
    person_id: str
    display_name: str
    application_name: str
    contact: str
    access_ends: Moment
    problem: str


class Stuck(Model):
    docket_id: str
    number: str
    person_id: str
    display_name: str
    application_name: str
    contact: str
    action: str
    item: str
    state: str
    problem: str


class LastCall(Model):
    account_id: str
    person_id: str | None
    display_name: str | None
    application_name: str
    login: str
    recoverable_until: Moment
    held: bool = False


class HandoverRow(Model):
    """A thing and its new home; ``from_name`` is None where it came back from a successor."""

    kind: str
    name: str
    application_name: str
    number: str
    at: Moment
    from_name: str | None
    from_login: str | None
    to_person_id: str | None
    to_name: str | None
    to_login: str | None


class CalendarEntry(Model):
    """Something that has a date: a docket (then with its number) or a dated obligation.

    ``kind`` is the docket's verb, or close, purge, recheck, remind.
    """

    id: str
    at: Moment
    kind: str
    number: str | None
    person_id: str
    display_name: str
    application_name: str | None
    text: str


class DaySheet(Model):
    """What is due and when, who is past their time, what is stuck, what is about to be lost."""

    now: Moment
    zone: str
    dockets: list[DayDocket]
    later: list[DayDocket]
    open_late: list[OpenLate]
    stuck: list[Stuck]
    last_call: list[LastCall]
