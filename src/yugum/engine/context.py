"""Loading what the planner reads: the world once, and many subjects in a handful of statements."""

from __future__ import annotations

import asyncio
import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from functools import lru_cache

from yugum.core.accounts import Account, AccountState
from yugum.core.actions import TO_BE_MADE
from yugum.core.applications import NO_CHANGE, Application, with_profile
from yugum.core.decisions import DecisionKind, LedgerKey, Origin, in_force
from yugum.core.desired import Subject, Successor, World
from yugum.core.dockets import Inputs
from yugum.core.people import Person, PersonState, full_name, state_at
from yugum.core.plans import Plan, PlannedStep
from yugum.core.projection import project
from yugum.core.roles import Reach, Rules
from yugum.errors import Ambiguous, ApplicationError, InvalidInput, NotFound, YugumError
from yugum.ports.accounts import Known
from yugum.ports.connectors import AccountRef, Connectors
from yugum.ports.units import Database, UnitOfWork
from yugum.wire.rulebook import rules_from
from yugum.wire.rules import RulesDocument

NOBODY: Mapping[str, Person] = {}
NOBODY_NAMED: Mapping[str, str] = {}
CHAIN = 6
"""How many managers up a successor is looked for."""


async def load_rules(unit: UnitOfWork) -> Rules:
    """The rules in force; none at all are version 0."""
    stored = await unit.rules.current()
    if stored is None:
        return Rules()
    rules = _parsed(stored.version, stored.document, stored.adopted_at)
    if not any(role.reach is Reach.LATER_JOINERS for role in rules.roles):
        return rules
    history = await unit.rules.before(stored.version)
    return _with_history(
        stored.version,
        stored.document,
        stored.adopted_at,
        tuple((v.version, v.document, v.adopted_at) for v in history),
    )


@lru_cache(maxsize=8)
def _parsed(version: int, document: str, since: datetime) -> Rules:
    """Rules are read many times a second and change a few times a year."""
    return rules_from(RulesDocument.model_validate_json(document), version, since)


@lru_cache(maxsize=4)
def _with_history(
    version: int,
    document: str,
    since: datetime,
    history: tuple[tuple[int, str, datetime], ...],
) -> Rules:
    """Rules of which some role's changes are only for later joiners."""
    before = [(adopted, _parsed(number, text, adopted)) for number, text, adopted in history]
    return _parsed(version, document, since).after(before)


async def load_applications(unit: UnitOfWork) -> dict[str, Application]:
    """Every application with what the rules in force say over its own profile."""
    return await _applications(unit, await load_rules(unit))


async def _applications(unit: UnitOfWork, rules: Rules) -> dict[str, Application]:
    applications = await unit.applications.all()
    return {i: with_profile(a, rules.profiles.get(i, NO_CHANGE)) for i, a in applications.items()}


async def zone_of(unit: UnitOfWork) -> str:
    """The organisation's time zone."""
    installation = await unit.views.installation()
    return installation.zone if installation else "UTC"


async def load_world(unit: UnitOfWork) -> World:
    rules = await load_rules(unit)
    return World(
        applications=await _applications(unit, rules),
        rules=rules,
        pools=await unit.seats.pools(),
        holds=await unit.decisions.holds_on_applications(),
    )


async def people_named(unit: UnitOfWork, names: Sequence[str]) -> dict[str, Person]:
    """Whom ids, logins, numbers or names stand for, by name.

    Raises:
        NotFound: nobody is called that.
        Ambiguous: several are.
    """
    found, wrong = await whom(unit, names, len(names))
    for error in wrong.values():
        raise error
    return found


