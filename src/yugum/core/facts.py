"""Changes of people as JSON carries them, and back."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace
from datetime import date, datetime

from yugum.core.dates import is_zone
from yugum.core.people import CHANGEABLE, DAYS, MOMENTS, Person, as_text, with_names
from yugum.errors import InvalidInput

Fields = Mapping[str, str | None]
"""Fields of a person by name: days and moments as ISO 8601 text, nothing as null."""

_OPTIONAL = DAYS | MOMENTS | {"manager_id"}


def fields_of(person: Person, names: Iterable[str]) -> dict[str, str | None]:
    """Some fields of a person as JSON carries them."""
    return {name: _as_json(getattr(person, name)) for name in names}


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
        if name not in CHANGEABLE:
            raise InvalidInput(
                f"'{name}' is not a field of a person.",
                place=name,
                remedy=f"Use one of: {', '.join(CHANGEABLE)}.",
            )
    after = replace(person, **{name: _value(name, text) for name, text in document.items()})  # type: ignore[arg-type]
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
    if name == "time_zone" and not is_zone(text or ""):
        raise InvalidInput(
            f"There is no time zone '{text or ''}'.", place=name, remedy="Write Europe/Helsinki."
        )
    return text or ""


def difference(
    before: Person, after: Person, among: Iterable[str] = CHANGEABLE
) -> tuple[dict[str, str | None], dict[str, str | None]]:
    """The fields that differ, as documents of their values before and after."""
    names = [n for n in among if getattr(before, n) != getattr(after, n)]
    return fields_of(before, names), fields_of(after, names)


def taken_back(person: Person, before: Fields, after: Fields) -> Person:
    """The person with a recorded change undone where it still stands (three-way)."""
    mine = fields_of(person, after)
    return with_fields(person, {n: before[n] for n in after if mine[n] == after[n]})
