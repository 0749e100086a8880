"""What is typed about people by hand is looked at before it is stored or planned, everywhere alike."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from yugum.core.conditions import equal_to, fold
from yugum.core.entry import (
    Doubted,
    circles,
    ends_before_it_begins,
    folded,
    gone_by_then,
    long_past,
    nearest,
    wrong_domain,
)
from yugum.core.facts import with_fields
from yugum.core.lists import KnownValue
from yugum.core.names import Taken
from yugum.core.people import FILTER_ATTRIBUTES, Person, full_name
from yugum.core.requests import PlanRequest
from yugum.core.roles import Rules
from yugum.core.verbs import Verb
from yugum.engine.context import load_rules
from yugum.errors import Conflict, Doubtful, InvalidInput
from yugum.ports.units import UnitOfWork

MOST_VALUES = 2000
HEIGHT = 30
"""How many managers up a circle is looked for."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Entered:
    """Somebody as they would be, the fields that were typed, and those of them that are said to be right."""

    before: Person | None
    after: Person
    said: Collection[str]
    right: Collection[Doubted] = ()


def moved(request: PlanRequest, people: Iterable[Person]) -> list[Entered]:
    """People as they would be after a move or a rename; nobody where it is neither."""
    if request.verb not in (Verb.MOVER, Verb.RENAME):
        return []
    changes = {
        name: value
        for name, value in request.changes.items()
        if value or request.verb is Verb.MOVER  # a rename takes nothing away
    }
    return [
        Entered(before=p, after=with_fields(p, changes), said=[*changes], right=request.right)
        for p in people
    ]


async def must_be_right(unit: UnitOfWork, entered: Sequence[Entered], now: datetime) -> None:
    """Refuse what cannot be; ask once about what may be a slip.

    Raises:
        InvalidInput: a day, a domain or a manager cannot be.
        Conflict: a login, number or address is somebody else's.
        Doubtful: it may be right, but looks like a slip.
    """
    if not entered:
        return
    rules = await load_rules(unit)
    for one in entered:
        _days(one)
        if len(entered) == 1:  # several at once are a list of people who are there
            _first_day(one, now)
        _domain(one, rules)
    await _logins(unit, entered, rules, now)
    await _numbers(unit, entered)
    await _addresses(unit, entered, now)
    await _managers(unit, entered, now)
    await _values(unit, entered, rules)


def _days(one: Entered) -> None:
    place = next((n for n in ("contract_ends", "starts") if n in one.said), "")
    if place and ends_before_it_begins(one.after):
        raise InvalidInput(
            f"They would end on {one.after.contract_ends}, before they begin on {one.after.starts}.",
            place=place,
            remedy="Correct one of the days.",
        )


def _first_day(one: Entered, now: datetime) -> None:
    """Whoever is entered begins today or later; that they have begun long ago is asked about."""
    was = one.before.starts if one.before is not None else None
    new = "starts" in one.said and one.after.starts != was
    if new and Doubted.STARTS not in one.right and long_past(one.after, now.date()):
        raise Doubtful(
            f"They would have begun on {one.after.starts}, long ago.",
            place="starts",
            remedy="Correct the day, or say that it is right.",
        )


def _domain(one: Entered, rules: Rules) -> None:
    """A work address is in a domain that the rules name, where they name any."""
    wrong = wrong_domain(one.after.mail, rules.names.domains) if "mail" in one.said else None
    if wrong is not None:
        raise InvalidInput(wrong[0], place="mail", remedy=wrong[1])


async def _logins(
    unit: UnitOfWork, entered: Sequence[Entered], rules: Rules, now: datetime
) -> None:
    """A login of somebody who has gone is nobody's yet; who has it now is told where it is stored."""
    new = [e.after.user_name for e in entered if e.before is None]
    since = now - timedelta(days=rules.names.quarantine_days)
    for login, taken in (await unit.people.login_held_by(new, since, now)).items() if new else ():
        if taken.by is Taken.QUARANTINE:
            raise Conflict(
                f"{login}: {taken.told()}.", place="user_name", remedy="Choose another login."
            )


