"""People: who they are, when they come and go, and what state that makes them at a moment."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass, fields, replace
from datetime import UTC, date, datetime, time, timedelta
from enum import StrEnum
from functools import lru_cache
from zoneinfo import ZoneInfo

from yugum.core.conditions import fold


class PersonState(StrEnum):
    EXPECTED = "expected"
    ACTIVE = "active"
    ABSENT = "absent"
    LEFT = "left"


@dataclass(frozen=True, slots=True, kw_only=True)
class Person:
    """One human of the organisation.

    Names follow the SCIM core and enterprise schemas (RFC 7643 4.1, 4.3). ``starts``,
    ``last_working_day`` and ``contract_ends`` are days in ``time_zone``; ``access_ends`` and the
    absence are moments with a zone. ``groups`` are those a source reports, separated by semicolons;
    ``own`` are the attributes that the organisation's rules declare, by name.
    """

    id: str
    user_name: str
    given_name: str = ""
    family_name: str = ""
    middle_name: str = ""
    honorific_prefix: str = ""
    honorific_suffix: str = ""
    nick_name: str = ""
    display_name: str = ""
    employee_number: str = ""
    user_type: str = ""
    department: str = ""
    division: str = ""
    organization: str = ""
    cost_center: str = ""
    title: str = ""
    site: str = ""
    manager_id: str | None = None
    time_zone: str = "UTC"
    preferred_language: str = ""
    locale: str = ""
    mail: str = ""
    outside_mail: str = ""
    phone: str = ""
    mobile: str = ""
    groups: str = ""
    starts: date | None = None
    last_working_day: date | None = None
    access_ends: datetime | None = None
    contract_ends: date | None = None
    absent_from: datetime | None = None
    absent_until: datetime | None = None
    own: tuple[tuple[str, str], ...] = ()


FIELDS = tuple(f.name for f in fields(Person))
DAYS = frozenset({"starts", "last_working_day", "contract_ends"})
MOMENTS = frozenset({"access_ends", "absent_from", "absent_until"})
CHANGEABLE = tuple(name for name in FIELDS if name not in ("id", "own"))
FieldValue = str | date | None
"""What a field of a person holds: a text, a day or a moment, or nothing."""
OWN = "own."
"""What the name of an attribute of the organisation's own begins with, as a field of a person."""

FILTER_ATTRIBUTES: Mapping[str, str] = {
    "userName": "user_name",
    "name.givenName": "given_name",
    "name.familyName": "family_name",
    "name.middleName": "middle_name",
    "name.honorificPrefix": "honorific_prefix",
    "name.honorificSuffix": "honorific_suffix",
    "nickName": "nick_name",
    "displayName": "display_name",
    "employeeNumber": "employee_number",
    "userType": "user_type",
    "department": "department",
    "division": "division",
    "organization": "organization",
    "costCenter": "cost_center",
    "title": "title",
    "site": "site",
    "manager": "manager_id",
    "timezone": "time_zone",
    "preferredLanguage": "preferred_language",
    "locale": "locale",
    "mail": "mail",
    "outsideMail": "outside_mail",
    "phone": "phone",
    "mobile": "mobile",
    "groups": "groups",
    "starts": "starts",
    "lastWorkingDay": "last_working_day",
    "accessEnds": "access_ends",
    "contractEnds": "contract_ends",
}


def day_begins(day: date, zone: str) -> datetime:
    """The moment a day begins in a zone, in UTC."""
    return datetime.combine(day, time(0), ZoneInfo(zone)).astimezone(UTC)


def term_end(last_day: date | None, zone: str) -> datetime | None:
    """When a fixed term ends access: after its last day, which itself is still inside."""
    return day_begins(last_day + timedelta(days=1), zone) if last_day else None


def start_moment(person: Person) -> datetime | None:
    return day_begins(person.starts, person.time_zone) if person.starts else None


def state_at(person: Person, at: datetime) -> PersonState:
    """The person's state at a moment; the end of access is the first moment outside."""
    starts = start_moment(person)
    if person.access_ends is not None and at >= person.access_ends:
        return PersonState.LEFT
    if starts is not None and at < starts:
        return PersonState.EXPECTED
    back = person.absent_until is not None and at >= person.absent_until
    if person.absent_from is not None and at >= person.absent_from and not back:
        return PersonState.ABSENT
    return PersonState.ACTIVE


def full_name(person: Person) -> str:
    return (
        person.display_name
        or f"{person.given_name} {person.family_name}".strip()
        or (person.user_name)
    )


def as_text(value: str | int | date | None) -> str:
    """A field's value as it is stored, compared and shown: ISO 8601, moments in UTC."""
    if value is None:
        return ""
    if isinstance(value, datetime):
        return value.astimezone(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
    return value.isoformat() if isinstance(value, date) else str(value)


@lru_cache(maxsize=4096)  # whoever is looked at is asked about at several moments
def folded(person: Person) -> Mapping[str, tuple[str, ...]]:
    """The person's attributes as conditions see them."""
    values: dict[str, tuple[str, ...]] = {}
    for attribute, field in FILTER_ATTRIBUTES.items():
        value = getattr(person, field)
        if value and (text := fold(value if isinstance(value, str) else as_text(value))):
            values[attribute] = (text,)
    if person.groups:
        values["groups"] = tuple(fold(g) for g in groups_in(person.groups))
    for name, value in person.own:
        values[f"{OWN}{name}"] = (fold(value),)
    return values


def groups_in(text: str) -> tuple[str, ...]:
    """The groups that a source reports, each once and in order."""
    return tuple(dict.fromkeys(g for part in text.split(";") if (g := part.strip())))


def field_of(person: Person, name: str) -> FieldValue:
    """A field by name, one of the organisation's own among them."""
    if name.startswith(OWN):
        return dict(person.own).get(name.removeprefix(OWN), "")
    value: FieldValue = getattr(person, name)
    return value


def with_values(person: Person, values: Iterable[tuple[str, FieldValue]]) -> Person:
    """The person with some fields set, the organisation's own among them; "" takes such a one away."""
    said = dict(values)
    plain = {n: v for n, v in said.items() if not n.startswith(OWN)}
    own = dict(person.own) | {
        n.removeprefix(OWN): str(v or "") for n, v in said.items() if n.startswith(OWN)
    }
    kept = tuple(sorted((n, v) for n, v in own.items() if v))
    return replace(person, **plain, own=kept)  # type: ignore[arg-type]


def fields_of_both(before: Person, after: Person) -> tuple[str, ...]:
    """Every changeable field that either of two people has."""
    own = dict.fromkeys(f"{OWN}{n}" for n, _ in (*before.own, *after.own))
    return (*CHANGEABLE, *own)


def search_text(person: Person) -> str:
    """What plain search looks through: names, login, number."""
    parts = (
        person.display_name,
        person.given_name,
        person.family_name,
        person.user_name,
        person.employee_number,
    )
    return fold(" ".join(part for part in parts if part))


def with_names(after: Person, changes: Collection[str]) -> Person:
    """``after`` with the display name that follows its names, unless it was changed itself.

    ``changes`` are the names of the fields that were changed.
    """
    if "display_name" in changes or not {"given_name", "family_name"} & set(changes):
        return after
    return replace(after, display_name=f"{after.given_name} {after.family_name}".strip())
