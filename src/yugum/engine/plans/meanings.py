"""What a request means for one person: who they are after it, when, and the recorded cause."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import UTC, date, datetime, time, timedelta
from zoneinfo import ZoneInfo

from yugum.core.dates import names_day, parse_day, parse_moment
from yugum.core.decisions import Decision
from yugum.core.facts import Fields, fields_of, with_fields
from yugum.core.offsets import SHIFT_ENDS, WorkingHours
from yugum.core.people import (
    Person,
    PersonState,
    day_begins,
    full_name,
    start_moment,
    state_at,
    term_end,
)
from yugum.core.requests import PlanRequest
from yugum.core.verbs import Verb
from yugum.errors import Conflict, InvalidInput

NOT_COME = timedelta(days=31)
"""Who has not come can be put off so long after the first day that was planned."""
RENAMED = ("user_name", "given_name", "family_name", "display_name", "mail")
"""The fields that a rename changes."""


@dataclass(frozen=True, slots=True)
class Meaning:
    """What a request means for one person: the person after it, when, and the recorded changes.

    ``effective`` is when a late fact came true, ``renamed_from`` the login before a rename; decisions
    ``over`` were about the time before.
    """

    after: Person
    due: datetime
    changes: Fields
    applied: bool
    effective: datetime | None = None
    renamed_from: str = ""
    decisions: tuple[Decision, ...] = ()
    over: tuple[str, ...] = ()


def meaning_of(request: PlanRequest, person: Person, hours: WorkingHours, now: datetime) -> Meaning:
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
            return _leaver(request, person, hours, now)
        case Verb.RETURNER:
            return _returner(request, person, now)
        case Verb.ABSENCE:
            return _absence(request, person, now)
        case Verb.RENAME:
            return _rename(request, person, now)
        case Verb.EXTENSION:
            return _extension(request, person, now)
        case Verb.RECHECK:
            if request.at:
                raise InvalidInput("Somebody is looked at again now, not later.", place="at")
            return Meaning(person, now, {}, applied=True)
        case _:
            raise InvalidInput(f"'{request.verb}' cannot be planned for a person.", place="verb")


def _joiner(request: PlanRequest, person: Person, now: datetime) -> Meaning:
    if state_at(person, now) is PersonState.LEFT:
        raise Conflict(
            f"{full_name(person)} has left.", remedy=f"Use: yugum returner {person.user_name}."
        )
    after, changes = person, {}
    if request.at:  # postponed, or brought forward
        begun = now - (start_moment(person) or datetime.min.replace(tzinfo=UTC))
        if state_at(person, now) is not PersonState.EXPECTED and begun > NOT_COME:
            raise Conflict(
                f"{full_name(person)} has begun already.", remedy="Use: yugum absence, or mover."
            )
        after = replace(person, starts=parse_day(request.at, now, person.time_zone))
        changes = fields_of(after, ("starts",))
    return Meaning(after, max(now, start_moment(after) or now), changes, True)


def _mover(request: PlanRequest, person: Person, now: datetime) -> Meaning:
    if not request.changes:
        raise InvalidInput(
            "A move changes something: a department, title, site or manager.",
            place="changes",
            remedy="For example: --department Timetables.",
        )
    if state_at(person, now) is PersonState.LEFT:
        raise Conflict(f"{full_name(person)} has left and cannot move.")
    after, names = with_fields(person, request.changes), list(request.changes)
    if "contract_ends" in request.changes:  # a conversion: another term, or none any more
        after = replace(after, access_ends=term_end(after.contract_ends, person.time_zone))
        names.append("access_ends")
    due = _moment(request.at, now, person)
    effective = _came_true(request, person, now)
    return Meaning(after, due, fields_of(after, names), due <= now, effective)


def _leaver(request: PlanRequest, person: Person, hours: WorkingHours, now: datetime) -> Meaning:
    since = _came_true(request, person, now)
    if state_at(person, now) is PersonState.LEFT:  # a file may have said so: accounts may be open
        if since is not None:
            raise Conflict(
                f"{full_name(person)} has left already.",
                remedy=f"Leave --since out, or use: yugum returner {person.user_name}.",
            )
        return Meaning(person, now, {}, True)
    if since is not None:
        ends = since
    elif request.last_day and names_day(request.at):  # access goes on after it, to a day's end
        day = parse_day(request.at, now, person.time_zone)
        ends = day_begins(day + timedelta(days=1), person.time_zone)
    else:
        ends = _moment(request.at, now, person, hours.shift_ends(person.site))
    begins = start_moment(person)
    if begins is not None and ends < begins and (ends > now or since is not None):
        raise InvalidInput(
            f"{full_name(person)} would leave before the first day, {person.starts}.",
            place="at" if since is None else "since",
        )
    last: date = ends.astimezone(ZoneInfo(person.time_zone)).date()
    if request.last_day:  # garden leave: the last working day and the end of access are apart
        last = parse_day(request.last_day, now, person.time_zone)
    after = replace(person, access_ends=ends, last_working_day=last)
    names = ["access_ends", "last_working_day"]
    if request.contract_ends:
        ended = parse_day(request.contract_ends, now, person.time_zone)
        if ended < last:
            raise InvalidInput(
                "The contract would end before the last working day.", place="contract_ends"
            )
        after = replace(after, contract_ends=ended)
        names.append("contract_ends")
    return Meaning(after, max(ends, now), fields_of(after, names), True, since)


def _returner(request: PlanRequest, person: Person, now: datetime) -> Meaning:
    state = state_at(person, now)
    due = _first_day_back(request.at, now, person)
    if state is PersonState.ABSENT:
        after, names = replace(person, absent_until=due), ["absent_until"]
    elif state is PersonState.LEFT:
        day = due.astimezone(ZoneInfo(person.time_zone)).date()
        after = replace(person, access_ends=None, last_working_day=None, starts=day)
        names = ["access_ends", "last_working_day", "starts"]
    else:
        raise Conflict(
            f"{full_name(person)} is neither absent nor gone.",
            remedy="A leaver docket that has not begun is cancelled: yugum dockets cancel NUMBER.",
        )
    return Meaning(after, due, fields_of(after, names), due <= now)


def _first_day_back(text: str, now: datetime, person: Person) -> datetime:
    """The moment that was typed; a day begins in its morning, today is now."""
    if not names_day(text):
        return _moment(text, now, person)
    day = parse_day(text, now, person.time_zone)
    today = now.astimezone(ZoneInfo(person.time_zone)).date()
    if day < today:
        raise InvalidInput(f"{day} is past.", place="at", remedy="Name a day to come, or none.")
    return max(now, day_begins(day, person.time_zone))


def _absence(request: PlanRequest, person: Person, now: datetime) -> Meaning:
    if state_at(person, now) is not PersonState.ACTIVE:
        raise Conflict(f"{full_name(person)} is not active.")
    begins = _moment(request.at, now, person)
    until = parse_moment(request.until, now, person.time_zone) if request.until else None
    if until is not None and until <= begins:
        raise InvalidInput("The absence would end before it begins.", place="until")
    after = replace(person, absent_from=begins, absent_until=until)
    return Meaning(after, begins, fields_of(after, ("absent_from", "absent_until")), True)


def _rename(request: PlanRequest, person: Person, now: datetime) -> Meaning:
    if state_at(person, now) is PersonState.LEFT:
        raise Conflict(f"{full_name(person)} has left and cannot be renamed.")
    said = {k: v for k, v in request.changes.items() if v}
    after = with_fields(person, said)
    if not (said or request.accounts) or set(said) - set(RENAMED):
        raise InvalidInput(
            "A rename changes names, the login and the mail address.",
            place="changes",
            remedy="For example: --family Berg --login aberg.",
        )
    due = _moment(request.at, now, person)
    changes = fields_of(after, said)
    return Meaning(after, due, changes, due <= now, renamed_from=person.user_name)


def _extension(request: PlanRequest, person: Person, now: datetime) -> Meaning:
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
    after = replace(person, contract_ends=last, access_ends=ends, last_working_day=None)
    names = ("contract_ends", "access_ends", "last_working_day")
    return Meaning(after, now, fields_of(after, names), True)


def _came_true(request: PlanRequest, person: Person, now: datetime) -> datetime | None:
    """When something that is learned only now came true; None if it was not said."""
    if not request.since:
        return None
    if request.at:
        raise InvalidInput(
            "Either it came true, or it is to come.", place="since", remedy="Leave one of them out."
        )
    moment = parse_moment(request.since, now, person.time_zone)
    if moment > now:
        raise InvalidInput(
            "A fact that is still to come is dated with at.", place="since", remedy="Use --at."
        )
    return moment


def _moment(text: str, now: datetime, person: Person, default: time = SHIFT_ENDS) -> datetime:
    """The moment that was typed, which is not past; now where nothing was."""
    if not text:
        return now
    moment = parse_moment(text, now, person.time_zone, default=default)
    if moment < now:
        raise InvalidInput(
            f"{moment.astimezone(UTC):%Y-%m-%d %H:%M} UTC is past.",
            place="at",
            remedy="Name a moment to come, or leave it out for now.",
        )
    return moment
