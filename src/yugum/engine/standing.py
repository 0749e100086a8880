"""Keeping what is owed in step with the state: marks are worked off, whoever made the change.

Nothing else writes rights and obligations; a docket's end has no say. One look is one transaction, any
number of workers do it side by side.
"""

from __future__ import annotations

import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

import structlog

from yugum.core.actions import GONE
from yugum.core.desired import Subject, World, hold_on
from yugum.core.lines import NOTHING, Hand, Key, Line
from yugum.core.obligations import ObligationKind
from yugum.core.outlived import outlived
from yugum.core.people import Person
from yugum.core.rights import Turn, first_so, then
from yugum.core.standing import keys, standing
from yugum.core.verbs import WHOLE, Verb
from yugum.engine.agreeing import want
from yugum.engine.context import load_subjects, load_world
from yugum.engine.keepers import tell_keepers
from yugum.engine.obligations import settle
from yugum.engine.rights import Moments, load_entitled, with_rights
from yugum.engine.together import shape_of, together
from yugum.ports.accounts import Known
from yugum.ports.clock import Clock
from yugum.ports.obligations import Obligation
from yugum.ports.standing import Head
from yugum.ports.units import Database, UnitOfWork

log = structlog.get_logger("yugum.standing")

PORTION = 1000
SWEPT = 500
MOST = 500
"""While so many marks wait, no more of a change for many are added: a single one never stands behind."""


@dataclass(frozen=True, slots=True)
class Stand:
    """The lines of a subject as they are now, as they are stored, and what is in hand."""

    lines: Sequence[Line]
    before: Mapping[Key, Line]
    hand: Hand


async def look(database: Database, clock: Clock) -> int:
    """Look at some subjects that have a mark; how many it were."""
    async with database.unit() as unit:
        heads = await unit.standing.take(PORTION)
        if not heads:
            return 0
        now = await clock.now(unit)
        world = await load_world(unit)
        alike = await together(unit, heads, world, now)
        rest = {i: head for i, head in heads.items() if i not in alike}
        subjects, moments, changed = await load_entitled(unit, rest, world, now)
        await unit.standing.put_rights(changed)
        differed = await settle(unit, subjects, world, now)
        found = await _stands(unit, subjects, moments, world, now)
        differed |= await _compare(unit, found)
        await _let_go_on(unit, subjects, found, world, now)
        await _leave_lines(unit, found, list(heads), now)
        await _leave_outlived(unit, subjects, found, world, now)
        await want(unit, subjects, world, now)
        leaving = {i: (s.person, s.mentions) for i, s in subjects.items() if s.mentions}
        await tell_keepers(unit, leaving, now)
        if missed := [i for i in differed if heads[i].patrol and heads[i].upto is not None]:
            log.warning("a mark was missed", subjects=len(missed), first=missed[0])
            await unit.standing.count_faults(len(missed))
        if gone := rest.keys() - subjects.keys():
            await unit.standing.forget(gone)
        looked = [
            Head(subject_id=i, upto=now, shape=shape_of(s, now), leans_on=_leans_on(s))
            for i, s in subjects.items()
        ]
        await unit.standing.put_heads([*looked, *alike.values()])
    return len(heads)


async def sweep(database: Database) -> bool:
    """Mark some more people of a change for many; whether there may be more."""
    async with database.unit() as unit:
        return await unit.standing.sweep(SWEPT, MOST)


async def stands(
    unit: UnitOfWork, person: Person, known: Known, world: World, now: datetime
) -> tuple[Subject, Stand]:
    """One person and how they stand this moment, whether or not a mark is worked off."""
    loaded = await load_subjects(unit, {person.id: person}, known, now, world.rules)
    subjects, moments, _ = await with_rights(unit, loaded, world, now)
    found = await _stands(unit, subjects, moments, world, now)
    return subjects[person.id], found[person.id]


async def _stands(
    unit: UnitOfWork,
    subjects: Mapping[str, Subject],
    moments: Moments,
    world: World,
    now: datetime,
) -> dict[str, Stand]:
    """How subjects stand, each line with since when."""
    ids = list(subjects)
    hands, stored = await unit.standing.stood(ids, now)
    result = {}
    for i, subject in subjects.items():
        hand = hands.get(i, NOTHING)
        before = stored.get(i, {})
        found = standing(subject, world, hand, now)
        new = any(line.key not in before for line in found)
        earlier = [(t, keys(then(subject, t), world, t.at)) for t in moments[i]] if new else ()
        there = {a.id for a in subject.accounts if a.state not in GONE}
        unmade = {_unmade(k): line for k, line in before.items() if k[1] not in there}
        for line in found:
            was = before.get(line.key) if before else None
            if was is None and unmade and line.account_id not in there:
                was = unmade.get(_unmade(line.key))  # whichever is made, or comes back
            line.since = _since(line, was, earlier, now)
        result[i] = Stand(found, before, hand)
    return result