async def _numbers(unit: UnitOfWork, entered: Sequence[Entered]) -> None:
    """A number that is corrected is nobody else's; of new people namesakes are looked for too."""
    said = {
        e.after.employee_number: e
        for e in entered
        if e.before is not None and "employee_number" in e.said and e.after.employee_number
    }
    for key in await unit.people.by_keys((), said) if said else ():
        if key.id != said[key.employee_number].after.id:
            raise Conflict(
                f"{key.user_name} has the number {key.employee_number}.",
                place="employee_number",
                remedy="Correct it; if both are the same person: yugum people merge.",
            )


async def _addresses(unit: UnitOfWork, entered: Sequence[Entered], now: datetime) -> None:
    said = [
        (e, e.after.mail.lower())
        for e in entered
        if "mail" in e.said and e.after.mail and (not e.before or e.before.mail != e.after.mail)
    ]
    times = Counter(mail for _, mail in said)
    held = await unit.people.mail_held_by(list(times), now) if said else {}
    for one, mail in said:
        mine = one.before is not None and one.before.mail.lower() == mail
        if times[mail] > 1 or (mail in held and not mine):
            whose = f"is the address of {held[mail]}" if mail in held else "is named twice"
            raise Conflict(f"{mail} {whose}.", place="mail", remedy="Choose another one.")


async def _managers(unit: UnitOfWork, entered: Sequence[Entered], now: datetime) -> None:
    """Nobody is above themselves, but a head who is told to be."""
    said = [e for e in entered if {"manager", "manager_id"} & {*e.said} and e.after.manager_id]
    managed = {e.after.id: e.after.manager_id for e in said}
    if any(e.before for e in said):  # nobody reports to somebody new
        managed = {**await above(unit, {i for i in managed.values() if i}), **managed}
    found = circles(managed)
    for one in said:
        size = found.get(one.after.id, 0)
        if size > 1:
            raise InvalidInput(
                f"{full_name(one.after)} would be above themselves, in a circle of {size} managers.",
                place="manager",
                remedy="Name somebody else, or correct the other one's manager first.",
            )
        if size == 1 and Doubted.MANAGER not in one.right:
            raise Doubtful(
                f"{full_name(one.after)} would manage themselves.",
                place="manager",
                remedy="Right for whoever is at the head.",
            )
    people = await unit.people.many({i for i in managed.values() if i}) if said else {}
    for one in said:
        boss = people.get(one.after.manager_id or "")
        left = gone_by_then(boss[0], one.after, now) if boss is not None else None
        if boss is not None and left is not None and Doubted.MANAGER not in one.right:
            raise Doubtful(
                f"The access of {full_name(boss[0])} ends on {left}: nobody would be there as manager.",
                place="manager",
                remedy="Name somebody else, or say that it is right.",
            )


async def above(unit: UnitOfWork, ids: Collection[str]) -> dict[str, str | None]:
    """Who manages whom now, from some people up as far as there is somebody."""
    found: dict[str, str | None] = {}
    asked = {*ids}
    for _ in range(HEIGHT):
        people = await unit.people.many(asked - found.keys())
        if not people:
            break
        found |= {i: person.manager_id for i, (person, _) in people.items()}
        asked = {p.manager_id for p, _ in people.values() if p.manager_id}
    return found


ATTRIBUTES = {field: name for name, field in FILTER_ATTRIBUTES.items()}


async def _values(unit: UnitOfWork, entered: Sequence[Entered], rules: Rules) -> None:
    """A value that nobody has, nor a role asks for, is asked about."""
    for field in KnownValue:
        told = {
            value
            for e in entered
            if field.value in e.said
            and Doubted(field.value) not in e.right
            and (value := getattr(e.after, field))
            if e.before is None or getattr(e.before, field) != value
        }
        if not told:
            continue
        known = folded(await unit.people.values(field, "", MOST_VALUES))
        asked = {v for r in rules.roles for v in equal_to(r.when, ATTRIBUTES[field.value])}
        for value in sorted(told):
            key = fold(value)
            if not known or known.get(key) == value or (key in asked and key not in known):
                continue
            near = nearest(value, known)
            instead = f"Write {near}, or say" if near else "Correct it, or say"
            raise Doubtful(
                f"Nobody else has {value}{f'; nearest: {near}' if near else ''}.",
                place=field.value,
                remedy=f"{instead} that it is right.",
            )
