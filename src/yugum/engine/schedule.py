"""What falls due: dated obligations become dockets, sleeping subjects wake, lost leases come back."""

from __future__ import annotations

from collections.abc import Awaitable, Callable, Sequence
from dataclasses import replace
from datetime import datetime

from yugum.core.obligations import ObligationKind, ObligationState
from yugum.engine.obligations import renew_obligations
from yugum.ports.obligations import Obligation
from yugum.ports.units import Database, UnitOfWork

PORTION = 500
Remind = Callable[[UnitOfWork, Sequence[str], datetime], Awaitable[None]]
"""Tells the managers of some people that a fixed term ends."""


async def tick(database: Database, now: datetime, remind: Remind) -> int:
    """Make everything due at a business moment visible to the workers; returns how much it was.

    Safe to run in any number of processes at once and as often as one likes.
    """
    found = 0
    while True:
        async with database.unit() as unit:
            due = await unit.obligations.due(now, PORTION)
            if due:
                dockets = [o for o in due if o.kind is not ObligationKind.REMIND]
                await unit.dockets.schedule(_one_each(dockets), now, "schedule")
                await unit.obligations.settle([o.id for o in due], ObligationState.DONE)
                if reminded := [o.subject_id for o in due if o.kind is ObligationKind.REMIND]:
                    await remind(unit, reminded, now)
                    await renew_obligations(unit, reminded, now)
            found += len(due)
        if len(due) < PORTION:
            break
    async with database.unit() as unit:
        found += await unit.leases.recover()
        found += await unit.leases.wake_due(now)
        found += await unit.leases.due_now()
    return found


def _one_each(due: Sequence[Obligation]) -> list[Obligation]:
    """Dockets get ids of their own: an obligation's id stays the obligation's."""
    return [replace(o, id="") for o in due]
