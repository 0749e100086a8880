"""Roles and rules: who should have what, and how it is carried out."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime
from enum import StrEnum

from yugum.core.accounts import HoldingKind
from yugum.core.actions import Phase
from yugum.core.applications import Application, ProfileChange
from yugum.core.attributes import Mapped, OwnAttribute, Recipe, recipes
from yugum.core.conditions import (
    EVERYONE,
    Condition,
    Values,
    attributes_of,
    compared_in,
    matches,
)
from yugum.core.heirs import NO_RULES, HandoverRules
from yugum.core.licenses import USUAL, License, Licenses
from yugum.core.names import NameRules
from yugum.core.offsets import Offset, WorkingHours
from yugum.core.verbs import Verb
from yugum.core.wanted import Remembered, Wanted

AS_USUAL = Mapped()
STAY = "-"
"""Whoever reported to a leaver keeps them as manager."""


class NoticeAt(StrEnum):
    """When a notice goes out."""

    PLANNED = "planned"
    DONE = "done"


class Precedence(StrEnum):
    """Which value of a setting wins when several roles give one."""

    LARGEST = "largest"
    SMALLEST = "smallest"
    FIRST = "first"
    ALL = "all"


class Guard(StrEnum):
    """What can speak against a leaver plan."""

    LAST_ADMINISTRATOR = "last-administrator"
    SERVICE_ACCOUNTS = "service-accounts"
    REPORTS = "reports"
    LOOK_ALIKE = "look-alike"


class GuardForce(StrEnum):
    """What a guard does: forbid, ask for a reason, or only say so."""

    BLOCK = "block"
    OVERRIDE = "override"
    WARN = "warn"


class DeliverTo(StrEnum):
    """Who gets the link to an initial credential."""

    MANAGER = "manager"
    OUTSIDE_MAIL = "outside_mail"
    HELP_DESK = "help_desk"


@dataclass(frozen=True, slots=True)
class Given:
    """One thing a role gives in an application: ``item`` is "" for the account itself.

    A setting carries its ``value``, in which ``{contract_ends}`` and other fields are filled in.
    """

    application_id: str
    kind: HoldingKind
    item: str = ""
    value: str = ""


class Reach(StrEnum):
    """Whom a change of what a role gives is for: everybody, or only who begins after it."""

    EVERYBODY = "everybody"
    LATER_JOINERS = "later_joiners"


@dataclass(frozen=True, slots=True)
class Earlier:
    """What a role gives to those who began before a moment."""

    before: datetime
    gives: tuple[Given, ...]


@dataclass(frozen=True, slots=True)
class Role:
    """A rule of the organisation: a condition on people and what it gives.

    ``overlap_days`` is how long a mover keeps it after it no longer applies; ``approval`` names who
    must agree before it is given. Where changes are for later joiners only (``reach``), ``earlier`` says
    what those have who began before, the longest ago first.
    """

    name: str
    when: Condition
    when_text: str
    gives: tuple[Given, ...]
    overlap_days: int = 0
    approval: str = ""
    reach: Reach = Reach.EVERYBODY
    earlier: tuple[Earlier, ...] = ()

    def variant(self, began: datetime | None) -> int:
        """Which of what it gave and gives is for somebody who began then (None: long ago)."""
        later = (n for n, e in enumerate(self.earlier) if began is None or began < e.before)
        return next(later, len(self.earlier))

    def gives_to(self, began: datetime | None) -> tuple[Given, ...]:
        """What it gives to somebody who began then."""
        variant = self.variant(began)
        return self.earlier[variant].gives if variant < len(self.earlier) else self.gives


@dataclass(frozen=True, slots=True)
class Approval:
    """Who must agree: ``manager``, ``owner`` (of the applications touched) or operators' logins.

    After ``remind_hours`` of working time without an answer they are reminded and the ``deputies``, named
    alike (administrators where none are), are asked too; after ``expire_hours`` by the clock it is over.
    """

    name: str
    by: tuple[str, ...]
    everyone: bool = False
    remind_hours: float = 4.0
    expire_hours: float = 168.0
    deputies: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class OwnStep:
    """A step of the organisation's own in a procedure, run by a web hook or script application.

    It runs with the docket, or at the moment ``at`` says, and not before ``wait_for`` holds.
    """

    name: str
    application_id: str
    phase: Phase
    when: Condition = EVERYONE
    undo: bool = True
    at: Offset | None = None
    wait_for: Condition = EVERYONE

    @property
    def later(self) -> bool:
        """Whether it may run after the docket to whose procedure it belongs."""
        return self.at is not None or self.wait_for is not EVERYONE


@dataclass(frozen=True, slots=True)
class Procedure:
    """How a verb is carried out. ``approval`` names who must agree first.

    ``reports_to`` is whom those get as manager whose own one leaves: "" theirs, a login, or ``STAY``. An
    urgent docket waits for nobody; with ``urgent_afterwards`` they are asked once it has begun.
    """

    approval: str = ""
    urgent_afterwards: bool = False
    steps: tuple[OwnStep, ...] = ()
    alias_days: int = 0
    reports_to: str = ""
    remind_days: tuple[int, ...] = ()
    longest_days: int = 0


@dataclass(frozen=True, slots=True)
class Delivery:
    """How initial credentials reach people: the receivers in order, the first that there is."""

    to: tuple[DeliverTo, ...] = (DeliverTo.MANAGER,)
    valid_hours: float = 72.0


@dataclass(frozen=True, slots=True)
class Notice:
    """A mail about dockets of a verb, ``to`` addresses, the ``manager`` or the ``person``."""

    name: str
    verb: Verb
    at: NoticeAt
    to: tuple[str, ...]
    subject: str
    text: str


@dataclass(frozen=True, slots=True)
class Exclusion:
    """Entitlements of which nobody may hold two: pairs of application and name."""

    name: str
    items: tuple[tuple[str, str], ...]


def _giving(roles: Iterable[Role]) -> dict[str, tuple[str, ...]]:
    found: dict[str, dict[str, None]] = {}
    for role in roles:
        for given in role.gives:
            found.setdefault(given.application_id, {})[role.name] = None
    return {application: tuple(names) for application, names in found.items()}


def same_for(roles: Iterable[Role], began: datetime | None) -> tuple[tuple[str, int], ...]:
    """What some roles give to who began then is the same for all of whom this is the same."""
    return tuple((r.name, r.variant(began)) for r in roles)


@dataclass(frozen=True, slots=True)
class Rules:
    """One numbered version of the organisation's rules; ``since`` is when it was adopted.

    An adoption that takes something from more than ``adoption_percent`` of the people, and at least
    from ``adoption_people``, or more than ``adoption_ceiling`` things (0: any number), is asked about.
    What fell due before it was known is destroyed no sooner than ``grace_hours`` after that.
    """

    version: int = 0
    roles: tuple[Role, ...] = ()
    names: NameRules = field(default_factory=NameRules)
    precedence: Mapping[str, Precedence] = field(default_factory=dict)
    exclusions: tuple[Exclusion, ...] = ()
    procedures: Mapping[Verb, Procedure] = field(default_factory=dict)
    approvals: Mapping[str, Approval] = field(default_factory=dict)
    notices: tuple[Notice, ...] = ()
    delivery: Delivery = field(default_factory=Delivery)
    profiles: Mapping[str, ProfileChange] = field(default_factory=dict)
    own: Mapping[str, OwnAttribute] = field(default_factory=dict)
    accounts: Mapping[str, Mapped] = field(default_factory=dict)
    working_hours: WorkingHours = field(default_factory=WorkingHours)
    since: datetime | None = None
    absence_frees_seats: bool = False
    orders_to: tuple[str, ...] = ()
    licenses: Licenses = field(default_factory=dict)
    handover: HandoverRules = NO_RULES
    adoption_ceiling: int = 0
    adoption_percent: float = 1.0
    adoption_people: int = 25
    grace_hours: float = 24.0
    guards: Mapping[Guard, GuardForce] = field(default_factory=dict)
    decisive_by: Remembered[tuple[str, ...]] = field(
        default_factory=Remembered, init=False, compare=False, repr=False
    )
    giving_by: Remembered[Mapping[str, tuple[str, ...]]] = field(
        default_factory=Remembered, init=False, compare=False, repr=False
    )
    roles_by: Remembered[tuple[Role, ...]] = field(
        default_factory=Remembered, init=False, compare=False, repr=False
    )
    recipes_by: Remembered[tuple[Recipe, ...]] = field(
        default_factory=Remembered, init=False, compare=False, repr=False
    )
    wanted_by: Remembered[dict[str, Wanted]] = field(
        default_factory=Remembered, init=False, compare=False, repr=False
    )
    """What follows from these rules alone, for all who are alike."""

    def roles_of(self, values: Values, also: Iterable[str] = ()) -> tuple[Role, ...]:
        """The roles whose condition the folded ``values`` fulfil or that are named ``also``."""
        named = frozenset(also)
        key = (named, *(tuple(values.get(a, ())) for a in self.decisive()))
        return self.roles_by.get(
            key,
            lambda: tuple(r for r in self.roles if r.name in named or matches(r.when, values)),
        )

    def giving(self) -> Mapping[str, tuple[str, ...]]:
        """Which roles give an account, by application, in their order."""
        return self.giving_by.get("", lambda: _giving(self.roles))

    def decisive(self) -> tuple[str, ...]:
        """The attributes that decide about roles, in order."""
        return self.decisive_by.get(
            "", lambda: tuple(sorted({a for r in self.roles for a in attributes_of(r.when)}))
        )

    def after(self, versions: Sequence[tuple[datetime, Rules]]) -> Rules:
        """These rules with what their roles gave before, by when each version was adopted.

        ``versions`` are those before, the first one first; ``since`` is when these were adopted.
        """
        if not any(role.reach is Reach.LATER_JOINERS for role in self.roles):
            return self
        now = self.since or datetime.max.replace(tzinfo=UTC)
        return replace(
            self, roles=tuple(_with_earlier(r, [*versions, (now, self)]) for r in self.roles)
        )

    def asks_about(self, losing: int, of: int) -> bool:
        """Whether an adoption that takes something from so many of so many people is asked about."""
        return losing >= self.adoption_people and losing * 100 > self.adoption_percent * of

    def procedure(self, verb: Verb) -> Procedure:
        return self.procedures.get(verb, Procedure())

    def mapped(self, application_id: str) -> Mapped:
        """What is said of the attributes of an application's accounts."""
        return self.accounts.get(application_id, AS_USUAL)

    def license(self, application_id: str, name: str) -> License:
        return self.licenses.get((application_id, name), USUAL)

    def adds(self, given: Given) -> bool:
        """Whether what is given comes to what roles give: further units do."""
        return given.item in self.mapped(given.application_id).units

    def recipes(self, application: Application) -> tuple[Recipe, ...]:
        """How the attributes that an application's accounts have are made."""
        key = (application.id, *application.attributes)
        return self.recipes_by.get(
            key, lambda: recipes(application.attributes, self.mapped(application.id))
        )

    def in_step(self, application: Application) -> frozenset[str]:
        """Those of them that are kept in step."""
        return frozenset(r.name for r in self.recipes(application) if r.in_step)

    def attributes(self) -> frozenset[str]:
        """The attributes that decide about roles and licenses: people alike in these are to have the same.

        One of which only the presence counts is led by a question mark.
        """
        conditions = [role.when for role in self.roles]
        conditions += [of.who for of in self.licenses.values() if of.who is not None]
        named = {a for when in conditions for a in attributes_of(when)}
        compared = {a for when in conditions for a in compared_in(when)}
        return frozenset(compared | {f"?{a}" for a in named - compared})


