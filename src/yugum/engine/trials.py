"""Trying rules: who would gain and lose what, without changing anything.

People who are alike in every attribute that the rules read get the same; so roles are evaluated
once for each combination of values, and only people of a combination that changes are looked at.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta

from yugum.core.accounts import Account, AccountState, HoldingKind
from yugum.core.actions import GONE
from yugum.core.conditions import Values, matches
from yugum.core.decisions import DecisionKind, OriginKind, in_force
from yugum.core.desired import Subject, desired
from yugum.core.people import Person, PersonState, folded, state_at
from yugum.core.roles import Precedence, Role, Rules, merged
from yugum.core.seats import Money, Pool
from yugum.core.wanted import Wanted
from yugum.engine.context import load_subjects, load_world
from yugum.errors import NotFound
from yugum.ports.population import HeldIn, PersonHolding
from yugum.ports.units import UnitOfWork

SAMPLES = 5
PORTION = 2000
Thing = tuple[str, HoldingKind, str]
"""application, kind, item (of a setting with its value)"""


@dataclass(frozen=True, slots=True)
class Sample:
    """Somebody to open."""

    id: str
    name: str
    user_name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Shortage:
    """A pool that a candidate needs more seats of than are free, and what these cost a month."""

    application_id: str
    license: str
    free: int
    wanted: int
    lacking: int
    cost: Money


@dataclass(slots=True)
class Line:
    """One thing that is gained or lost, by how many, with some of them to open."""

    application_id: str
    kind: HoldingKind
    item: str
    gained: int = 0
    lost: int = 0
    roles: tuple[str, ...] = ()
    samples: list[Sample] = field(default_factory=list)


@dataclass(slots=True)
class Trial:
    """What a candidate changes. ``people`` are the ids of those who gain or lose something.

    ``losing`` counts those who lose something.
    """

    version: int
    looked_at: int = 0
    combinations: int = 0
    gained: int = 0
    lost: int = 0
    losing: int = 0
    lines: dict[Thing, Line] = field(default_factory=dict)
    people: dict[str, None] = field(default_factory=dict)
    short: list[Shortage] = field(default_factory=list)
    approvals: Counter[str] = field(default_factory=Counter)
    tasks: Counter[str] = field(default_factory=Counter)


def things_of(
    roles: Iterable[Role], rules: Rules, began: datetime | None
) -> dict[Thing, tuple[str, ...]]:
    """What some roles give together to who began then, each with the roles it comes from."""
    found: dict[Thing, list[str]] = {}
    values: dict[tuple[str, str], list[tuple[str, str]]] = {}
    for role in roles:
        for given in role.gives_to(began):
            if given.kind is HoldingKind.SETTING:
                key = (given.application_id, given.item)
                values.setdefault(key, []).append((given.value, role.name))
            else:
                thing: Thing = (given.application_id, given.kind, given.item)
                found.setdefault(thing, []).append(role.name)
    for (application, item), offers in values.items():
        value = merged([v for v, _ in offers], rules.precedence.get(item, Precedence.FIRST))
        found[(application, HoldingKind.SETTING, f"{item} = {value}")] = [
            n for v, n in offers if v == value
        ]
    for exclusion in rules.exclusions:
        excluded: list[Thing] = [(a, HoldingKind.ENTITLEMENT, i) for a, i in exclusion.items]
        for surplus in [t for t in excluded if t in found][1:]:
            del found[surplus]
    return {thing: tuple(dict.fromkeys(names)) for thing, names in found.items()}


@dataclass(frozen=True, slots=True)
class Stock:
    """What is needed to tell where a trial's gains fall short: pools, and manual applications."""

    pools: Mapping[tuple[str, str], Pool]
    manual: frozenset[str]


@dataclass(frozen=True, slots=True)
class _Change:
    """What one combination of attributes gains and loses."""

    gains: Mapping[Thing, tuple[str, ...]]
    losses: Mapping[Thing, tuple[str, ...]]


