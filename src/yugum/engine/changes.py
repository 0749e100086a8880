"""What comes with a docket: changes of people, recorded as facts, and decisions."""

from __future__ import annotations

import uuid
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from yugum.core.causes import Cause
from yugum.core.decisions import closed_since
from yugum.core.facts import Fact, Fields, difference, taken_back, with_fields
from yugum.core.people import Person
from yugum.engine.events import make_event
from yugum.ports.units import UnitOfWork

NOT_AGREED, CANCELLED = "nobody agreed to it", "the docket was cancelled"
TAKEN_BACK = (NOT_AGREED, CANCELLED)
"""Why somebody is looked at whose leaving was taken back."""


@dataclass(frozen=True, slots=True)
class Change:
    """Fields of somebody that change with a docket, and when that came true."""

    docket_id: str
    fields: Fields
    effective: datetime


def fact_of(
    before: Person,
    after: Person,
    author: str,
    reason: str,
    now: datetime,
    *,
    names: Iterable[str] | None = None,
    docket_id: str | None = None,
) -> Fact:
    """What differs between two states of somebody, of all fields or some, as it is written down."""
    was, becomes = difference(before, after, names)
    return Fact(
        id=str(uuid.uuid4()),
        person_id=after.id,
        effective_at=now,
        known_at=now,
        before=was,
        after=becomes,
        author=author,
        reason=reason,
        docket_id=docket_id,
    )


async def store_changes(
    unit: UnitOfWork, after: Sequence[Person], facts: Sequence[Fact], now: datetime
) -> None:
    """People as they are from now on, with what is written down about it; nothing for no facts."""
    if not facts:
        return
    await unit.people.change(after)
    await unit.people.record(facts)
    await unit.audit.add(
        [
            make_event(
                now,
                f.author,
                "person.changed",
                f.person_id,
                {"before": dict(f.before), "after": dict(f.after)},
                f.docket_id,
            )
            for f in facts
        ]
    )


async def apply_changes(
    unit: UnitOfWork, changes: Mapping[str, Change], author: str, reason: str, now: datetime
) -> None:
    """Record facts about people, by person."""
    if not changes:
        return
    people = await unit.people.many(list(changes))
    after, facts = [], []
    for person_id, change in changes.items():
        before = people[person_id][0]
        person = with_fields(before, change.fields)
        after.append(person)
        names = {*change.fields, "display_name"}
        fact = fact_of(before, person, author, reason, now, names=names, docket_id=change.docket_id)
        facts.append(replace(fact, effective_at=change.effective))
    await unit.people.change(after)
    await unit.people.record(facts)


async def take_back(unit: UnitOfWork, docket_id: str, now: datetime) -> tuple[Fields, Fields]:
    """Take back what came with a docket that does not happen; the fields before and after it.

    What somebody changed since stays.
    """
    found = await unit.dockets.by_name(docket_id)
    person = (await unit.people.many([found.subject_id]))[found.subject_id][0]
    after = person
    for fact in await unit.dockets.facts(docket_id):
        after = taken_back(after, fact.before, fact.after)
    was, becomes = difference(person, after)
    if becomes:
        await unit.people.change([after])
    if "access_ends" in becomes:
        made = await unit.decisions.in_force(person.id, now)
        over = [d.id for d in closed_since(made, person.access_ends)]
        await unit.decisions.end_some(over, now)
    await unit.decisions.end_of_docket(docket_id, now)
    return was, becomes


async def end_over(unit: UnitOfWork, cause: Cause, now: datetime) -> None:
    """End the decisions that were about the time before somebody left; a second time ends nothing."""
    if cause.over:
        await unit.decisions.end_some(cause.over, now)


async def put_decisions(unit: UnitOfWork, cause: Cause, docket_id: str, now: datetime) -> None:
    """Store the decisions that come with a docket; a second time changes nothing."""
    for decision in cause.decisions:
        await unit.decisions.put(decision, now, docket_id)
