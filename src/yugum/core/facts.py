"""Changes of people as JSON carries them, and back."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import date, datetime

from yugum.core.dates import is_zone
from yugum.core.people import (
    CHANGEABLE,
    DAYS,
    MOMENTS,
    Person,
    as_text,
    field_of,
    fields_of_both,
    groups_in,
    with_names,
    with_values,
)
from yugum.errors import InvalidInput

Fields = Mapping[str, str | None]
"""Fields of a person by name: days and moments as ISO 8601 text, nothing as null."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Fact:
    """A change of somebody's fields: when it came true, when it was known, by whom and why."""

    id: str
    person_id: str
    effective_at: datetime
    known_at: datetime
    before: Fields
    after: Fields
    author: str
    reason: str
    docket_id: str | None = None


OWN_NAME = re.compile(r"own\.[a-z][a-z0-9_]{0,59}")
"""An attribute of the organisation's own, as a field of a person."""

_OPTIONAL = DAYS | MOMENTS | {"manager_id"}


def fields_of(person: Person, names: Iterable[str]) -> dict[str, str | None]:
    """Some fields of a person as JSON carries them."""
    return {name: _as_json(field_of(person, name)) for name in names}


def _as_json(value: str | date | None) -> str | None:
    return as_text(value) if isinstance(value, date) else value


def with_fields(person: Person, document: Fields) -> Person:
    """The person with fields from JSON; the display name follows a changed name.

    Raises:
        InvalidInput: a field is unknown, or a date cannot be read.
    """
    if not document:
        return person
    for name in document:
        if name not in CHANGEABLE and not OWN_NAME.fullmatch(name):
            raise InvalidInput(
                f"'{name}' is not a field of a person.",
                place=name,
                remedy=f"Use one of: {', '.join(CHANGEABLE)}.",
            )
    after = with_values(person, ((n, _value(n, text)) for n, text in document.items()))
    return with_names(after, document.keys())


def _value(name: str, text: str | None) -> str | date | datetime | None:
    if not text and name in _OPTIONAL:
        return None
    try:
        if name in DAYS:
            return date.fromisoformat(str(text))
        if name in MOMENTS:
            moment = datetime.fromisoformat(str(text))
            if moment.tzinfo is None:
                raise ValueError("no offset")
            return moment
    except ValueError as error:
        raise InvalidInput(
            f"'{text}' is not a date for {name}.", place=name, remedy="Write 2031-03-07."
        ) from error
    if name == "groups":
        return "; ".join(groups_in(text or ""))
    if name == "time_zone" and not is_zone(text or ""):
        raise InvalidInput(
            f"There is no time zone '{text or ''}'.", place=name, remedy="Write Europe/Helsinki."
        )
    return text or ""


def difference(
    before: Person, after: Person, among: Iterable[str] | None = None
) -> tuple[dict[str, str | None], dict[str, str | None]]:
    """The fields that differ, as documents of their values before and after."""
    among = fields_of_both(before, after) if among is None else among
    names = [n for n in among if field_of(before, n) != field_of(after, n)]
    return fields_of(before, names), fields_of(after, names)


def told_changes(
    before: Person, after: Person, names: Mapping[str, str]
) -> tuple[tuple[str, str, str], ...]:
    """The fields that differ for people to read: name, before, after; who is named by ``names``."""
    was, becomes = difference(before, after)

    def told(value: str | None) -> str:
        return names.get(value or "", value or "")

    return tuple((name, told(was[name]), told(becomes[name])) for name in was)


def taken_back(person: Person, before: Fields, after: Fields) -> Person:
    """The person with a recorded change undone where it still stands (three-way)."""
    mine = fields_of(person, after)
    return with_fields(person, {n: before[n] for n in after if mine[n] == after[n]})
