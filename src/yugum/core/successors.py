"""Who can take over from somebody at a moment."""

from __future__ import annotations

from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from yugum.core.people import Person, PersonState, state_at

STAYS_DAYS = timedelta(days=7)
"""Whoever leaves sooner than this takes nothing over."""


def unfit(heir: Person, at: datetime) -> str:
    """Why somebody cannot take over at a moment; "" if they can."""
    match state_at(heir, at):
        case PersonState.LEFT:
            return "has left by then"
        case PersonState.EXPECTED:
            return "has not begun"
        case PersonState.ABSENT:
            return "is absent"
    if heir.access_ends is not None and heir.access_ends < at + STAYS_DAYS:
        there = heir.access_ends.astimezone(ZoneInfo(heir.time_zone))
        return f"leaves on {there:%-d %b %Y}"
    return ""
