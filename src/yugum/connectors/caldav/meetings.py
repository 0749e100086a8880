"""What a meeting is, and what becomes of it when its organiser goes (RFC 5545, RFC 5546)."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import UTC, date, datetime, time
from itertools import islice
from typing import Any, cast

from dateutil.rrule import rrulestr
from icalendar import Calendar, Event, vCalAddress, vDDDTypes, vRecur

MOST = 20_000
"""Occurrences of one series that are counted, daily ones of fifty years; one that none of these is ahead of is over."""
LONG_AGO = datetime(1970, 1, 1, tzinfo=UTC)
BEGAN = "X-YUGUM-BEGAN"
"""In a series that goes on with another caller: the UID of the one that it was divided from first."""
ADDRESS = re.compile(r"[^\s@,;:<>\"()\[\]]+@[^\s@,;:<>\"()\[\]]+")


@dataclass(frozen=True, slots=True)
class Who:
    """An organiser: the address with which they invite, and their name."""

    address: str
    name: str


def read(text: str) -> Calendar | None:
    """An object as stored; None for one that cannot be understood: without an event, or one of them without a beginning."""
    try:
        found = Calendar.from_ical(text)
        if not isinstance(found, Calendar) or not _events(found):
            return None
        for event in _events(found):
            _moment(_start(event))
            if "RECURRENCE-ID" in event:
                _to_come(event, LONG_AGO)
    except (ValueError, KeyError, AttributeError, TypeError, IndexError):
        return None  # whoever writes into a calendar may write anything
    return found


def written(calendar: Calendar) -> str:
    text: str = calendar.to_ical().decode()
    return text


def uid_of(calendar: Calendar) -> str:
    return str(_events(calendar)[0].get("UID", ""))


def key_of(calendar: Calendar) -> str:
    """By which a meeting is known: its UID, or that of the series of which it goes on."""
    return str(_master(calendar).get(BEGAN, "")) or uid_of(calendar)


def title(calendar: Calendar) -> str:
    return str(_master(calendar).get("SUMMARY", "")) or "Meeting"


def address_of(value: object) -> str:
    """The address in ``mailto:…``, as it is compared; "" for anything else (RFC 5545 3.3.3)."""
    text = str(value).strip()
    address = text[7:].lower() if text.lower().startswith("mailto:") else ""
    return address if ADDRESS.fullmatch(address) else ""


def organizer(calendar: Calendar) -> str:
    return address_of(_master(calendar).get("ORGANIZER", ""))


def attendees(calendar: Calendar) -> list[str]:
    """Everybody who is invited, the organiser apart, to any of its occurrences."""
    found = {address_of(a): None for e in _events(calendar) for a in _invited(e)}
    return [a for a in found if a and a != organizer(calendar)]


def is_ahead(calendar: Calendar, now: datetime) -> bool:
    """Whether it, or some of it, has still to begin."""
    return next(_ahead(calendar, now), None) is not None


def divided(
    calendar: Calendar, now: datetime, mark: str
) -> tuple[Calendar | None, Calendar | None]:
    """What has been and what is still to come, each on its own.

    A series that has begun becomes two: the one ends before now, the other goes on with the UID of the
    first and ``mark``; what was said of single occurrences stays with whichever has them.
    """
    ahead = next(_ahead(calendar, now), None)
    if ahead is None:
        return calendar, None
    number, following = ahead
    if number == 0:
        return None, calendar
    return _until(calendar, now), _from(calendar, now, number, following, mark)


def given(calendar: Calendar, was: frozenset[str], to: Who, stamp: datetime) -> Calendar:
    """The same with another organiser (RFC 5546 3.2.2.4), who also takes the other's place as an attendee."""
    return _changed(calendar, stamp, lambda event: _give(event, was, to))


def cancelled(calendar: Calendar, stamp: datetime) -> Calendar:
    """The same, called off."""

    def call_off(event: Event) -> None:
        event["STATUS"] = "CANCELLED"

    return _changed(calendar, stamp, call_off)


def without_others(calendar: Calendar) -> str:
    """A copy as a note: nobody is invited to it, and nobody calls it."""
    found = _copy(calendar)
    for event in _events(found):
        for name in ("ORGANIZER", "ATTENDEE"):
            event.pop(name, None)
    return written(found)


def revised(calendar: Calendar, stamp: datetime) -> Calendar:
    """The same as a newer version of itself."""
    return _changed(calendar, stamp, lambda _: None)


def message(calendar: Calendar, method: str) -> str:
    """What goes to those who are invited (RFC 5546 1.4): the same with its method, without alarms."""
    found = _copy(calendar)
    found["METHOD"] = method
    for event in _events(found):
        event.subcomponents = [c for c in event.subcomponents if c.name != "VALARM"]
    return written(found)


# --- of one object ------------------------------------------------------------------------------


def _of(event: Event) -> dict[str, Any]:
    """Its properties; what a value is follows from the property's name (RFC 5545 3.8)."""
    return cast("dict[str, Any]", event)


def _events(calendar: Calendar) -> list[Event]:
    return [c for c in calendar.subcomponents if isinstance(c, Event)]