def _since(
    line: Line,
    was: Line | None,
    earlier: Sequence[tuple[Turn, set[Key]]],
    now: datetime,
) -> datetime:
    """Since when a line stands: as stored, else since the first of the moments that shows it."""
    if was is not None and was.since is not None:
        return was.since
    if not earlier:
        return now
    key = line.key
    return first_so([(t, key in shown or _unmade(key) in shown) for t, shown in earlier], now).at


def _unmade(key: Key) -> Key:
    """A line's key as it is before the account that it is about is there."""
    return (key[0], "", *key[2:])


async def _let_go_on(
    unit: UnitOfWork,
    subjects: Mapping[str, Subject],
    found: Mapping[str, Stand],
    world: World,
    now: datetime,
) -> None:
    """What waited for the end of a hold goes on with it."""
    free = []
    for i, stand in found.items():
        accounts = {a.id: a for a in subjects[i].accounts}
        for step in stand.hand.steps:
            account = accounts.get(step.account_id)
            if account is not None and step.problem is not None and step.problem.code == "held":
                free += [step] if hold_on(subjects[i], world, account, now) is None else []
    if free:
        await unit.dockets.let_go_on([s.id for s in free])
        await unit.leases.wake_free({s.subject_id for s in free})
        await unit.hint()


async def _leave_lines(
    unit: UnitOfWork, found: Mapping[str, Stand], looked: Sequence[str], now: datetime
) -> None:
    """Who needs no seat any more gives up the place in line, and the next are served."""
    gone, whose = [], set()
    for i, stand in found.items():
        named = {line.step_id for line in stand.lines}
        for step in stand.hand.steps:
            waits = step.problem is not None and step.problem.code == "no-seat"
            theirs = step.verb in WHOLE or step.verb is Verb.UNDO
            if waits and theirs and step.id not in named:
                gone.append(step.id)
                whose.add(i)
    if gone:
        await unit.dockets.leave_out(gone, "It is not due any more.", now)
        await unit.leases.wake_free(whose)
    given_up = await unit.seats.give_up(looked, now)
    if given_up:
        await unit.seats.serve()
    if gone or given_up:
        await unit.hint()


async def _leave_outlived(
    unit: UnitOfWork,
    subjects: Mapping[str, Subject],
    found: Mapping[str, Stand],
    world: World,
    now: datetime,
) -> None:
    """What an undo has left to give and nothing gives any more is not given, however late it comes.

    Nor is what a closing has left to do done to an account that something gives again.
    """
    some = [
        i
        for i, stand in found.items()
        if stand.hand.steps and outlived(subjects[i], world, stand.hand.steps, now)
    ]
    if not some:
        return
    # Who somebody is was read before their steps: a docket that began in between changed both.
    known = await unit.accounts.known(some)
    again = await load_subjects(unit, dict(known.people), known, now, world.rules)
    gone = {i: outlived(again[i], world, found[i].hand.steps, now) for i in some if i in again}
    if steps := [step for steps in gone.values() for step in steps]:
        await unit.dockets.leave_out(steps, "It is not due any more.", now)
        await unit.leases.wake_free([i for i, some in gone.items() if some])
        await unit.hint()


async def _compare(unit: UnitOfWork, stands: Mapping[str, Stand]) -> set[str]:
    """Store the lines of subjects where they differ from what is stored; of whom they do."""
    new: list[tuple[str, Line]] = []
    changed: list[tuple[str, Line]] = []
    gone: list[tuple[str, Key]] = []
    for i, stand in stands.items():
        found = {line.key: line for line in stand.lines}
        for key, line in found.items():
            if key not in stand.before:
                new.append((i, line))
            elif line != stand.before[key]:
                changed.append((i, line))
        gone += [(i, key) for key in stand.before.keys() - found.keys()]
    await unit.standing.put_lines(new, changed, gone)
    return {i for i, _ in (*new, *changed, *gone)}


def _leans_on(subject: Subject) -> str | None:
    """Whose state was read for this one: whoever takes over, else whoever would."""
    if subject.successor is not None:
        return subject.successor.person.id
    return subject.person.manager_id


async def look_again(
    unit: UnitOfWork,
    subject_ids: Sequence[str],
    now: datetime,
    author: str,
    basis: str,
    *,
    priority: int = 6,
) -> None:
    """A docket for each subject, at once, with whatever the rules say now."""
    due = [
        Obligation(
            id="",
            subject_id=i,
            account_id=i,
            kind=ObligationKind.RECHECK,
            due_at=now,
            basis=basis,
            docket_id=str(uuid.uuid4()),
        )
        for i in subject_ids
    ]
    await unit.dockets.schedule(due, now, author)
    await unit.leases.wake(subject_ids, priority=priority)