async def whom(
    unit: UnitOfWork, names: Sequence[str], most: int
) -> tuple[dict[str, Person], dict[str, YugumError]]:
    """Whom ids, logins, numbers or names stand for, and what is wrong with the others.

    Statements do not grow with ids, logins and numbers; ``most`` names are looked for one by one.
    """
    rows = await unit.people.many(names)
    found = {name: person for name, (person, _) in rows.items()}
    rest = [n for n in names if n not in found]
    ids: dict[str, set[str]] = {}
    for key in await unit.people.by_keys(rest, rest):
        for name in (key.user_name, key.employee_number):
            ids.setdefault(name, set()).add(key.id)
    # One's login may be another's number: who is meant is not known then.
    sole = {n: next(iter(ids[n])) for n in rest if len(ids.get(n, ())) == 1}
    rows = await unit.people.many(sole.values())
    found |= {name: rows[i][0] for name, i in sole.items()}
    wrong: dict[str, YugumError] = {}
    for at, name in enumerate([n for n in dict.fromkeys(names) if n not in found]):
        try:
            if at >= most:
                raise NotFound(f"Nobody has the login or number {name}.", place="who")
            found[name] = await unit.people.resolve(name)
        except (NotFound, Ambiguous) as error:
            wrong[name] = error
    return found, wrong


@dataclass(frozen=True, slots=True)
class Loaded:
    """Some people with all that is known, and the revisions their plans are bound to."""

    known: Known
    rules_version: int

    def inputs(self, person_id: str) -> Inputs:
        mine = () if person_id in self.known.nobody else self.known.accounts[person_id]
        return Inputs(
            person=self.known.revisions[person_id],
            accounts={a.id: a.rev for a in mine},
            rules=self.rules_version,
        )


async def load_subjects(
    unit: UnitOfWork,
    people: Mapping[str, Person],
    known: Known,
    at: datetime,
    named: Mapping[str, str] = NOBODY_NAMED,
) -> dict[str, Subject]:
    """Subjects for (possibly changed) ``people``, each with its successor, ``named`` by an operator or not.

    Raises:
        InvalidInput: a successor who is named has left or is among the people.
    """
    chosen = await _successors(unit, people, known, at, named)
    ledgers: dict[str, dict[LedgerKey, Origin]] = {}
    for key, origin in known.ledger.items():
        ledgers.setdefault(key[0], {})[key] = origin
    bosses = await managers_of(unit, people, {p.id: p for p in chosen.values()})
    subjects = {}
    for person_id, person in people.items():
        successor = None
        if heir := chosen.get(person_id):
            with_accounts = bosses[heir.id].accounts
            active = {i: a for i, a in with_accounts.items() if a.state is AccountState.ACTIVE}
            successor = Successor(person=heir, accounts=active)
        mine = known.accounts.get(person_id, ())
        subjects[person_id] = Subject(
            person=person,
            accounts=tuple(mine),
            ledger={k: o for a in mine for k, o in ledgers.get(a.id, {}).items()},
            decisions=tuple(known.decisions.get(person_id, ())),
            successor=successor,
            manager=bosses.get(person.manager_id or ""),
            disputed=known.disputed,
            is_person=person_id not in known.nobody,
        )
    return subjects


async def managers_of(
    unit: UnitOfWork, people: Mapping[str, Person], others: Mapping[str, Person] = NOBODY
) -> dict[str, Successor]:
    """The managers of some people, and ``others``, with their accounts, by id."""
    ids = {p.manager_id for p in people.values() if p.manager_id}
    found = dict(others)
    if rest := sorted(ids - others.keys()):
        found |= {i: person for i, (person, _) in (await unit.people.many(rest)).items()}
    if not found:
        return {}
    accounts = await unit.accounts.in_use(sorted(found))
    return {
        i: Successor(
            person=people.get(i, person),
            accounts={a.application_id: a for a in sorted(accounts.get(i, ()), key=_active_last)},
        )
        for i, person in found.items()
    }


def _active_last(account: Account) -> tuple[bool, str]:
    """Of two accounts in one application the one in use is meant."""
    return account.state is AccountState.ACTIVE, account.id


