"""What a person should have: roles, exceptions and dates, as one answer for each application."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime

from yugum.core.accounts import Account, AccountState, HoldingKind, is_open
from yugum.core.applications import Application
from yugum.core.attributes import NO_BOSS, Boss, values_of
from yugum.core.dates import days_later
from yugum.core.decisions import (
    FOUND,
    Decision,
    DecisionKind,
    Ledger,
    Origin,
    OriginKind,
    Right,
    in_force,
)
from yugum.core.heirs import AskRules, DefaultHeir
from yugum.core.licenses import contained
from yugum.core.mentions import Mention
from yugum.core.people import (
    Person,
    PersonState,
    folded,
    full_name,
    start_moment,
    state_at,
)
from yugum.core.reservations import Promise
from yugum.core.roles import Given, Precedence, Role, Rules, merged, same_for
from yugum.core.seats import Pool
from yugum.core.takeovers import Key, Takeover
from yugum.core.wanted import Wanted, Why
from yugum.core.wording import numbered

THINGS = (HoldingKind.ACCOUNT, HoldingKind.ENTITLEMENT, HoldingKind.SEAT)
ENTITLEMENT = HoldingKind.ENTITLEMENT
LOCKED = "locked"
"""What the ledger says of an account that was locked."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Successor:
    """Who takes over, and the accounts in which things can be received; or a manager with theirs."""

    person: Person
    accounts: Mapping[str, Account] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class Fallback:
    """Who takes over where nobody chose anything, as the rules say: by kind, then who stands at the end.

    ``defaults`` are those who can take over at the moment a plan is for. The ``custodian`` takes what is
    open ``custodian_days`` after the end of access. With ``ask`` everybody else is asked first.
    """

    defaults: tuple[tuple[DefaultHeir, Successor], ...] = ()
    custodian: Successor | None = None
    custodian_days: int = 0
    ask: AskRules | None = None

    def of(self, application_id: str, thing: str) -> Successor | None:
        """Who takes over a kind of thing, if the rules say so: the first that fits."""
        return next((who for said, who in self.defaults if said.fits(application_id, thing)), None)


NO_FALLBACK = Fallback()


@dataclass(frozen=True, slots=True, kw_only=True)
class Subject:
    """What a plan is about, with all that is known of it.

    An account that is nobody's is one too, with ``is_person`` False: no rule gives it anything.
    ``disputed`` are attributes (account, name) changed outside about which nobody has decided yet.
    ``mentions`` are places of applications that name somebody. ``successor_named`` says that ``successor`` was named, not found up the managers' chain. ``heirs`` are those
    who were named for some of what is owned, by their ids; ``fallback`` says who takes what nobody chose for,
    ``takeovers`` what those who were asked have said. ``copied`` is what others have copies of: the account, the thing,
    the account of whoever has the copy; known where something is to be copied. ``giving`` are the roles that give an account,
    by application.
    ``rights`` are the last ones by account, ``end_known_at`` is when the end of access was known.
    """

    person: Person
    accounts: tuple[Account, ...] = ()
    ledger: Ledger = field(default_factory=dict)
    decisions: tuple[Decision, ...] = ()
    successor: Successor | None = None
    successor_named: bool = False
    fallback: Fallback = NO_FALLBACK
    mentions: tuple[Mention, ...] = ()
    heirs: Mapping[str, Successor] = field(default_factory=dict)
    takeovers: Mapping[Key, Takeover] = field(default_factory=dict)
    copied: frozenset[tuple[str, str, str]] = frozenset()
    giving: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    manager: Successor | None = None
    disputed: frozenset[tuple[str, str]] = frozenset()
    is_person: bool = True
    rights: Mapping[str, Right] = field(default_factory=dict)
    end_known_at: datetime | None = None

    def locked(self, account: Account) -> bool:
        """Whether an account was locked and nobody has been let in since; it still takes mail."""
        shut = account.sessions == 0 and account.keys == 0
        key = (account.id, HoldingKind.ACCOUNT, LOCKED)
        return account.state is AccountState.ACTIVE and shut and key in self.ledger

    def is_open(self, account: Account) -> bool:
        """Whether somebody could get in by an account of this subject."""
        return is_open(account) and not self.locked(account)

    def boss(self, application_id: str) -> Boss:
        """The manager, with their account in an application."""
        if self.manager is None:
            return NO_BOSS
        one, account = self.manager.person, self.manager.accounts.get(application_id)
        return Boss(
            name=full_name(one),
            user_name=one.user_name,
            mail=one.mail,
            login=account.login if account else "",
            external_id=account.external_id if account else "",
        )

    def custodian_from(self) -> datetime | None:
        """When what nobody takes over goes to the custodian; None where there is nobody or no end."""
        days, ended = self.fallback.custodian_days, self.person.access_ends
        if self.fallback.custodian is None or ended is None:
            return None
        return days_later(ended, days, self.person.time_zone)

    def gave(self, account: Account) -> bool:
        """Whether a role or a decision gave an account; one that was found there is not taken away."""
        origin = self.ledger.get((account.id, HoldingKind.ACCOUNT, ""), FOUND)
        return origin.kind is not OriginKind.FOUND