def differing(before: Rules, after: Rules) -> tuple[Role, ...] | None:
    """The roles of which either version has another: who has none of them is not touched.

    None when more than some roles differs: their order, or how what they give goes together.
    """
    names = {r.name: r for r in after.roles}
    kept = [r for r in before.roles if names.get(r.name) == r]
    same = {r.name for r in kept}
    if [r.name for r in after.roles if r.name in same] != [r.name for r in kept]:
        return None
    if (before.precedence, before.exclusions) != (after.precedence, after.exclusions):
        return None
    return tuple(r for r in (*before.roles, *after.roles) if r.name not in same)


def changes_of(values: Values, before: Rules, after: Rules, began: datetime) -> _Change | None:
    """The difference between two versions for people with these values; None when there is none."""
    old = things_of(before.roles_of(values), before, began)
    new = things_of(after.roles_of(values), after, began)
    if old.keys() == new.keys():
        return None
    return _Change(
        {t: n for t, n in new.items() if t not in old},
        {t: n for t, n in old.items() if t not in new},
    )


async def try_rules(
    unit: UnitOfWork,
    before: Rules,
    after: Rules,
    now: datetime,
    stock: Stock,
    who: Sequence[str] = (),
    apart: Collection[str] = (),
) -> Trial:
    """Compare two versions over everybody who is there or expected, or over some people.

    ``who`` names them by login or number; those ``apart``, by their ids, gain and lose nothing.

    Raises:
        NotFound: nobody is called so.
    """
    trial = Trial(version=before.version)
    named = before.attributes() | after.attributes()
    attributes = sorted(a for a in named if not (a.startswith("?") and a[1:] in named))
    changing: dict[str, _Change] = {}
    # A change for later joiners is for nobody who is looked at here.
    there = now - timedelta(microseconds=1)
    after = replace(after, since=now).after([(before.since or there, before)])
    touching = differing(before, after)

    def weigh(key: str, values: Values, count: int) -> None:
        trial.combinations += 1
        trial.looked_at += count
        if touching is not None and not any(matches(r.when, values) for r in touching):
            return
        if change := changes_of(values, before, after, there):
            changing[key] = change

    among: list[str] | None = None
    if who:
        among = []
        some, missing = await unit.population.combinations_of(attributes, now, who)
        if missing:
            raise NotFound(f"Nobody is called '{missing[0]}'.", place="who")
        for found in some:
            weigh(found.key, found.values, found.count)
            among += found.ids if found.key in changing else ()
    else:
        for found in await unit.population.combinations(attributes, now):
            weigh(found.key, found.values, found.count)
    if changing:
        applications = sorted({t[0] for c in changing.values() for t in (*c.gains, *c.losses)})
        async for portion in unit.population.holding(
            attributes, list(changing), applications, now, PORTION, among
        ):
            for person in portion:
                if person.id not in apart:
                    _count(trial, person, changing[person.key])
    _consequences(trial, stock, after)
    return trial


def _count(trial: Trial, person: PersonHolding, change: _Change) -> None:
    """One person: what is held already is no gain, what no rule gave is no loss."""
    before = trial.lost
    for thing, roles in change.gains.items():
        application, kind, item = thing
        if not _holds(person.held.get(application), kind, item):
            _note(trial, thing, roles, person, gained=True)
    for thing, roles in change.losses.items():
        application, kind, item = thing
        mine = person.held.get(application)
        if mine is None or not _holds(mine, kind, item):
            continue
        name = "" if kind is HoldingKind.ACCOUNT else item.partition(" = ")[0]
        if f"{kind.value}:{name}" in mine.ruled:
            _note(trial, thing, roles, person, gained=False)
    trial.losing += trial.lost > before


def _holds(mine: HeldIn | None, kind: HoldingKind, item: str) -> bool:
    if mine is None:
        return False
    match kind:
        case HoldingKind.ACCOUNT:
            return mine.state not in GONE
        case HoldingKind.SETTING:
            name, _, value = item.partition(" = ")
            return mine.settings.get(name, "") == value
        case HoldingKind.ENTITLEMENT:
            return item in mine.entitlements
        case HoldingKind.SEAT:
            return item in mine.seats


