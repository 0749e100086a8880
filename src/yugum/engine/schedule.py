"""What falls due: dated obligations are called so, sleeping subjects wake, lost leases come back."""

from __future__ import annotations

from collections.abc import Awaitable, Callable, Mapping
from datetime import datetime, timedelta

from yugum.engine.seats import today
from yugum.ports.units import Database, UnitOfWork
from yugum.settings import Settings

PORTION = 500
PATROL = timedelta(days=1)
"""How often everybody is looked at again, in case a mark was missed."""
REPLY_HOURS = 48
"""How long a repeated request gets the first one's reply."""
Remind = Callable[[UnitOfWork, Mapping[str, str], datetime], Awaitable[None]]
"""Tells whoever is concerned of what comes, by person: a fixed term ends, a precaution is reviewed."""


async def tick(database: Database, now: datetime, remind: Remind) -> int:
    """Make everything due at a business moment visible to the workers; returns how much it was.

    Safe to run in any number of processes at once and as often as one likes.
    """
    found = 0
    while True:
        async with database.unit() as unit:
            due = await unit.obligations.fall_due(now, PORTION)
            reminded = await unit.obligations.reminders(now, PORTION)
            if reminded:
                await remind(unit, reminded, now)
        found += due + len(reminded)
        if max(due, len(reminded)) < PORTION:
            break
    async with database.unit() as unit:
        found += await unit.standing.mark_ended(now)
        await unit.standing.patrol(now, PATROL)
        found += await unit.leases.recover()
        await unit.seats.terms(await today(unit, now), now)
        await unit.seats.serve(asleep=True)  # whoever could not be woken when a seat came free
        found += await unit.leases.wake_due(now)
        found += await unit.leases.due_now()
    return found


async def tidy(database: Database, settings: Settings, now: datetime) -> None:
    """Forget what nobody asks for any more: attempts that count no longer, replies kept long enough.

    Then what lists are read from is put right: names alike, tallies, and who left with nothing open.
    """
    async with database.unit() as unit:
        await unit.operators.forget_old(settings.sign_in_minutes)
        await unit.idempotency.forget_old(REPLY_HOURS)
    async with database.unit() as unit:
        await unit.findings.compare_names()
        await unit.seats.mark_over()
        await unit.views.gather()
    put_aside = -1
    while put_aside:
        async with database.unit() as unit:
            put_aside = await unit.findings.put_aside(now)
