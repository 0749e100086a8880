"""Keeping the dated obligations of subjects in step with what is known of them."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from yugum.core.obligations import owed
from yugum.engine.context import load_subjects, load_world
from yugum.ports import Obligation, UnitOfWork


async def renew_obligations(unit: UnitOfWork, subject_ids: Sequence[str], now: datetime) -> None:
    """Make the open obligations of subjects those that are owed as things stand."""
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
