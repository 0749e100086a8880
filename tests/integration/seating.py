"""Seats asked for in the one pool of a test."""

from __future__ import annotations

from datetime import datetime

from yugum.core.licenses import USUAL, License
from yugum.ports.seats import Asked
from yugum.ports.units import UnitOfWork

NOBODY_WAITS = -1


async def claim(
    unit: UnitOfWork,
    account: str,
    who: str,
    at: datetime,
    license: License = USUAL,
    rank: int = 0,
) -> int | None:
    """None where the seat is held now, else the place in line."""
    asked = Asked(
        application_id="crew",
        license="planner",
        account_id=account,
        person_id=who,
        rank=rank,
    )
    got = await unit.seats.claim(asked, license, at)
    return None if got.held else got.place or NOBODY_WAITS
