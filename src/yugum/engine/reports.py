"""Who reported to somebody who leaves reports to somebody else from then on, and back by an undo."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import datetime

from yugum.core.dockets import Docket
from yugum.core.facts import taken_back
from yugum.core.people import Person, PersonState, state_at
from yugum.core.roles import STAY, Rules
from yugum.core.verbs import Verb
from yugum.engine.changes import fact_of, store_changes
from yugum.engine.context import load_rules
from yugum.engine.in_step import bring_in_step
from yugum.engine.managers import manager_of
from yugum.errors import Ambiguous, NotFound
from yugum.ports.units import UnitOfWork


async def heirs_of(
    unit: UnitOfWork, leavers: Sequence[Person], rules: Rules, now: datetime
) -> dict[str, Person | None]:
    """Who becomes the manager of those who report to some leavers; who is not named keeps theirs."""
    said = rules.procedure(Verb.LEAVER).reports_to
    if said == STAY:
        return {}
    if said:
        try:
            named = await unit.people.resolve(said)
        except (NotFound, Ambiguous):
            named = None
        if named is not None and state_at(named, now) is not PersonState.LEFT:
            return {p.id: named for p in leavers if p.id != named.id}
    return {p.id: await manager_of(unit, p, now) for p in leavers}


async def hand_reports(
    unit: UnitOfWork, dockets: Sequence[Docket], author: str, now: datetime
) -> None:
    """With the leaving of their manager people get the next one, in every application as well."""
    reports = await unit.people.reports_of([d.subject_id for d in dockets], now)
    if not reports:
        return
    whose = {d.subject_id: d for d in dockets}
    managers = {str(p.manager_id) for p in reports}
    leavers = [p for p, _ in (await unit.people.many(managers)).values()]
    heirs = await heirs_of(unit, leavers, await load_rules(unit), now)
    changes = {}
    for person in reports:
        leaver = str(person.manager_id)
        heir = heirs.get(leaver)
        if leaver in heirs and (heir is None or heir.id != person.id):
            changes[whose[leaver].id, person] = replace(
                person, manager_id=heir.id if heir else None
            )
    await _store(unit, changes, author, "their manager leaves", now)


async def reports_back(
    unit: UnitOfWork, undone: Mapping[str, str], author: str, now: datetime
) -> None:
    """What leaving changed about those who reported is taken back; ``undone`` by the undo's id."""
    for docket_id, before in undone.items():
        facts = await unit.dockets.facts_of_others(before)
        people = await unit.people.many([f.person_id for f in facts])
        changes = {}
        for fact in facts:
            person = people[fact.person_id][0]
            changes[docket_id, person] = taken_back(person, fact.before, fact.after)
        await _store(unit, changes, author, "their manager is back", now)


async def _store(
    unit: UnitOfWork,
    changes: Mapping[tuple[str, Person], Person],
    author: str,
    reason: str,
    now: datetime,
) -> None:
    facts = [
        fact_of(before, after, author, reason, now, docket_id=docket_id)
        for (docket_id, before), after in changes.items()
    ]
    facts = [f for f in facts if f.after]
    await store_changes(unit, list(changes.values()), facts, now)
    await bring_in_step(unit, [f.person_id for f in facts], reason, now, author)
