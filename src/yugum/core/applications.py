"""Applications and their profiles: what differs between applications is data, never an ``if``."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, fields, replace
from enum import StrEnum

from yugum.core.attributes import Shape
from yugum.core.passwords import CharacterClass


class Capability(StrEnum):
    """What an application can do at all, as found by discovery."""

    SUSPEND = "suspend"
    ENTITLEMENTS = "entitlements"
    SEATS = "seats"
    ASSETS = "assets"
    SETTINGS = "settings"
    SESSIONS = "sessions"
    KEYS = "keys"
    DEVICES = "devices"
    CREDENTIAL = "credential"
    DELETE = "delete"
    RESTORE = "restore"
    PURGE = "purge"
    ARCHIVE = "archive"
    RENAME = "rename"
    RUN = "run"
    MUST_CHANGE = "must_change"
    TRIAL = "trial"
    GROUPS = "groups"
    MENTIONS = "mentions"
    INVITE = "invite"
    CALL_OFF = "call_off"
    COPY = "copy"
    DUTY_PASSWORD = "duty_password"
    DUTY_MAIL = "duty_mail"
    DUTY_SECOND_FACTOR = "duty_second_factor"
    DUTY_PROFILE = "duty_profile"
    DUTY_TERMS = "duty_terms"


class Duty(StrEnum):
    """What somebody has to do at the first sign-in, in the order in which it is asked for."""

    PASSWORD = "password"
    MAIL = "mail"
    SECOND_FACTOR = "second_factor"
    PROFILE = "profile"
    TERMS = "terms"


RARE = frozenset(
    {
        Capability.RUN,
        Capability.DEVICES,
        Capability.TRIAL,
        Capability.GROUPS,
        Capability.MENTIONS,
        Capability.INVITE,
        Capability.CALL_OFF,
        Capability.COPY,
        *(c for c in Capability if c.name.startswith("DUTY_")),
    }
)
USUAL = frozenset(Capability) - RARE
"""What an application can do of which nothing is known yet."""


class Deletion(StrEnum):
    """How a deletion goes: by the application's own window, parked by us, or at once for good."""

    RECOVERABLE = "recoverable"
    PARK = "park"
    FINAL = "final"


class SeatRule(StrEnum):
    KEPT = "kept"
    FREED = "freed"


class SeatReturn(StrEnum):
    """At restore a seat is returned (even when none is free), or has to be assigned again."""

    RETURNED = "returned"
    ASSIGN = "assign"


class CredentialRule(StrEnum):
    """What a resumed account signs in with."""

    NEW = "new"
    KEPT = "kept"


class Trust(StrEnum):
    """What Yugum may do in an application: nothing, create and grant, or everything."""

    WATCH = "watch"
    ADD = "add"
    FULL = "full"