async def _successors(
    unit: UnitOfWork,
    people: Mapping[str, Person],
    known: Known,
    at: datetime,
    named: Mapping[str, str],
) -> dict[str, Person]:
    """Who takes over from each: the one named, the one decided, else up the managers' chain."""
    heirs = await people_named(unit, sorted({*named.values()})) if named else {}
    found = {i: heirs[who] for i, who in named.items()}
    for heir in heirs.values():
        check_successor(heir, people, at)
    wanted: dict[str, str] = {}
    for person_id, person in people.items():
        if person_id in found:
            continue
        decided = [
            d.payload.person
            for d in in_force(known.decisions.get(person_id, ()), at)
            if d.kind is DecisionKind.SUCCESSOR
        ]
        if decided or person.manager_id:
            wanted[person_id] = decided[-1] if decided else str(person.manager_id)
    for _ in range(CHAIN):
        if not wanted:
            break
        loaded = await unit.people.many(set(wanted.values()))
        following: dict[str, str] = {}
        for person_id, heir_id in wanted.items():
            entry = loaded.get(heir_id)
            if entry is None:
                continue
            heir = entry[0]
            if state_at(heir, at) is not PersonState.LEFT and heir.id != person_id:
                found[person_id] = heir
            elif heir.manager_id and heir.manager_id != heir_id:
                following[person_id] = heir.manager_id
        wanted = following
    return found


def check_successor(heir: Person, people: Mapping[str, Person], at: datetime) -> None:
    if heir.id in people:
        raise InvalidInput(
            f"{full_name(heir)} cannot take over from themselves.",
            place="successor",
            remedy="Name somebody else.",
        )
    if state_at(heir, at) is PersonState.LEFT:
        raise InvalidInput(
            f"{full_name(heir)} (no. {heir.employee_number}) has left or will have left by then "
            "and cannot take over.",
            place="successor",
            remedy="Name somebody who stays, or leave the successor out to use the manager.",
        )


def with_account_ids(plan: Plan) -> Plan:
    """The plan with an id for each account that is to be created, the same for all its steps."""
    fresh: dict[str, str] = {}
    steps: list[PlannedStep] = []
    for step in plan.steps:
        if not step.account_id:
            account = fresh.setdefault(step.application_id, str(uuid.uuid4()))
            step = replace(step, account_id=account)
        steps.append(step)
    steps = [_with_new(s, fresh.get(s.application_id, "")) for s in steps]
    return replace(plan, steps=tuple(steps))


def _with_new(step: PlannedStep, made: str) -> PlannedStep:
    """A step that names the account to be made, with that account's id."""
    said = step.arguments
    if said.to_account == TO_BE_MADE:
        said = replace(said, to_account=made)
    if said.replaced_by == TO_BE_MADE:
        said = replace(said, replaced_by=made)
    return step if said is step.arguments else replace(step, arguments=said)


async def observe_all(
    database: Database,
    connectors: Connectors,
    known: Known,
    at: datetime,
    *,
    concurrency: int = 32,
) -> tuple[dict[str, str], int]:
    """Look at every account of some people in the applications and store what is seen.

    Returns the applications that did not answer with what they said, and how many accounts were
    seen. What could not be seen stays as last known.
    """
    gate = asyncio.Semaphore(concurrency)
    silent: dict[str, str] = {}
    fresh: list[Account] = []

    async def look(account: Account) -> None:
        async with gate:
            if account.application_id in silent:
                return
            try:
                connector = await connectors.of(account.application_id)
                ref = AccountRef(account.id, account.external_id, account.login, account.kind)
                seen = await connector.observe(ref, assets=True)
            except ApplicationError as error:
                silent[account.application_id] = error.message
                return
            fresh.append(project(account, seen, at))

    accounts = [a for mine in known.accounts.values() for a in mine]
    await asyncio.gather(
        *(look(a) for a in accounts if a.state is not AccountState.PURGED and a.external_id)
    )
    async with database.unit() as unit:
        await unit.accounts.refresh(sorted(fresh, key=lambda a: a.id), at)
    return silent, len(fresh)
