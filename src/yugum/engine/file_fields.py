"""The fields of a row of a file, each as the API would take it."""

from __future__ import annotations

from collections.abc import Iterator

from pydantic import ValidationError

from yugum.core.people_file import PersonRow
from yugum.wire import people as wp

TEXTS = {
    "user_name": "A login is lower-case letters, digits, dots, hyphens and underscores, at most 60.",
    "mail": "This is no mail address.",
    "outside_mail": "This is no mail address.",
    "phone": "This is no telephone number.",
    "mobile": "This is no telephone number.",
    "preferred_language": "This is no language tag, such as en or de-AT.",
    "locale": "This is no language tag, such as en or de-AT.",
    "time_zone": "Nobody knows this time zone; one is Europe/Oslo.",
}


def read_fields(row: PersonRow, said: dict[str, str]) -> None:
    """What of a row would be refused is its fault."""
    login = said.get("user_name") or "x"
    try:
        wp.NewPerson.model_validate({**said, "user_name": login})
    except ValidationError as error:
        for name, text in _problems(error):
            value = said.get(name, "")
            row.fault(name, f"'{value[:60]}': {text}", "Correct it.")


def _problems(error: ValidationError) -> Iterator[tuple[str, str]]:
    for one in error.errors():
        name = str(one["loc"][0]) if one["loc"] else "row"
        yield name, TEXTS.get(name, f"{one['msg'].removeprefix('Value error, ')}.")
