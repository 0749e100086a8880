"""The rules document: what each person should have, and how it is carried out.

Every field's description stands in the published JSON Schema (``yugum rules schema``).
"""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Literal

from pydantic import Field

from yugum.core.applications import CredentialRule, Deletion, SeatReturn, SeatRule
from yugum.core.attributes import Keep, Outside, OwnType
from yugum.core.passwords import CharacterClass
from yugum.core.roles import DeliverTo, Guard, GuardForce, NoticeAt, Precedence, Reach
from yugum.core.verbs import Verb
from yugum.wire.common import Address, AskedDuty
from yugum.wire.heirs import HandoverDocument
from yugum.wire.licenses import LicenseDocument
from yugum.wire.part import Days, Name, Part

OwnName = Annotated[str, Field(pattern=r"^[a-z][a-z0-9_]{0,59}$")]
Text = Annotated[str, Field(max_length=4000)]
Hours = Annotated[float, Field(gt=0, le=8760)]
ClockTime = Annotated[str, Field(pattern=r"^([01]\d|2[0-3]):[0-5]\d$", examples=["08:00"])]
WhoAgrees = Annotated[
    str,
    Field(
        min_length=1,
        max_length=120,
        description="manager, owner (of the applications touched), or an operator's login",
    ),
]


class OwnAttributeDocument(Part):
    """An attribute of people that is the organisation's own; elsewhere it is called own.NAME."""

    type: OwnType = OwnType.TEXT
    values: list[Name] = Field([], description="Of one_of: what it may be.")


class MadeDocument(Part):
    """How one attribute of accounts is made; what is left out is as the application's."""

    of: Annotated[str, Field(max_length=300)] | None = Field(
        None,
        description="A pattern: {given}, {family:1}, {mobile|phone}, {own.locker}; empty leaves the "
        "attribute alone, none is what is usual.",
    )
    keep: Keep | None = None
    outside: Outside | None = None
    longest: Annotated[int, Field(ge=0, le=100_000, strict=True)] = Field(
        0,
        description="How many characters the application takes, where it does not say so; 0: any.",
    )
    values: list[Name] = Field(
        [], description="What the application takes, where it does not say so."
    )


class LevelsDocument(Part):
    """The levels of an account, of which it has one."""

    offers: Annotated[list[Name], Field(min_length=1)] = Field(
        description="All there are, the lowest first; of several that roles give the highest counts."
    )
    administrators: list[Name] = Field(
        [], description="Those of whoever runs the application; the last one is guarded."
    )
    approval: str = Field("", description="Who must agree before one of these is given.")


class AccountsDocument(Part):
    """What becomes of the attributes of an application's accounts: names, addresses, titles…"""

    keep: Keep = Field(
        Keep.ONCE, description="once: when the account is made; in_step: from then on as well."
    )
    outside: Outside = Field(
        Outside.PUT_BACK,
        description="Of a change made in the application: put_back (three times a day, then it is "
        "asked), take_over (the person's data follow), or ask.",
    )
    attributes: dict[Name, MadeDocument] = {}
    levels: dict[Name, LevelsDocument] = Field(
        {}, description="By the attribute, or setting, that holds the level."
    )
    units: dict[Name, list[Name]] = Field(
        {},
        description="The further sites, stores or sub-organisations an account can serve, by the attribute, "
        "or setting, that holds them separated by commas. Of those that are given all count.",
    )


class NamingDocument(Part):
    """Patterns by kind, tried in order; then a number is added.

    In a pattern ``{given}`` is a field, ``{given:1}`` its first letter, ``{given|family}`` the
    first of two that is there. Fields: given, family, login, number, department, site, mail_domain.
    """

    login: list[Name] = ["{given:1}{family}"]
    mail: list[Name] = []
    alias: list[Name] = []
    display_name: list[Name] = ["{given} {family}"]
    home: list[Name] = []
    domains: list[Name] = Field([], description="Mail domains to choose among; the first is usual.")
    quarantine_days: Days = Field(
        1825, description="How long a former login or address is given to nobody: five years."
    )
    length: Annotated[int, Field(ge=3, le=64, strict=True)] = 20


class Gives(Part):
    """What a role gives in one application; the account itself always comes along."""

    application: Name
    entitlements: list[Name] = []
    seats: list[Name] = []
    settings: dict[Name, Text] = Field(
        {}, description="Values by name; {contract_ends} and other fields of the person go in."
    )


class RoleDocument(Part):
    """A condition on people (a SCIM filter, RFC 7644 3.4.2.2) and what it gives."""

    when: Annotated[str, Field(min_length=1, max_length=4000)]
    gives: list[Gives]
    overlap_days: Days = Field(
        0, description="How long a mover keeps it after it no longer applies."
    )
    approval: str = Field("", description="Who must agree before it is given: an approval's name.")
    changes: Reach = Field(
        Reach.EVERYBODY,
        description="Whether a change of what it gives is for everybody or only for later joiners.",
    )


