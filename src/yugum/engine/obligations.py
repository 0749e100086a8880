"""Keeping the dated obligations of subjects in step with what is known of them."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from yugum.core.desired import Subject, World
from yugum.core.obligations import ObligationKind, owed
from yugum.engine.context import load_subjects, load_world
from yugum.ports.obligations import Obligation
from yugum.ports.units import Database, UnitOfWork

PORTION = 500


async def follow_rules(database: Database, now: datetime) -> bool:
    """Renew the obligations of some more people under new rules; False when none are left.

    The place is kept in the database, so that any worker goes on where another one stopped.
    """
    async with database.unit() as unit:
        found = await unit.rules.to_renew()
        if found is None:
            return False
        version, after = found
        ids = await unit.population.ids_after(after, PORTION)
        if ids:
            await renew_obligations(unit, ids, now)
        await unit.rules.renewed(version, ids[-1] if len(ids) == PORTION else None)
        return len(ids) == PORTION


async def renew_obligations(
    unit: UnitOfWork, subject_ids: Sequence[str], now: datetime
) -> tuple[dict[str, Subject], World]:
    """Make the open obligations of subjects those that are owed as things stand.

    Returns the subjects and the world as they were loaded for it.
    """
    known = await unit.accounts.known(subject_ids)
    world = await load_world(unit)
    subjects = await load_subjects(unit, dict(known.people), known, now)
    due = [
        Obligation(
            subject_id=i,
            account_id=o.account_id or None,
            kind=o.kind,
            due_at=o.due,
            basis=o.basis,
        )
        for i, subject in subjects.items()
        for o in owed(subject, world, now)
    ]
    await unit.obligations.replace(subject_ids, due)
    return subjects, world


async def look_again(
    unit: UnitOfWork, subject_ids: Sequence[str], now: datetime, author: str, basis: str
) -> None:
    """A docket for each subject, at once, with whatever the rules say now."""
    due = [
        Obligation(
            subject_id=i, account_id=None, kind=ObligationKind.RECHECK, due_at=now, basis=basis
        )
        for i in subject_ids
    ]
    await unit.dockets.schedule(due, now, author)
    await unit.leases.wake(subject_ids, priority=6)
