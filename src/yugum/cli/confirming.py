"""The options of commands that carry a plan out."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import Any, TypeVar

import click

from yugum.cli.plans import Said
from yugum.errors import InvalidInput

TYPED = "For what cannot be put back: the login, or 'purge N'."
OVERRIDE = "Why it is right all the same, where a guard of the rules stands in the way."
F = TypeVar("F", bound=Callable[..., Any])


def confirming(command: Callable[..., Any]) -> Callable[..., Any]:
    """The options of every command that changes something; it gets them as ``said``."""

    @wraps(command)
    def gathered(
        *args: object,
        yes: bool,
        reference: str,
        reason: str,
        typed: str,
        override: str,
        no_wait: bool,
        **more: object,
    ) -> object:
        said = Said(
            yes=yes,
            reference=reference,
            reason=reason,
            typed=typed,
            override=override,
            wait=not no_wait,
        )
        return command(*args, said=said, **more)

    for option in (
        click.option("--yes", is_flag=True, help="Do not ask."),
        click.option("--reference", default="", help="A ticket number to keep with it."),
        click.option("--reason", default="", help="Why, for the record."),
        click.option("--typed", default="", help=TYPED),
        click.option("--override", default="", help=OVERRIDE),
        click.option("--no-wait", is_flag=True, help="Do not follow the docket."),
    ):
        gathered = option(gathered)
    return gathered


def leaving_out(command: F) -> F:
    """The option to leave steps out; the command gets them as ``left_out``, each with why."""
    text = "application/action/item=REASON: a step not to do."
    return click.option("--leave-out", "left_out", multiple=True, callback=_parts, help=text)(
        command
    )


def _parts(_: click.Context, __: click.Parameter, said: tuple[str, ...]) -> dict[str, str]:
    left_out = dict(part.split("=", 1) for part in said if "=" in part)
    if len(left_out) < len(said) or not all(v.strip() for v in left_out.values()):
        raise InvalidInput(
            "A step is left out with a reason.",
            place="leave-out",
            remedy="For example: --leave-out 'crew-rosters/free_seat/Rosters planner=handed on'.",
        )
    return left_out
