"""Changes of people as JSON carries them, and back."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from datetime import date, datetime
from typing import Any

from yugum.core.dates import is_zone
from yugum.core.people import CHANGEABLE, Person, as_text, changed
from yugum.errors import InvalidInput

_DAYS = {"starts", "last_working_day", "contract_ends"}
_MOMENTS = {"access_ends", "absent_from", "absent_until"}
_OPTIONAL = _DAYS | _MOMENTS | {"manager_id"}


def to_document(changes: Mapping[str, Any]) -> dict[str, Any]:
    """Field values as JSON: days and moments as ISO 8601 text, nothing as null."""
    return {
        name: (as_text(value) if isinstance(value, (date, datetime)) else value)
        for name, value in changes.items()
    }


def from_document(document: Mapping[str, Any]) -> dict[str, Any]:
    """Field values from JSON.

    Raises:
        InvalidInput: a field is unknown, or a date cannot be read.
    """
    changes: dict[str, Any] = {}
    for name, value in document.items():
        if name not in CHANGEABLE:
            raise InvalidInput(
                f"'{name}' is not a field of a person.",
                place=name,
                remedy=f"Use one of: {', '.join(CHANGEABLE)}.",
            )
        changes[name] = _value(name, value)
    return changes


def _value(name: str, value: Any) -> Any:
    if value in (None, "") and name in _OPTIONAL:
        return None
    try:
        if name in _DAYS:
            return date.fromisoformat(str(value))
        if name in _MOMENTS:
            moment = datetime.fromisoformat(str(value))
            if moment.tzinfo is None:
                raise ValueError("no offset")
            return moment
    except ValueError as error:
        raise InvalidInput(
            f"'{value}' is not a date for {name}.", place=name, remedy="Write 2031-03-07."
        ) from error
    text = "" if value is None else str(value)
    if name == "time_zone" and not is_zone(text):
        raise InvalidInput(
            f"There is no time zone '{text}'.", place=name, remedy="Write Europe/Helsinki."
        )
    return text


def difference(
    before: Person, after: Person, among: Iterable[str] = CHANGEABLE
) -> tuple[dict[str, Any], dict[str, Any]]:
    """The fields that differ, as documents of their values before and after."""
    names = [n for n in among if getattr(before, n) != getattr(after, n)]
    return (
        to_document({n: getattr(before, n) for n in names}),
        to_document({n: getattr(after, n) for n in names}),
    )


def taken_back(person: Person, before: Mapping[str, Any], after: Mapping[str, Any]) -> Person:
    """The person with a recorded change undone where it still stands (three-way)."""
    mine = to_document({n: getattr(person, n) for n in after})
    back = {n: before[n] for n in after if mine[n] == after[n]}
    return changed(person, from_document(back)) if back else person
