"""Dockets about nothing but the attributes of somebody's accounts."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from yugum.ports.units import UnitOfWork


async def bring_in_step(
    unit: UnitOfWork, person_ids: Sequence[str], reason: str, now: datetime, author: str
) -> None:
    """A docket for each, at once, that brings what is kept in step to what the person's data say.

    One that finds nothing to do leaves nothing behind.
    """
    if person_ids:
        await unit.dockets.schedule_updates(person_ids, now, author, reason)
        await unit.leases.make_subjects(person_ids)
        await unit.leases.wake(person_ids, priority=5)
        await unit.hint()
