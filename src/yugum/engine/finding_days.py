"""Keeping how many findings there are, day by day: what was cannot be worked out afterwards."""

from __future__ import annotations

from datetime import datetime

from yugum.core.licenses import pairs
from yugum.engine.context import load_rules
from yugum.engine.seats import today
from yugum.ports.units import Database


async def count_today(database: Database, now: datetime, *, again: bool = False) -> None:
    """Count today's findings and keep how many there are: once a day, or ``again``.

    Any number of processes do it; the one that counts last on a day is right about it.
    """
    async with database.unit(alone=True) as unit:
        day = await today(unit, now)
        if not again and await unit.findings.is_kept(day):
            return
        known = pairs((await load_rules(unit)).licenses)
        counts = await unit.findings.counts(now, priced=False, pairs=known)
        await unit.findings.keep_counts(day, counts)