def _with_earlier(role: Role, versions: Sequence[tuple[datetime, Rules]]) -> Role:
    """A role with what it gave to whom, through all versions up to its own."""
    chain: list[Earlier] = []
    gave: tuple[Given, ...] | None = None
    for index, (adopted, rules) in enumerate(versions):
        then = next((r for r in rules.roles if r.name == role.name), None)
        gives = then.gives if then is not None else None
        if gives == gave:
            continue
        later = then is not None and then.reach is Reach.LATER_JOINERS and index > 0
        chain = [*chain, Earlier(adopted, gave or ())] if later else []
        gave = gives
    return replace(role, earlier=tuple(chain))


def merged(values: Iterable[str], precedence: Precedence) -> str:
    """One value of a setting out of those that several roles give.

    ``largest`` and ``smallest`` compare amounts (``2 GB``), ``all`` joins words, anything else
    takes the first in the order of the rules.
    """
    listed = list(values)
    if precedence is Precedence.LARGEST:
        return max(listed, key=amount)
    if precedence is Precedence.SMALLEST:
        return min(listed, key=amount)
    if precedence is Precedence.ALL:
        return " ".join(sorted({word for value in listed for word in value.split()}))
    return listed[0]


UNITS = {"": 1, "b": 1, "kb": 10**3, "mb": 10**6, "gb": 10**9, "tb": 10**12}


def amount(text: str) -> tuple[float, str]:
    """``2 GB`` as a number of bytes; text that is no amount sorts below every amount."""
    number = text.strip().rstrip("abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ").strip()
    unit = text.strip()[len(number) :].strip().lower()
    try:
        return float(number) * UNITS[unit], text
    except (ValueError, KeyError):
        return -1.0, text
