"""What an operator asks for, read and checked: the verb, whom, when, with which changes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import Any
from zoneinfo import ZoneInfo

from yugum.core.dates import parse_day, parse_moment
from yugum.core.decisions import Decision
from yugum.core.dockets import Verb
from yugum.core.facts import from_document, to_document
from yugum.core.people import (
    Person,
    PersonState,
    changed,
    full_name,
    start_moment,
    state_at,
    term_end,
)
from yugum.errors import Conflict, InvalidInput


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanRequest:
    """A verb for some people. ``at`` is as typed; ``changes`` are fields of a mover or a rename.

    ``since`` is when a late fact came true, ``overlap_days`` how long a mover keeps the roles that
    no longer apply (None: as the rules say), ``left_out`` steps that are not to be done:
    ``application`` or ``application/action`` each with a reason.
    """

    verb: Verb
    who: Sequence[str] = ()
    at: str = ""
    until: str = ""
    changes: Mapping[str, Any] = field(default_factory=dict)
    since: str = ""
    overlap_days: int | None = None
    successor: str = ""
    docket: str = ""
    accounts: Sequence[str] = ()
    action: str = ""
    urgent: bool = False
    confidential: bool = False
    sensitive: bool = False
    left_out: Mapping[str, str] = field(default_factory=dict)
    last_day: str = ""
    contract_ends: str = ""


@dataclass(frozen=True, slots=True)
class Intent:
    """What a request means for one person: the person after it, when, and the recorded cause.

    ``effective`` is when a late fact came true, ``renamed_from`` the login before a rename.
    """

    after: Person
    due: datetime
    changes: Mapping[str, Any]
    applied: bool
    effective: datetime | None = None
    renamed_from: str = ""
    decisions: tuple[Decision, ...] = ()


def intend(request: PlanRequest, person: Person, now: datetime) -> Intent:
    """The meaning of a request for one person.

    Raises:
        InvalidInput: a date is unclear, or in an order that cannot be.
        Conflict: the person's state does not fit the verb.
    """
    match request.verb:
        case Verb.JOINER:
            return _joiner(request, person, now)
        case Verb.MOVER:
            return _mover(request, person, now)
        case Verb.LEAVER:
            return _leaver(request, person, now)
        case Verb.RETURNER:
            return _returner(request, person, now)
        case Verb.ABSENCE:
            return _absence(request, person, now)
        case Verb.RENAME:
            return _rename(request, person, now)
        case Verb.EXTENSION:
            return _extension(request, person, now)
        case _:
            raise InvalidInput(f"'{request.verb}' cannot be planned for a person.", place="verb")


def _joiner(request: PlanRequest, person: Person, now: datetime) -> Intent:
    if state_at(person, now) is PersonState.LEFT:
        raise Conflict(
            f"{full_name(person)} has left.", remedy=f"Use: yugum returner {person.user_name}."
        )
    changes: dict[str, Any] = {}
    if request.at:  # postponed, or brought forward
        if state_at(person, now) is not PersonState.EXPECTED:
            raise Conflict(
                f"{full_name(person)} has begun already.", remedy="Use: yugum absence, or mover."
            )
        changes = {"starts": parse_day(request.at, now, person.time_zone)}
    after = changed(person, changes)
    due = max(now, start_moment(after) or now)
    return Intent(after, due, to_document(changes), True)


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
    if "contract_ends" in changes:  # a conversion: another term, or none any more
        changes["access_ends"] = term_end(changes["contract_ends"], person.time_zone)
    due = _moment(request.at, now, person, default_now=True)
    after = changed(person, changes)
    effective = None
    if request.since:
        effective = parse_moment(request.since, now, person.time_zone)
        if effective > now:
            raise InvalidInput(
                "A fact that is still to come is dated with at.", place="since", remedy="Use --at."
            )
    return Intent(after, due, to_document(changes), due <= now, effective)


def _leaver(request: PlanRequest, person: Person, now: datetime) -> Intent:
    if state_at(person, now) is PersonState.LEFT:  # a file may have said so: accounts may be open
        return Intent(person, now, {}, True)
    ends = _moment(request.at, now, person, default_now=True)
    begins = start_moment(person)
    if begins is not None and ends < begins and ends > now:
        raise InvalidInput(
            f"{full_name(person)} would leave before the first day, {person.starts}.", place="at"
        )
    changes: dict[str, Any] = {
        "access_ends": ends,
        "last_working_day": ends.astimezone(ZoneInfo(person.time_zone)).date(),
    }
    if request.last_day:  # garden leave: the last working day and the end of access are apart
        changes["last_working_day"] = parse_day(request.last_day, now, person.time_zone)
    if request.contract_ends:
        changes["contract_ends"] = parse_day(request.contract_ends, now, person.time_zone)
        if changes["contract_ends"] < changes["last_working_day"]:
            raise InvalidInput(
                "The contract would end before the last working day.", place="contract_ends"
            )
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


def _rename(request: PlanRequest, person: Person, now: datetime) -> Intent:
    if state_at(person, now) is PersonState.LEFT:
        raise Conflict(f"{full_name(person)} has left and cannot be renamed.")
    allowed = {"user_name", "given_name", "family_name", "display_name", "mail"}
    changes = from_document({k: v for k, v in request.changes.items() if v})
    if not changes or set(changes) - allowed:
        raise InvalidInput(
            "A rename changes names, the login and the mail address.",
            place="changes",
            remedy="For example: --family Berg --login aberg.",
        )
    due = _moment(request.at, now, person, default_now=True)
    after = changed(person, changes)
    return Intent(after, due, to_document(changes), due <= now, renamed_from=person.user_name)


def _extension(request: PlanRequest, person: Person, now: datetime) -> Intent:
    """A fixed term that goes on; also after its end, when everything is revived."""
    if person.contract_ends is None and person.access_ends is None:
        raise Conflict(f"{full_name(person)} has no end that could be extended.")
    if not request.until:
        raise InvalidInput("Say until when.", place="until", remedy="For example: 2031-09-30.")
    last = parse_day(request.until, now, person.time_zone)
    ends = term_end(last, person.time_zone)
    assert ends is not None
    before = person.access_ends
    if ends <= now or (before is not None and ends <= before):
        raise InvalidInput(f"{last} is no later than the end as it is.", place="until")
    changes = {"contract_ends": last, "access_ends": ends, "last_working_day": None}
    return Intent(changed(person, changes), now, to_document(changes), True)


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