class ApprovalMode(StrEnum):
    """Whether everybody who is asked must agree, or one of them."""

    ANY = "any"
    ALL = "all"


class ApprovalDocument(Part):
    by: Annotated[list[WhoAgrees], Field(min_length=1)]
    mode: ApprovalMode = ApprovalMode.ANY
    remind_hours: Hours = Field(
        4, description="Working hours until those asked are reminded and deputies are asked too."
    )
    expire_hours: Hours = 168
    deputies: list[WhoAgrees] = Field(
        default_factory=list,
        description="Who is asked as well; administrators where nobody is named.",
    )


class OwnPhase(StrEnum):
    """The phase of a step of your own."""

    SECURE = "secure"
    ACCOUNT = "account"
    ACCESS = "access"
    CREDENTIAL = "credential"
    HAND_OVER = "hand_over"
    RECLAIM = "reclaim"


class OwnStepDocument(Part):
    """A step of your own, run by an application of kind web-hook or script."""

    name: Name
    application: Name
    phase: OwnPhase = OwnPhase.ACCESS
    when: Text = ""
    at: Text = Field(
        "",
        description="When it runs, if not with the docket: 'starts -2d 09:00', "
        "'access_ends +3d 10:00 working'. Dates: starts, last_working_day, access_ends, contract_ends.",
    )
    wait_for: Text = Field(
        "", description="A condition on the person; the step waits until it holds."
    )
    undo: bool = Field(True, description="Whether an undo calls it to be put back.")


class WorkingHoursDocument(Part):
    """When people work, each in their own time zone; steps that say 'working' keep to it."""

    days: list[Name] = ["mon", "tue", "wed", "thu", "fri"]
    begins: ClockTime = "08:00"
    ends: ClockTime = "17:00"
    shifts: dict[Name, ClockTime] = Field(
        {}, description="By site, when a last working day ends there; 17:00 where none is given."
    )


class ProcedureDocument(Part):
    approval: str = ""
    urgent_afterwards: bool = Field(
        False, description="An urgent docket begins at once; its approval is asked for afterwards."
    )
    steps: list[OwnStepDocument] = []
    alias_days: Days = Field(0, description="Rename: how long the old name stays an alias.")
    reports_to: Annotated[str, Field(max_length=60)] = Field(
        "",
        description="Leaver: whom those get as manager who reported to them: the leaver's own manager "
        "when left out, somebody by login, or - for nobody else.",
    )
    remind_days: list[Days] = Field(
        [], description="Fixed term: days before its end at which the manager is reminded."
    )
    longest_days: Days = Field(0, description="Fixed term: the longest extension; 0 is no limit.")


class ProceduresDocument(Part):
    joiner: ProcedureDocument = ProcedureDocument()
    mover: ProcedureDocument = ProcedureDocument()
    leaver: ProcedureDocument = ProcedureDocument()
    returner: ProcedureDocument = ProcedureDocument()
    absence: ProcedureDocument = ProcedureDocument()
    rename: ProcedureDocument = ProcedureDocument()
    extension: ProcedureDocument = ProcedureDocument()


class WindowDocument(Part):
    """How long something deleted can come back, and when a leaver's account is closed."""

    deletion: Deletion | None = None
    window_days: Days | None = None
    close_after_days: Days | None = None


class SeatsDocument(Part):
    absence: SeatRule = SeatRule.KEPT
    orders_to: list[Annotated[Address, Field(min_length=3)]] = Field(
        [], description="Who buys: an order that was agreed to goes there."
    )


