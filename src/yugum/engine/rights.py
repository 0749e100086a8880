"""Since when accounts are given, and until when they were: as stored, and as it stands now."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace
from datetime import UTC, datetime

from yugum.core.decisions import Right
from yugum.core.desired import Subject, World
from yugum.core.rights import Turn, rights, turns, with_persons
from yugum.engine.context import load_subjects
from yugum.ports.units import UnitOfWork

BEGINNING = datetime.min.replace(tzinfo=UTC)
Moments = Mapping[str, Sequence[Turn]]
"""When something about each of some subjects changed since they were looked at."""


async def load_entitled(
    unit: UnitOfWork, subject_ids: Collection[str], world: World, now: datetime
) -> tuple[dict[str, Subject], Moments, list[Right]]:
    """`with_rights` of subjects by their ids."""
    known = await unit.accounts.known(list(subject_ids))
    loaded = await load_subjects(unit, dict(known.people), known, now, world.rules)
    return await with_rights(unit, loaded, world, now)


async def with_rights(
    unit: UnitOfWork,
    loaded: Mapping[str, Subject],
    world: World,
    now: datetime,
) -> tuple[dict[str, Subject], Moments, list[Right]]:
    """Subjects with their rights, when they changed, and which rights are new or have ended."""
    accounts = [a.id for s in loaded.values() for a in s.accounts]
    stored, told = await unit.standing.entitled(loaded.keys(), accounts)
    subjects, every, changed = {}, dict[str, Sequence[Turn]](), []
    for i, subject in loaded.items():
        mine = {a.id: stored[a.id] for a in subject.accounts if a.id in stored}
        subject = replace(subject, rights=mine, end_known_at=told.end_known_at.get(i))
        facts = told.turns.get(i, ())
        said = told.said.get(i, ())
        moments = turns(subject, world, facts, told.upto.get(i), now)
        moments = with_persons(moments, said, subject.person)
        every[i] = moments
        if i not in told.upto:
            whole = turns(subject, world, facts, BEGINNING, now, told.made_at.get(i))
            every[i] = with_persons(whole, said, subject.person)
        found = {r.account_id: r for r in rights(subject, world, moments, now)}
        changed += [r for r in found.values() if r != mine.get(r.account_id)]
        subjects[i] = replace(subject, rights={**mine, **found})
    return subjects, every, changed
