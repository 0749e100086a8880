"""A person's fields as options."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

import click

from yugum.core.entry import Doubted
from yugum.errors import InvalidInput

F = TypeVar("F", bound=Callable[..., Any])
FIELDS = {
    "department": "",
    "title": "",
    "site": "",
    "manager": "Login, number or name.",
    "user-type": "Kind of employment.",
    "division": "",
    "organization": "",
    "cost-center": "",
    "phone": "At work.",
    "mobile": "",
    "middle-name": "",
    "nick-name": "",
    "honorific-prefix": "Such as Dr.",
    "honorific-suffix": "",
    "preferred-language": "Such as en or sv-FI.",
    "locale": "Such as en-GB.",
    "groups": "Those a source reports, separated by semicolons.",
}
"""Fields of a person that a joiner begins with and that change with a move."""


def doubted(command: F) -> F:
    """The option that says what is right; the command gets the fields as ``right``."""
    text = "What is right though it looks like a slip; several times."
    kinds = click.Choice([d.value for d in Doubted])
    return click.option("--right", "right", type=kinds, multiple=True, callback=_right, help=text)(
        command
    )


def _right(_: click.Context, __: click.Parameter, said: tuple[str, ...]) -> tuple[Doubted, ...]:
    return tuple(Doubted(name) for name in said)


def fields(command: F) -> F:
    """A person's fields as options, and the organisation's own as ``--own NAME=VALUE``."""
    own = "NAME=VALUE: an attribute of the organisation's own; an empty value takes it away."
    command = click.option("--own", multiple=True, callback=_own, help=own)(command)
    command = doubted(command)
    for name, text in FIELDS.items():
        command = click.option(f"--{name}", default=None, help=text or None)(command)
    return command


def _own(_: click.Context, __: click.Parameter, said: tuple[str, ...]) -> dict[str, str]:
    if wrong := [part for part in said if "=" not in part]:
        raise InvalidInput(
            f"'{wrong[0]}' names no value.", place="own", remedy="For example: --own locker=17b."
        )
    return dict(part.split("=", 1) for part in said)
