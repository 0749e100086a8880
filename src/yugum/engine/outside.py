"""Attributes that were changed in an application: put back, taken over, or asked about.

The rules say which. What is put back or taken over begins at once as a docket of its own, about attributes
only; a tug-of-war, and a change of very many, ends with a question.
"""

from __future__ import annotations

import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import timedelta

from yugum.core.attributes import MOST_TIMES, SOLE, Made, Outside, attributes_wanted
from yugum.core.desired import Subject
from yugum.core.deviations import Deviation, DeviationKind, DeviationState
from yugum.core.facts import with_fields
from yugum.core.people import PersonState, state_at
from yugum.engine.changes import fact_of, store_changes
from yugum.engine.context import load_rules, load_subjects
from yugum.engine.in_step import bring_in_step
from yugum.engine.progress import Progress
from yugum.ports.accounts import Known
from yugum.ports.deviations import SeenDeviation
from yugum.ports.readings import KnownAccount, Sighting
from yugum.ports.units import UnitOfWork
from yugum.wire.common import READ_AS
from yugum.wire.texts import one_line

LATELY = timedelta(days=1)
AT_ONCE = 50
"""Attributes that one reading puts back or takes over; of more somebody is asked."""
RULES = "rules"


@dataclass(frozen=True, slots=True)
class _Changed:
    """One attribute of one account as somebody changed it in the application."""

    account_id: str
    person_id: str
    name: str
    was: str
    now_is: str
    made: Made


async def attributes_changed(
    unit: UnitOfWork,
    progress: Progress,
    seen: Sequence[tuple[Sighting, KnownAccount]],
) -> int:
    """Decide about attributes kept in step that were changed outside; how many they are.

    ``seen`` are accounts as they were stored just now, each with what was known before.
    """
    application = progress.application
    in_step = progress.rules.in_step(application)
    if not in_step or application.profile.comes_from:
        return 0
    differ = [
        (now, before)
        for now, before in seen
        if now.person_id
        and before.settings.keys() & application.attributes.keys()
        and any(before.settings.get(n, "") != now.seen.settings.get(n, "") for n in in_step)
    ]
    if not differ:
        return 0
    people = sorted({str(now.person_id) for now, _ in differ})
    known = await unit.accounts.known(people)
    subjects = await load_subjects(
        unit, dict(known.people), known, progress.now, await load_rules(unit)
    )
    changed = [
        c
        for now, before in differ
        for c in _changes(progress, subjects[str(now.person_id)], now, before)
        if c.name in in_step
    ]
    ways = await _ways(unit, progress, changed)
    await _write_down(unit, progress, changed, ways)
    await _take_over(unit, progress, known, [c for c in changed if ways[c] is Outside.TAKE_OVER])
    again = list(dict.fromkeys(c.person_id for c in changed if ways[c] is not Outside.ASK))
    await bring_in_step(unit, again, f"changed in {application.name}", progress.now, RULES)
    return len(changed)


def _changes(
    progress: Progress, subject: Subject, now: Sighting, before: KnownAccount
) -> list[_Changed]:
    """What differs from before and from what the person's data say."""
    application = progress.application
    if state_at(subject.person, progress.now) is PersonState.LEFT:
        return []
    wanted = attributes_wanted(
        subject.person,
        subject.boss(application.id),
        progress.rules.recipes(application),
    )
    found = []
    for name, value, one in wanted:
        was, now_is = before.settings.get(name, ""), now.seen.settings.get(name, "")
        if was != now_is and now_is != value:
            found.append(_Changed(now.id, subject.person.id, name, was, now_is, one.made))
    return found


async def _ways(
    unit: UnitOfWork, progress: Progress, changed: Sequence[_Changed]
) -> Mapping[_Changed, Outside]:
    """What becomes of each change: what the rules say, unless it came too often or of too many."""
    since = progress.now - LATELY
    times = await unit.deviations.times({c.account_id for c in changed}, since)
    ways = {}
    for one in changed:
        way = one.made.outside
        if way is Outside.TAKE_OVER and not one.now_is:
            way = Outside.PUT_BACK  # nobody's data are emptied by an application
        if way is Outside.TAKE_OVER and not _readable(one):
            way = Outside.ASK
        if times.get((one.account_id, one.name), 0) >= MOST_TIMES:
            way = Outside.ASK
        if way is not Outside.ASK:
            if progress.in_step >= AT_ONCE:
                way = Outside.ASK
            progress.in_step += 1
        ways[one] = way
    return ways


def _readable(one: _Changed) -> bool:
    """Whether what was written there can be a field of a person."""
    try:
        READ_AS.get(SOLE[one.made.of], one_line)(one_line(one.now_is))
    except ValueError:
        return False
    return len(one.now_is) <= 300


async def _write_down(
    unit: UnitOfWork,
    progress: Progress,
    changed: Sequence[_Changed],
    ways: Mapping[_Changed, Outside],
) -> None:
    states = {
        Outside.ASK: DeviationState.OPEN,
        Outside.PUT_BACK: DeviationState.REVERTED,
        Outside.TAKE_OVER: DeviationState.KEPT,
    }
    for way, state in states.items():
        found = [
            SeenDeviation(
                id=str(uuid.uuid4()),
                application_id=progress.application.id,
                account_id=c.account_id,
                change=Deviation(DeviationKind.ATTRIBUTE, c.name, c.was, c.now_is),
                seen_at=progress.now,
            )
            for c in changed
            if ways[c] is way
        ]
        await unit.deviations.add(found, state, "" if way is Outside.ASK else RULES)


async def _take_over(
    unit: UnitOfWork, progress: Progress, known: Known, changed: Sequence[_Changed]
) -> None:
    """The person's data follow what was written in the application."""
    fields: dict[str, dict[str, str]] = {}
    for one in changed:
        fields.setdefault(one.person_id, {})[SOLE[one.made.of]] = one.now_is
    after = [with_fields(known.people[i], said) for i, said in fields.items()]
    reason = f"taken over from {progress.application.name}"
    facts = [fact_of(known.people[p.id], p, RULES, reason, progress.now) for p in after]
    await store_changes(unit, after, facts, progress.now)
