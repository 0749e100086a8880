"""Dated dockets and obligations as iCalendar (RFC 5545)."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime, timedelta

import icalendar

from yugum import __version__
from yugum.core.obligations import ObligationKind
from yugum.wire import day as wy

WORDS = {
    ObligationKind.CLOSE: "closes",
    ObligationKind.PURGE: "is purged",
    ObligationKind.RECHECK: "is looked at again",
    ObligationKind.REMIND: "term ends soon",
}


def feed(
    entries: Iterable[wy.CalendarEntry], now: datetime, organisation: str, address: str
) -> bytes:
    """A calendar of ``entries``; ``address`` is where Yugum's console is found."""
    made = icalendar.Calendar()
    made.add("prodid", f"-//Yugum//{__version__}//EN")
    made.add("version", "2.0")
    made.add("name", f"Yugum, {organisation}")
    made.add("refresh-interval", timedelta(hours=1))
    for entry in entries:
        event = icalendar.Event()
        event.add("uid", f"{entry.id}@yugum")
        event.add("dtstamp", now)
        event.add("dtstart", entry.at)
        event.add("duration", timedelta(minutes=15))
        event.add("summary", title(entry))
        if entry.text:
            event.add("description", entry.text)
        event.add("categories", [entry.kind])
        event.add("transp", "TRANSPARENT")
        if address:
            page = f"dockets/{entry.number}" if entry.number else f"people/{entry.person_id}"
            event.add("url", f"{address.rstrip('/')}/{page}")
        made.add_component(event)
    return bytes(made.to_ical())


def title(entry: wy.CalendarEntry) -> str:
    """``Leaver: Ada Vik (MS-204)`` or ``Ada Vik: Crew rosters closes``."""
    if entry.number:
        return f"{entry.kind.capitalize()}: {entry.display_name} ({entry.number})"
    what = f"{entry.application_name} " if entry.application_name else ""
    return f"{entry.display_name}: {what}{WORDS[ObligationKind(entry.kind.value)]}"
