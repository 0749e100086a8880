"""Applications: how they are reached, what differs between them, readings."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from yugum.core.accounts import AccountState, HoldingKind
from yugum.core.applications import (
    Capability,
    CredentialRule,
    Deletion,
    Duty,
    SeatReturn,
    SeatRule,
    Trust,
)
from yugum.core.attributes import Keep, Outside
from yugum.core.passwords import CharacterClass
from yugum.core.readings import ReadingMode, ReadingState
from yugum.wire.common import (
    AskedDuty,
    ConnectorKind,
    Days,
    Digest,
    Line,
    Model,
    Moment,
    Request,
    Said,
    Seen,
    Slug,
    When,
    Words,
)


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
    password_needs: list[CharacterClass] = [
        CharacterClass.UPPER,
        CharacterClass.LOWER,
        CharacterClass.DIGIT,
    ]
    login_length: Annotated[int, Field(ge=1, le=256)] = 64
    prepare_days: Annotated[int, Field(ge=0, le=365)] = 0
    alias_setting: Line = ""
    unseen_setting: Line = ""
    comes_from: Line = ""
    admin_group: Line = ""
    calls_per_second: Annotated[float, Field(ge=0, le=100_000)] = 0.0
    read_every_hours: Annotated[float, Field(ge=0, le=8760)] = 0.0
    ceiling_per_hour: Annotated[int, Field(ge=0, le=1_000_000)] = 0
    fall_percent: Annotated[float, Field(ge=0, le=100)] = 2.0
    fall_least: Annotated[int, Field(ge=1, le=1_000_000)] = 10
    tries_sign_in: bool = False
    duties: list[AskedDuty] = []
    invitation_remind_days: list[Days] = [3, 7]
    invitation_days: Days = 14
    primary_group: Line = ""
    leaver_settings: dict[Line, Line] = {}
    leaver_setting_days: dict[Line, Days] = {}
    leaver_ground: Line = ""
    suspended_refuses_mail: bool = False
    standard_settings: dict[Line, Line] = {}


class ConnectApplication(Request):
    """How an application is reached.

    ``kind`` is the name of an installed connector. SCIM takes ``url`` and the bearer token as
    ``secret``; PostgreSQL the whole connection URL as ``secret``; LDAP ``url``, the password as
    ``secret`` and its layout as ``options``. A secret left out stays as it is, and so do the trust
    and what ``profile`` leaves out; a new application is watched only.
    """

    id: Slug
    name: Words
    kind: Annotated[Slug, Field(description="The name of an installed connector.")]
    url: Line = ""
    options: dict[Line, Line] = {}
    secret: Annotated[str, Field(max_length=4000)] | None = None
    contact: Line = ""
    owner: Line = ""
    trust: Trust | None = None
    credential_ends: When = ""
    profile: ProfileDocument = ProfileDocument()

    @model_validator(mode="after")
    def _reachable(self) -> ConnectApplication:
        if self.kind == "scim" and not self.url.startswith(("http://", "https://")):
            raise ValueError("url: a SCIM application has an http(s) address")
        if self.kind == "ldap" and not self.url.startswith(("ldap://", "ldaps://")):
            raise ValueError("url: a directory has an ldap(s) address")
        return self


class ProfileView(Model):
    """A profile as it is kept."""

    deletion: Seen[Deletion]
    window_days: int
    close_after_days: int
    seat_at_suspension: Seen[SeatRule]
    seat_at_deletion: Seen[SeatRule]
    seat_at_restore: Seen[SeatReturn]
    credential_on_resume: Seen[CredentialRule]
    never_returns: list[str]
    must_change: bool
    password_length: int
    password_needs: list[Seen[CharacterClass]]
    login_length: int
    prepare_days: int
    alias_setting: str
    unseen_setting: str
    comes_from: str
    tries_sign_in: bool
    duties: list[Seen[Duty]]
    invitation_remind_days: list[int]
    invitation_days: int
    admin_group: str
    primary_group: str
    calls_per_second: float
    read_every_hours: float
    ceiling_per_hour: int
    fall_percent: float
    fall_least: int
    leaver_settings: dict[str, str]
    leaver_setting_days: dict[str, int]
    leaver_ground: str
    suspended_refuses_mail: bool
    standard_settings: dict[str, str]


class RuledView(Model):
    """The fields of a profile for which the rules say something else; others are left out."""

    deletion: Said[Seen[Deletion]] = None
    window_days: Said[int] = None
    close_after_days: Said[int] = None
    seat_at_suspension: Said[Seen[SeatRule]] = None
    seat_at_deletion: Said[Seen[SeatRule]] = None
    seat_at_restore: Said[Seen[SeatReturn]] = None
    credential_on_resume: Said[Seen[CredentialRule]] = None
    must_change: Said[bool] = None
    password_length: Said[int] = None
    password_needs: Said[list[Seen[CharacterClass]]] = None
    login_length: Said[int] = None
    prepare_days: Said[int] = None
    alias_setting: Said[str] = None
    unseen_setting: Said[str] = None
    comes_from: Said[str] = None
    admin_group: Said[str] = None
    tries_sign_in: Said[bool] = None
    duties: Said[list[Seen[Duty]]] = None
    invitation_remind_days: Said[list[int]] = None
    invitation_days: Said[int] = None
    primary_group: Said[str] = None
    leaver_settings: Said[dict[str, str]] = None
    leaver_setting_days: Said[dict[str, int]] = None
    leaver_ground: Said[str] = None
    suspended_refuses_mail: Said[bool] = None
    standard_settings: Said[dict[str, str]] = None


class AttributeRow(Model):
    """One attribute of an application's accounts: what it is made of ("" is left alone), whether it is kept in
    step, who is right when it is changed there, and what the application takes."""

    name: str
    of: str
    keep: Seen[Keep]
    outside: Seen[Outside]
    longest: int
    values: list[str]


class ApplicationRow(Model):
    """``covered``: whether Yugum cuts off the sign-on ``through`` which alone it is reached;
    ``ruled``: the fields of the profile for which the rules say something else; ``group_fields``: what can
    be said of its groups, where these can be made and changed."""

    through: str
    covered: bool | None
    id: str
    name: str
    kind: ConnectorKind
    address: str
    contact: str
    owner: str = ""
    capabilities: list[Seen[Capability]]
    attributes: list[AttributeRow]
    group_fields: list[str]
    profile: ProfileView
    ruled: RuledView
    accounts: int
    active: int
    seen_at: Moment | None
    reading_at: Moment | None
    problem: str
    trust: Seen[Trust]
    paused_until: Moment | None
    taken_this_hour: int = Field(
        description="Steps that took something away since the hour began, cut-offs apart; 0 where there is no ceiling."
    )
    left_this_hour: int | None = Field(
        description="How many more may before the hour ends; null where there is no ceiling."
    )
    credential_ends: Moment | None


NamedKind = Literal[HoldingKind.ENTITLEMENT, HoldingKind.SEAT, HoldingKind.SETTING]
"""What an exception names in an application."""


class TrustChange(Request):
    trust: Trust


class DisconnectedRow(Model):
    """An application that is not connected any more, with how many accounts are kept of it."""

    id: str
    name: str
    kind: ConnectorKind
    disconnected_at: Moment
    archived: int


class DisconnectionView(Model):
    """What disconnecting an application would do: ``follows`` says it, the gravest first."""

    application_id: str
    name: str
    connected: bool
    erase: bool
    digest: str
    follows: list[str]


class Disconnect(Request):
    """Agreeing to a disconnection as it was shown; ``typed`` is the application's id where what is
    kept is erased."""

    digest: Digest
    reason: Words
    erase: bool = False
    typed: Line = ""


class ArchivedRow(Model):
    """An account as it was when its application was disconnected."""

    id: str
    login: str
    display_name: str
    person_id: str | None
    person: str | None
    state: Seen[AccountState]
    entitlements: list[str]
    seats: list[str]
    last_used: Moment | None
    seen_at: Moment | None


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
    mode: Seen[ReadingMode]
    state: Seen[ReadingState]
    author: str
    began_at: Moment
    ended_at: Moment | None
    counts: dict[str, int]
    problem: str


class ReadingProblem(Model):
    """A record of an application that could not be understood."""

    external_id: str
    login: str
    reason: str
    at: Moment


class Uploaded(Model):
    accounts: int


class HoldRequest(Request):
    reason: Words
    ends: When = ""