class RuledProfile(Part):
    """What differs between applications, over what stands on the application's record."""

    prepare_days: Days | None = Field(
        None, description="Joiners: days before the first day on which the account is made."
    )
    credential_on_resume: CredentialRule | None = None
    must_change: bool | None = Field(
        None, description="An initial credential has to be changed at the first sign-in."
    )
    tries_sign_in: bool | None = Field(
        None,
        description="A new account is tried once with a credential that is thrown away, where the application "
        "lets one; it is shown with who is ready.",
    )
    duties: list[AskedDuty] | None = Field(
        None,
        description="What is asked for at the first sign-in of every new account, where the application can; "
        "a new password by must_change.",
    )
    invitation_remind_days: list[Days] | None = Field(
        None,
        description="Days after which somebody who has not accepted an invitation is reminded, with the manager.",
    )
    invitation_days: Days | None = Field(
        None,
        description="Days after which an invitation that is not accepted is withdrawn; 0 is never.",
    )
    seat_at_suspension: SeatRule | None = None
    seat_at_deletion: SeatRule | None = None
    seat_at_restore: SeatReturn | None = None
    primary_group: Name | None = None
    alias_setting: Name | None = None
    unseen_setting: Name | None = Field(
        None,
        description="The setting with a name under which mail arrives and which nobody sees: after a "
        "sensitive rename.",
    )
    comes_from: Text | None = Field(
        None,
        description="Accounts arrive by the synchronisation of this application: they are made, named "
        "and changed there, and cut off in both.",
    )
    admin_group: Name | None = None
    login_length: Annotated[int, Field(ge=1, le=256, strict=True)] | None = None
    password_length: Annotated[int, Field(ge=8, le=128, strict=True)] | None = None
    password_needs: list[CharacterClass] | None = None
    leaver_settings: dict[Name, Text] | None = Field(
        None,
        description="What a leaver's account is set to. {date}, {name}, {reference} (the docket's), {successor}, "
        "{successor_name} and {successor_mail} are filled in.",
    )
    leaver_setting_days: dict[Name, Days] | None = Field(
        None, description="After how many days a leaver's setting goes back to the standard."
    )
    leaver_ground: Text | None = Field(
        None, description="Why a leaver's mail may be forwarded and answered; written down."
    )
    suspended_refuses_mail: bool | None = Field(
        None,
        description="A leaver's account is locked, not suspended, as long as its mail goes on.",
    )
    standard_settings: dict[Name, Text] | None = None


class CredentialsDocument(Part):
    to: Annotated[list[DeliverTo], Field(min_length=1)] = [DeliverTo.MANAGER]
    valid_hours: Hours = 72


class NoticeDocument(Part):
    """A mail about dockets. In subject and text {name}, {verb}, {when} and {docket} are filled in, in the
    text of one at ``done`` also {again}: what is to be done again on one's devices. ``to`` are addresses,
    ``manager`` and ``person``."""

    verb: Literal[
        Verb.JOINER,
        Verb.MOVER,
        Verb.LEAVER,
        Verb.RETURNER,
        Verb.ABSENCE,
        Verb.RENAME,
        Verb.EXTENSION,
    ]
    at: NoticeAt = NoticeAt.PLANNED
    to: Annotated[list[Name], Field(min_length=1)]
    subject: Annotated[str, Field(min_length=1, max_length=200)]
    text: Text = ""


class ExclusionDocument(Part):
    """Entitlements of which nobody may hold two, each as ``application: name``."""

    entitlements: Annotated[
        list[Annotated[dict[Name, Name], Field(min_length=1)]], Field(min_length=2)
    ]


class LimitsDocument(Part):
    adoption_takes_away: Annotated[int, Field(ge=0, strict=True)] = Field(
        0, description="How many things one adoption may take away; 0 sets no limit."
    )
    adoption_percent: Annotated[float, Field(ge=0, le=100)] = Field(
        1.0, description="From more of the people than this one adoption takes nothing unasked …"
    )
    adoption_people: Annotated[int, Field(ge=1, strict=True)] = Field(
        25, description="… if they are at least so many."
    )
    grace_hours: Annotated[float, Field(ge=0, le=8760)] = Field(
        24.0,
        description="What fell due before it was known is closed no sooner than so long after that.",
    )


class RulesDocument(Part):
    """An organisation's rules, one numbered version of them."""

    naming: NamingDocument = NamingDocument()
    attributes: dict[OwnName, OwnAttributeDocument] = Field(
        {}, description="Attributes of people that are the organisation's own."
    )
    accounts: dict[Name, AccountsDocument] = Field(
        {}, description="By application: what its accounts' attributes are made of."
    )
    roles: dict[Name, RoleDocument] = {}
    settings: dict[Name, Precedence] = Field(
        {}, description="Which value of a setting wins when several roles give one."
    )
    exclusive: dict[Name, ExclusionDocument] = {}
    procedures: ProceduresDocument = ProceduresDocument()
    working_hours: WorkingHoursDocument = WorkingHoursDocument()
    windows: dict[Name, WindowDocument] = {}
    seats: SeatsDocument = SeatsDocument()
    handover: HandoverDocument = HandoverDocument()
    licenses: dict[Name, dict[Name, LicenseDocument]] = Field(
        {},
        description="By application and license: who may have a seat, in which order, what it needs.",
    )
    approvals: dict[Name, ApprovalDocument] = {}
    credentials: CredentialsDocument = CredentialsDocument()
    notices: dict[Name, NoticeDocument] = {}
    profiles: dict[Name, RuledProfile] = {}
    limits: LimitsDocument = LimitsDocument()
    guards: dict[Guard, GuardForce] = Field(
        {}, description="What speaks against a leaver plan, and whether it can be overridden."
    )
