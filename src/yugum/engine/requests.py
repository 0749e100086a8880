"""What an operator asks for, read and checked: the verb, whom, when, with which changes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import Any
from zoneinfo import ZoneInfo

from yugum.core.dates import parse_day, parse_moment
from yugum.core.dockets import Verb
from yugum.core.facts import from_document, to_document
from yugum.core.people import (
    Person,
    PersonState,
    changed,
    full_name,
    start_moment,
    state_at,
)
from yugum.errors import Conflict, InvalidInput


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanRequest:
    """A verb for some people. ``at`` is as typed; ``changes`` are fields of a mover."""

    verb: Verb
    who: Sequence[str] = ()
    at: str = ""
    until: str = ""
    changes: Mapping[str, Any] = field(default_factory=dict)
    successor: str = ""
    docket: str = ""
    account: str = ""
    urgent: bool = False


@dataclass(frozen=True, slots=True)
class Intent:
    """What a request means for one person: the person after it, when, and the recorded cause."""

    after: Person
    due: datetime
    changes: Mapping[str, Any]
    applied: bool


def intend(request: PlanRequest, person: Person, now: datetime) -> Intent:
    """The meaning of a request for one person.

    Raises:
        InvalidInput: a date is unclear, or in an order that cannot be.
        Conflict: the person's state does not fit the verb.
    """
    match request.verb:
        case Verb.JOINER:
            return _joiner(person, now)
        case Verb.MOVER:
            return _mover(request, person, now)
        case Verb.LEAVER:
            return _leaver(request, person, now)
        case Verb.RETURNER:
            return _returner(request, person, now)
        case Verb.ABSENCE:
            return _absence(request, person, now)
        case _:
            raise InvalidInput(f"'{request.verb}' cannot be planned for a person.", place="verb")


def _joiner(person: Person, now: datetime) -> Intent:
    if state_at(person, now) is PersonState.LEFT:
        raise Conflict(
            f"{full_name(person)} has left.", remedy=f"Use: yugum returner {person.user_name}."
        )
    return Intent(person, max(now, start_moment(person) or now), {}, True)


def _mover(request: PlanRequest, person: Person, now: datetime) -> Intent:
    if not request.changes:
        raise InvalidInput(
            "A move changes something: a department, title, site or manager.",
            place="changes",
            remedy="For example: --department Timetables.",
        )
    if state_at(person, now) is PersonState.LEFT:
        raise Conflict(f"{full_name(person)} has left and cannot move.")
    changes = from_document(request.changes)
    due = _moment(request.at, now, person, default_now=True)
    after = changed(person, changes)
    return Intent(after, due, to_document(changes), due <= now)


def _leaver(request: PlanRequest, person: Person, now: datetime) -> Intent:
    if state_at(person, now) is PersonState.LEFT:  # a file may have said so: accounts may be open
        return Intent(person, now, {}, True)
    ends = _moment(request.at, now, person, default_now=True)
    begins = start_moment(person)
    if begins is not None and ends < begins and ends > now:
        raise InvalidInput(
            f"{full_name(person)} would leave before the first day, {person.starts}.", place="at"
        )
    changes = {
        "access_ends": ends,
        "last_working_day": ends.astimezone(ZoneInfo(person.time_zone)).date(),
    }
    return Intent(changed(person, changes), ends, to_document(changes), True)


def _returner(request: PlanRequest, person: Person, now: datetime) -> Intent:
    state = state_at(person, now)
    due = _moment(request.at, now, person, default_now=True)
    if state is PersonState.ABSENT:
        changes: dict[str, Any] = {"absent_until": due}
    elif state is PersonState.LEFT:
        day = due.astimezone(ZoneInfo(person.time_zone)).date()
        changes = {"access_ends": None, "last_working_day": None, "starts": day}
    else:
        raise Conflict(
            f"{full_name(person)} is neither absent nor gone.",
            remedy="A leaver docket that has not begun is cancelled: yugum dockets cancel NUMBER.",
        )
    return Intent(changed(person, changes), due, to_document(changes), due <= now)


def _absence(request: PlanRequest, person: Person, now: datetime) -> Intent:
    if state_at(person, now) is not PersonState.ACTIVE:
        raise Conflict(f"{full_name(person)} is not active.")
    begins = _moment(request.at, now, person, default_now=True)
    until = parse_moment(request.until, now, person.time_zone) if request.until else None
    if until is not None and until <= begins:
        raise InvalidInput("The absence would end before it begins.", place="until")
    changes = {"absent_from": begins, "absent_until": until}
    return Intent(changed(person, changes), begins, to_document(changes), True)


def _moment(text: str, now: datetime, person: Person, *, default_now: bool) -> datetime:
    if not text and default_now:
        return now
    moment = parse_moment(text, now, person.time_zone)
    if moment < now:
        raise InvalidInput(
            f"{moment.astimezone(UTC):%Y-%m-%d %H:%M} UTC is past.",
            place="at",
            remedy="Name a moment to come, or leave it out for now.",
        )
    return moment


def parse_dates(changes: Mapping[str, Any], now: datetime, zone: str) -> dict[str, Any]:
    """Day fields as operators type them (``Friday``) into ISO 8601."""
    days = {"starts", "last_working_day", "contract_ends"}
    return {
        name: parse_day(str(value), now, zone).isoformat() if name in days and value else value
        for name, value in changes.items()
    }
