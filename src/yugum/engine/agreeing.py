"""Who is to agree before they take something over, as somebody's standing is looked at."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime, timedelta

from yugum.core.desired import Subject, World
from yugum.core.handover import to_agree
from yugum.ports.units import UnitOfWork


async def want(
    unit: UnitOfWork, subjects: Mapping[str, Subject], world: World, now: datetime
) -> None:
    """Have everybody asked who is to take something over from those who leave soon or have left; whoever is not to any
    more is not asked."""
    leaving = {i: s for i, s in subjects.items() if s.person.access_ends is not None}
    wanted = []
    if (ask := world.rules.handover.ask) is not None:
        for subject in leaving.values():
            ends = subject.person.access_ends or now
            if ends <= now + timedelta(days=ask.ahead_days):
                wanted += to_agree(subject, max(now, ends))
    if wanted or any(s.takeovers for s in leaving.values()):
        await unit.takeovers.want(wanted, list(leaving), now)