def replaced(subject: Subject, at: datetime) -> frozenset[str]:
    """The accounts another one of the same person takes the place of, by decision."""
    return frozenset(
        d.payload.item
        for d in in_force(subject.decisions, at)
        if d.kind is DecisionKind.DENY and d.payload.kind is HoldingKind.ACCOUNT and d.payload.item
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class World:
    """What is the same for every subject of a batch; ``holds`` are those on applications, ``prefix`` begins dockets' numbers."""

    applications: Mapping[str, Application]
    rules: Rules
    pools: Mapping[tuple[str, str], Pool] = field(default_factory=dict)
    promises: Mapping[tuple[str, str], tuple[Promise, ...]] = field(default_factory=dict)
    holds: Mapping[str, tuple[Decision, ...]] = field(default_factory=dict)
    prefix: str = ""

    def number(self, docket: int) -> str:
        """A docket's number as people write it: ``MS-0321``."""
        return numbered(self.prefix, docket)


def hold_on(subject: Subject, world: World, account: Account, at: datetime) -> Decision | None:
    """The hold on the person or on the account's application, if there is one."""
    theirs = (*subject.decisions, *world.holds.get(account.application_id, ()))
    holds = [d for d in in_force(theirs, at) if d.kind is DecisionKind.HOLD]
    return holds[0] if holds else None


class _Collected:
    """What several roles and decisions give in one application, in their order."""

    def __init__(self) -> None:
        self.things: dict[HoldingKind, dict[str, Why]] = {kind: {} for kind in THINGS}
        self.values: dict[str, list[tuple[str, Origin, str]]] = {}
        self.kept_out: list[str] = []

    def give(self, given: Given, origin: Origin, reason: str, person: Person) -> None:
        if given.kind is HoldingKind.SETTING:
            value = filled_in(given.value, person)
            self.values.setdefault(given.item, []).append((value, origin, reason))
        else:
            self.things[given.kind].setdefault(given.item, (origin, reason))
        self.things[HoldingKind.ACCOUNT].setdefault("", (origin, reason))

    def refuse(self, kind: HoldingKind, item: str) -> None:
        """An exception that keeps something away."""
        if kind is HoldingKind.SETTING:
            self.values.pop(item, None)
        else:
            self.things[kind].pop(item, None)

    def wanted(self, rules: Rules, application_id: str) -> Wanted:
        settings = {}
        mapped = rules.mapped(application_id)
        for name, offers in self.values.items():
            how = rules.precedence.get(name, Precedence.FIRST)
            values = [v for v, _, _ in offers]
            counts = mapped.merged(name, values)
            value = merged(values, how) if counts is None else counts
            chosen = next((o for o in offers if o[0] == value), offers[0])
            reason = chosen[2]
            if how is Precedence.ALL or name in mapped.units:
                reason = ", ".join(dict.fromkeys(why for _, _, why in offers))
            elif others := sorted({v for v, _, _ in offers if v != value}):
                reason = f"{reason}, before {', '.join(others)}"
            settings[name] = (value, chosen[1], reason)
        return Wanted(
            self.things[HoldingKind.ACCOUNT].get(""),
            self.things[HoldingKind.ENTITLEMENT],
            self.things[HoldingKind.SEAT],
            settings,
            tuple(self.kept_out),
        )


def desired(subject: Subject, rules: Rules, at: datetime) -> dict[str, Wanted]:
    """What the person should have in each application at a moment.

    Nothing for somebody who has left; an absent person keeps everything, and for somebody who is
    expected it is what the first day brings (`plan_subject` knows what is made before it).
    """
    if not subject.is_person or state_at(subject.person, at) is PersonState.LEFT:
        return {}
    decisions = in_force(subject.decisions, at)
    also = [d.payload.role for d in decisions if d.kind is DecisionKind.ROLE]
    roles = rules.roles_of(folded(subject.person), also)
    own = any(d.kind in (DecisionKind.GRANT, DecisionKind.DENY) for d in decisions)
    began = start_moment(subject.person)
    settings = any(g.kind is HoldingKind.SETTING for r in roles for g in r.gives_to(began))
    if own or settings:
        return _collected(subject, rules, roles, decisions)
    # All who have the same roles and nothing of their own should have the same.
    key = same_for(roles, began)
    return rules.wanted_by.get(key, lambda: _collected(subject, rules, roles, ()))


def _collected(
    subject: Subject, rules: Rules, roles: Iterable[Role], decisions: Sequence[Decision]
) -> dict[str, Wanted]:
    """What roles and exceptions give together, less what is refused and what excludes itself."""
    collected: dict[str, _Collected] = {}
    for role in roles:
        for given in role.gives_to(start_moment(subject.person)):
            origin = Origin(OriginKind.ROLE, role.name)
            mine = collected.setdefault(given.application_id, _Collected())
            mine.give(given, origin, f"role {role.name}", subject.person)
    for decision in decisions:
        if decision.kind is DecisionKind.GRANT:
            p = decision.payload
            origin = Origin(OriginKind.DECISION, decision.id)
            mine = collected.setdefault(p.application, _Collected())
            given = Given(p.application, p.kind or HoldingKind.ACCOUNT, p.item, p.value)
            if given.kind is HoldingKind.SETTING and not rules.adds(given):
                mine.values.pop(given.item, None)  # an exception for one person goes before roles
            mine.give(given, origin, f"exception: {decision.reason}", subject.person)
    for decision in decisions:
        p = decision.payload
        if decision.kind is DecisionKind.DENY and p.application in collected:
            collected[p.application].refuse(p.kind or HoldingKind.ACCOUNT, p.item)
    _exclude(collected, rules)
    _contain(collected, rules)
    return {name: mine.wanted(rules, name) for name, mine in collected.items()}


def _exclude(collected: Mapping[str, _Collected], rules: Rules) -> None:
    """Of entitlements that exclude each other only the first in the rules' order is given."""
    for exclusion in rules.exclusions:
        held = [
            (application, item)
            for application, item in exclusion.items
            if application in collected and item in collected[application].things[ENTITLEMENT]
        ]
        for application, item in held[1:]:
            del collected[application].things[ENTITLEMENT][item]
            collected[application].kept_out.append(
                f"{item} is not given beside {held[0][1]}: {exclusion.name}."
            )


def _contain(collected: Mapping[str, _Collected], rules: Rules) -> None:
    """A seat that another one of the same application brings along is not given beside it."""
    for application_id, mine in collected.items() if rules.licenses else ():
        seats = mine.things[HoldingKind.SEAT]
        for part, suite in contained(application_id, seats, rules.licenses).items():
            del seats[part]
            mine.kept_out.append(f"{part} is not given beside {suite}, which contains it.")


def filled_in(value: str, person: Person) -> str:
    """A setting's value with fields of the person in it; a field that is empty leaves nothing."""
    for name, text in values_of(person).items() if "{" in value else ():
        value = value.replace(f"{{{name}}}", text)
    return value.strip()


def prepared_from(person: Person, application: Application) -> datetime | None:
    """When the account of somebody who is expected is made; None without a first day."""
    starts = start_moment(person)
    if starts is None:
        return None
    return days_later(starts, -application.profile.prepare_days, person.time_zone)