@dataclass(frozen=True, slots=True, kw_only=True)
class Profile:
    """An application's semantics. ``window_days`` counts from the deletion.

    ``standard_settings`` are what an account in use has, ``leaver_settings`` what a leaver's gets;
    in a value, ``{date}`` stands for the day, ``{name}`` for the person, ``{reference}`` for the docket's,
    ``{successor}``, ``{successor_name}`` and ``{successor_mail}`` for whoever takes over. Those named in
    ``leaver_setting_days`` go back to the standard so many days after the access ended;
    ``leaver_ground`` is written down as the reason why mail may be forwarded and answered. Where
    ``suspended_refuses_mail`` a leaver's account is locked as long as its mail goes on, then suspended. ``calls_per_second``
    goes for all workers together, ``ceiling_per_hour`` for steps that take something away, cut-offs
    apart; 0 sets no limit. A joiner's account is made ``prepare_days`` before the first day, closed
    until then. ``alias_setting`` names the setting that holds further logins, ``unseen_setting``
    one under which mail arrives without anybody seeing it. Where accounts arrive by the synchronisation
    of another application, ``comes_from`` names that: there they are made and changed, and cut off in both. With ``must_change`` an
    initial credential has to be changed at the first sign-in; with ``tries_sign_in`` a new account is tried once
    before its owner gets it. ``duties`` are asked for at the first sign-in of every new account. Whoever does not accept an invitation
    is reminded ``invitation_remind_days`` after it was sent, and ``invitation_days`` after it is withdrawn (0: never). A reading that misses ``fall_percent`` of the
    accounts in use, and at least ``fall_least``, is not believed until somebody says so.
    """

    deletion: Deletion = Deletion.RECOVERABLE
    window_days: int = 30
    close_after_days: int = 30
    seat_at_suspension: SeatRule = SeatRule.KEPT
    seat_at_deletion: SeatRule = SeatRule.FREED
    seat_at_restore: SeatReturn = SeatReturn.ASSIGN
    credential_on_resume: CredentialRule = CredentialRule.NEW
    never_returns: tuple[str, ...] = ("sessions", "keys")
    must_change: bool = False
    tries_sign_in: bool = False
    duties: tuple[Duty, ...] = ()
    invitation_remind_days: tuple[int, ...] = (3, 7)
    invitation_days: int = 14
    password_length: int = 20
    password_needs: tuple[CharacterClass, ...] = (
        CharacterClass.UPPER,
        CharacterClass.LOWER,
        CharacterClass.DIGIT,
    )
    login_length: int = 64
    prepare_days: int = 0
    alias_setting: str = ""
    unseen_setting: str = ""
    comes_from: str = ""
    admin_group: str = ""
    primary_group: str = ""
    calls_per_second: float = 0.0
    read_every_hours: float = 0.0
    ceiling_per_hour: int = 0
    fall_percent: float = 2.0
    fall_least: int = 10
    leaver_settings: Mapping[str, str] = field(default_factory=dict)
    leaver_setting_days: Mapping[str, int] = field(default_factory=dict)
    leaver_ground: str = ""
    suspended_refuses_mail: bool = False
    standard_settings: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class ProfileChange:
    """Some fields of a profile as somebody, or the rules, said them; None is not said."""

    deletion: Deletion | None = None
    window_days: int | None = None
    close_after_days: int | None = None
    seat_at_suspension: SeatRule | None = None
    seat_at_deletion: SeatRule | None = None
    seat_at_restore: SeatReturn | None = None
    credential_on_resume: CredentialRule | None = None
    never_returns: tuple[str, ...] | None = None
    must_change: bool | None = None
    tries_sign_in: bool | None = None
    duties: tuple[Duty, ...] | None = None
    invitation_remind_days: tuple[int, ...] | None = None
    invitation_days: int | None = None
    password_length: int | None = None
    password_needs: tuple[CharacterClass, ...] | None = None
    login_length: int | None = None
    prepare_days: int | None = None
    alias_setting: str | None = None
    unseen_setting: str | None = None
    comes_from: str | None = None
    admin_group: str | None = None
    primary_group: str | None = None
    calls_per_second: float | None = None
    read_every_hours: float | None = None
    ceiling_per_hour: int | None = None
    fall_percent: float | None = None
    fall_least: int | None = None
    leaver_settings: Mapping[str, str] | None = None
    leaver_setting_days: Mapping[str, int] | None = None
    leaver_ground: str | None = None
    suspended_refuses_mail: bool | None = None
    standard_settings: Mapping[str, str] | None = None

    def named(self) -> list[str]:
        """The fields that were said."""
        return [f.name for f in fields(self) if getattr(self, f.name) is not None]

    def over(self, other: ProfileChange) -> ProfileChange:
        """What either says; this one where both do."""
        return replace(other, **{name: getattr(self, name) for name in self.named()})


NO_CHANGE = ProfileChange()


@dataclass(frozen=True, slots=True, kw_only=True)
class Application:
    """A system where people hold accounts; ``kind`` names the connector.

    ``nested`` maps a group to the groups it is inside of, as last read; ``attributes`` are those that its
    accounts have, ``groups`` what can be said of its groups, as discovered.
    """

    id: str
    name: str
    kind: str
    profile: Profile = field(default_factory=Profile)
    capabilities: frozenset[Capability] = USUAL
    contact: str = ""
    owner: str = ""
    trust: Trust = Trust.FULL
    nested: Mapping[str, Sequence[str]] = field(default_factory=dict)
    attributes: Mapping[str, Shape] = field(default_factory=dict)
    groups: Mapping[str, Shape] = field(default_factory=dict)

    def can(self, capability: Capability) -> bool:
        return capability in self.capabilities


def with_profile(application: Application, said: ProfileChange) -> Application:
    """The application with ``said``, field by field, laid over its profile."""
    if said == NO_CHANGE:
        return application
    profile = application.profile
    values = {name: getattr(said, name) for name in said.named()}
    return replace(application, profile=replace(profile, **values))


def effective_deletion(application: Application) -> Deletion:
    """The profile's wish within what discovery found.

    Recoverable deletion needs an application that restores; where it does not, the account is
    parked if it can be suspended, else the deletion is final and the plan says so.
    """
    wish = application.profile.deletion
    if wish is Deletion.RECOVERABLE and not application.can(Capability.RESTORE):
        return Deletion.PARK if application.can(Capability.SUSPEND) else Deletion.FINAL
    return wish