def _master(calendar: Calendar) -> Event:
    """What says how it is in general; of single occurrences only, the first."""
    events = _events(calendar)
    return next((e for e in events if "RECURRENCE-ID" not in e), events[0])


def _invited(event: Event) -> list[vCalAddress]:
    found = _of(event).get("ATTENDEE", [])
    return found if isinstance(found, list) else [found]


def _copy(calendar: Calendar) -> Calendar:
    found = Calendar.from_ical(calendar.to_ical())
    assert isinstance(found, Calendar)
    return found


def _changed(calendar: Calendar, stamp: datetime, change: Callable[[Event], None]) -> Calendar:
    found = _copy(calendar)
    for event in _events(found):
        change(event)
        event["SEQUENCE"] = int(_of(event).get("SEQUENCE", 0)) + 1
        event["DTSTAMP"] = vDDDTypes(stamp.astimezone(UTC))
    return found


def _give(event: Event, was: frozenset[str], to: Who) -> None:
    if "ORGANIZER" in event and address_of(event["ORGANIZER"]) in was:
        event["ORGANIZER"] = _person(to)
    invited = _invited(event)
    has_one = any(address_of(a) == to.address.lower() for a in invited)
    kept: list[vCalAddress] = []
    for one in invited:
        if address_of(one) not in was:
            kept.append(one)
        elif not has_one:
            kept.append(_person(to, one))
            has_one = True
    if invited:
        event.pop("ATTENDEE", None)
        for one in kept:
            event.add("ATTENDEE", one, encode=False)


def _person(who: Who, like: vCalAddress | None = None) -> vCalAddress:
    found = vCalAddress(f"mailto:{who.address}")
    if like is not None:
        found.params.update(like.params)
    found.params["CN"] = who.name
    return found


# --- in time ------------------------------------------------------------------------------------


def _moment(value: date | datetime) -> datetime:
    """A day begins at midnight; a time without a zone is taken as UTC."""
    if not isinstance(value, datetime):
        value = datetime.combine(value, time())
    return value if value.tzinfo else value.replace(tzinfo=UTC)


def _start(event: Event) -> date | datetime:
    found: date | datetime = _of(event)["DTSTART"].dt
    return found


def _starts(calendar: Calendar) -> Iterator[date | datetime]:
    """When the occurrences of a series begin by its rule, in their order, those moved or left out as well."""
    event = _master(calendar)
    first = _start(event)
    rule = _of(event).get("RRULE")
    if rule is None or isinstance(rule, list):
        yield first
        return
    plain = first if isinstance(first, datetime) else datetime.combine(first, time())
    try:
        found = iter(rrulestr(rule.to_ical().decode(), dtstart=plain))
        for one in islice(found, MOST):
            yield one if isinstance(first, datetime) else one.date()
    except (
        ValueError,
        TypeError,
        OverflowError,
    ):  # a rule that contradicts its start: as if it were but once
        yield first


def _ahead(calendar: Calendar, now: datetime) -> Iterator[tuple[int, date | datetime]]:
    """The occurrences that have still to begin, each with how many were before it by the rule."""
    for number, start in enumerate(_starts(calendar)):
        if _moment(start) > now:
            yield number, start


def _to_come(event: Event, now: datetime) -> bool:
    """Whether what is said of a single occurrence is of one that has still to begin."""
    return _moment(_of(event)["RECURRENCE-ID"].dt) > now


def _until(calendar: Calendar, now: datetime) -> Calendar:
    found = _copy(calendar)
    master = _master(found)
    day = not isinstance(_start(master), datetime)
    rule = vRecur(_of(master)["RRULE"])
    rule.pop("COUNT", None)
    rule["UNTIL"] = [now.date() if day else now.astimezone(UTC).replace(microsecond=0)]
    master["RRULE"] = rule
    _keep(found, lambda event: not _to_come(event, now))
    return found


def _from(
    calendar: Calendar, now: datetime, before: int, following: date | datetime, mark: str
) -> Calendar:
    found = _copy(calendar)
    master, uid = _master(found), f"{uid_of(calendar)}{mark}"
    start = _start(master)
    rule = vRecur(_of(master)["RRULE"])
    if "COUNT" in rule:
        rule["COUNT"] = [int(rule["COUNT"][0]) - before]
    master["RRULE"] = rule
    shift = _moment(following) - _moment(start)
    for name in ("DTSTART", "DTEND"):
        if name in master:
            was = _of(master)[name]
            moved = vDDDTypes(was.dt + shift)
            moved.params.update(was.params)
            master[name] = moved
    master["RELATED-TO"] = uid_of(calendar)
    master[BEGAN] = key_of(calendar)
    _keep(found, lambda event: _to_come(event, now))
    for event in _events(found):
        event["UID"] = uid
    return found


def _keep(calendar: Calendar, kept: Callable[[Event], bool]) -> None:
    """Leave away what is said of single occurrences that the series has not any more."""
    calendar.subcomponents = [
        c
        for c in calendar.subcomponents
        if not isinstance(c, Event) or "RECURRENCE-ID" not in c or kept(c)
    ]