def _note(
    trial: Trial, thing: Thing, roles: tuple[str, ...], person: PersonHolding, *, gained: bool
) -> None:
    line = trial.lines.setdefault(thing, Line(*thing, roles=roles))
    if gained:
        line.gained += 1
        trial.gained += 1
    else:
        line.lost += 1
        trial.lost += 1
    trial.people[person.id] = None
    if len(line.samples) < SAMPLES:
        line.samples.append(Sample(person.id, person.display_name, person.user_name))


def _consequences(trial: Trial, stock: Stock, after: Rules) -> None:
    """Pools that run short, approvals and tasks that this makes."""
    by_name = {r.name: r.approval for r in after.roles if r.approval}
    for (application, kind, item), line in trial.lines.items():
        if kind is HoldingKind.SEAT and (pool := stock.pools.get((application, item))):
            lacking = 0 if pool.unlimited else line.gained - line.lost - pool.free
            if lacking > 0:
                trial.short.append(
                    Shortage(
                        application_id=application,
                        license=item,
                        free=pool.free,
                        wanted=line.gained,
                        lacking=lacking,
                        cost=pool.monthly(lacking),
                    )
                )
        if line.gained:
            for role in line.roles:
                if role in by_name:
                    trial.approvals[by_name[role]] += line.gained
        if application in stock.manual:
            trial.tasks[application] += line.gained + line.lost


@dataclass(frozen=True, slots=True, kw_only=True)
class Explained:
    """One thing: whether somebody should have it and has it, and why."""

    application_id: str
    kind: HoldingKind
    item: str
    why: str
    held: bool
    wanted: bool = True


@dataclass(frozen=True, slots=True, kw_only=True)
class Explanation:
    """What a person should have in each application."""

    person: Person
    state: PersonState
    roles: Sequence[str]
    lines: Sequence[Explained]


async def explain(unit: UnitOfWork, who: str, now: datetime) -> Explanation:
    """What a person should have in each application, each line with its reason."""
    person = await unit.people.resolve(who)
    known = await unit.accounts.known([person.id])
    world = await load_world(unit)
    subject = (await load_subjects(unit, {person.id: person}, known, now, world.rules))[person.id]
    accounts = {a.application_id: a for a in subject.accounts if a.state is not AccountState.PURGED}
    also = [d.payload.role for d in in_force(subject.decisions, now) if d.kind is DecisionKind.ROLE]
    return Explanation(
        person=person,
        state=state_at(person, now),
        roles=[r.name for r in world.rules.roles_of(folded(person), also)],
        lines=[
            line
            for application, want in sorted(desired(subject, world.rules, now).items())
            for line in _explained(application, want, accounts.get(application), subject)
        ],
    )


def _explained(
    application: str, want: Wanted, account: Account | None, subject: Subject
) -> list[Explained]:
    def line(
        kind: HoldingKind, item: str, why: str, held: bool, *, wanted: bool = True
    ) -> Explained:
        return Explained(
            application_id=application, kind=kind, item=item, why=why, held=held, wanted=wanted
        )

    entitlements: Collection[str] = account.entitlements if account else ()
    seats: Collection[str] = account.seats if account else ()
    settings = account.settings if account else {}
    lines = [
        line(HoldingKind.ENTITLEMENT, item, why, item in entitlements)
        for item, (_, why) in want.entitlements.items()
    ]
    lines += [
        line(HoldingKind.SEAT, item, why, item in seats) for item, (_, why) in want.seats.items()
    ]
    lines += [
        line(
            HoldingKind.SETTING,
            f"{name} = {value}",
            why,
            account is not None and settings.get(name, "") == value,
        )
        for name, (value, _, why) in want.settings.items()
    ]
    if not lines and want.account:
        lines.append(line(HoldingKind.ACCOUNT, "", want.account[1], account is not None))
    if account is None:
        return lines
    for item in sorted(account.entitlements - want.entitlements.keys()):
        origin = subject.ledger.get((account.id, HoldingKind.ENTITLEMENT, item))
        ruled = origin is not None and origin.kind is OriginKind.ROLE
        why = "goes with the next plan" if ruled else "found there, no rule gave it"
        lines.append(line(HoldingKind.ENTITLEMENT, item, why, True, wanted=False))
    return lines
