"""Loading what the planner reads: the world once, and many subjects in a handful of statements."""

from __future__ import annotations

import asyncio
import uuid
from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import datetime
from functools import lru_cache

from yugum.core.accounts import Account, AccountState
from yugum.core.actions import TO_BE_MADE
from yugum.core.applications import NO_CHANGE, Application, with_profile
from yugum.core.decisions import LedgerKey, Origin
from yugum.core.desired import Subject, Successor, World
from yugum.core.dockets import Inputs
from yugum.core.handover import COPIES
from yugum.core.people import Person
from yugum.core.plans import Plan, PlannedStep
from yugum.core.projection import project
from yugum.core.roles import Reach, Rules
from yugum.engine.heirs import heirs_of
from yugum.engine.promises import promises
from yugum.errors import ApplicationError
from yugum.ports.accounts import Known
from yugum.ports.connectors import AccountRef, Connectors
from yugum.ports.grounds import Adopted
from yugum.ports.rules import RulesVersion
from yugum.ports.units import Database, UnitOfWork
from yugum.wire.rulebook import rules_from
from yugum.wire.rules import RulesDocument

NOBODY: Mapping[str, Person] = {}
NOBODY_NAMED: Mapping[str, str] = {}


async def load_rules(unit: UnitOfWork) -> Rules:
    """The rules in force; none at all are version 0."""
    return await _rules(unit, await unit.rules.current())


async def _rules(unit: UnitOfWork, stored: Adopted | RulesVersion | None) -> Rules:
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
    return _ruled(await unit.applications.all(), await load_rules(unit))


def _ruled(applications: Mapping[str, Application], rules: Rules) -> dict[str, Application]:
    return {i: with_profile(a, rules.profiles.get(i, NO_CHANGE)) for i, a in applications.items()}


async def zone_of(unit: UnitOfWork) -> str:
    """The organisation's time zone."""
    installation = await unit.views.installation()
    return installation.zone if installation else "UTC"


async def load_world(unit: UnitOfWork) -> World:
    """Everything that is the same for everybody, of one moment."""
    grounds = await unit.grounds.load()
    rules = await _rules(unit, grounds.rules)
    return World(
        prefix=grounds.prefix,
        applications=_ruled(grounds.applications, rules),
        rules=rules,
        pools=grounds.pools,
        promises=promises(grounds.reservations, grounds.pools, rules),
        holds=grounds.holds,
    )


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
    at: datetime | Mapping[str, datetime],
    rules: Rules,
    named: Mapping[str, str] = NOBODY_NAMED,
) -> dict[str, Subject]:
    """Subjects for (possibly changed) ``people``, each with its successor, ``named`` by an operator or not.

    ``at`` is the moment at which somebody takes over from them, or each one's by their ids.

    Raises:
        InvalidInput: a successor who is named has left or is among the people.
    """
    moments = at if isinstance(at, Mapping) else dict.fromkeys(people, at)
    found = await heirs_of(unit, people, known, rules, moments, named)
    leaving = [i for i, p in people.items() if p.access_ends is not None]
    mentions = await unit.mentions.of(leaving) if leaving else {}
    takeovers = await unit.takeovers.of(leaving) if leaving else {}
    copying = [
        a.id
        for i in leaving
        if any(d.payload.value == COPIES for d in known.decisions.get(i, ()))
        for a in known.accounts.get(i, ())
    ]
    copies: dict[str, set[tuple[str, str, str]]] = {}
    for copy in await unit.handover.copied(copying) if copying else ():
        copies.setdefault(copy[0], set()).add(copy)
    ledgers: dict[str, dict[LedgerKey, Origin]] = {}
    for key, origin in known.ledger.items():
        ledgers.setdefault(key[0], {})[key] = origin
    bosses = await managers_of(unit, people, found.everybody())
    subjects = {}
    for person_id, person in people.items():
        mine = known.accounts.get(person_id, ())
        subjects[person_id] = Subject(
            person=person,
            accounts=tuple(mine),
            ledger={k: o for a in mine for k, o in ledgers.get(a.id, {}).items()},
            decisions=tuple(known.decisions.get(person_id, ())),
            **found.of(person_id, bosses),
            mentions=tuple(mentions.get(person_id, ())),
            takeovers=takeovers.get(person_id, {}),
            giving=rules.giving(),
            copied=frozenset(c for a in mine for c in copies.get(a.id, ())),
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


def with_account_ids(plan: Plan) -> Plan:
    """The plan with an id for each account that is to be created, the same for all its steps."""
    fresh: dict[str, str] = {}
    steps: list[PlannedStep] = []
    for step in plan.steps:
        if not step.account_id:
            if step.application_id not in fresh:
                fresh[step.application_id] = str(uuid.uuid4())
            step = step.of(fresh[step.application_id])
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
