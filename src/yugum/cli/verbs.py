"""The verbs: joiner, mover, leaver, returner (and absence)."""

from __future__ import annotations

import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

import click

from yugum.cli.context import Context, pass_context
from yugum.cli.plans import carry_out
from yugum.core.dockets import Verb
from yugum.errors import InvalidInput
from yugum.wire import people as wp
from yugum.wire import plans as wl

F = TypeVar("F", bound=Callable[..., Any])


def confirming(command: F) -> F:
    """The options of every command that changes something."""
    for option in (
        click.option("--yes", is_flag=True, help="Do not ask."),
        click.option("--reference", default="", help="A ticket number to keep with it."),
        click.option("--reason", default="", help="Why, for the record."),
        click.option("--no-wait", is_flag=True, help="Do not follow the docket."),
    ):
        command = option(command)
    return command


def _run(
    context: Context, plan: wl.NewPlan, yes: bool, reference: str, reason: str, no_wait: bool
) -> None:
    sys.exit(
        carry_out(context, plan, yes=yes, reference=reference, reason=reason, wait=not no_wait)
    )


def fields(command: F) -> F:
    """A person's fields as options."""
    for name in ("department", "title", "site", "manager", "user-type"):
        command = click.option(f"--{name}", default=None)(command)
    return command


@click.command()
@click.argument("who")
@click.option("--given", default="", help="Given name; with --family a new person is made.")
@click.option("--family", default="")
@click.option("--number", default="", help="Employee number.")
@click.option("--starts", default="", help="First day: 2031-03-10, or a weekday.")
@click.option("--ends", default="", help="Last day of a fixed term.")
@click.option("--time-zone", default="")
@click.option("--mail", default="", help="An outside mail address.")
@fields
@confirming
@pass_context
def joiner(
    context: Context,
    /,
    who: str,
    given: str,
    family: str,
    number: str,
    starts: str,
    ends: str,
    time_zone: str,
    mail: str,
    yes: bool,
    reference: str,
    reason: str,
    no_wait: bool,
    **more: str | None,
) -> None:
    """Give WHO, from the first day on, what the roles say.

    WHO is somebody known, or with --given and --family the login of a new person.
    """
    if given or family:
        person = wp.NewPerson(
            user_name=who,
            given_name=given,
            family_name=family,
            employee_number=number,
            starts=starts,
            contract_ends=ends,
            time_zone=time_zone,
            outside_mail=mail,
            **{k: v or "" for k, v in more.items()},
        )
        context.client().people.create([person])
    elif any(more.values()) or starts:
        raise InvalidInput(
            "Fields are for a new person.",
            remedy="Name --given and --family too, or use: yugum mover.",
        )
    _run(context, wl.NewPlan(verb=Verb.JOINER, who=[who]), yes, reference, reason, no_wait)


@click.command()
@click.argument("who", nargs=-1, required=True)
@click.option(
    "--at", default="", help="When: 2031-03-10, Friday, 'Fri 17:00', +12d. Now if left out."
)
@fields
@confirming
@pass_context
def mover(
    context: Context,
    /,
    who: tuple[str, ...],
    at: str,
    yes: bool,
    reference: str,
    reason: str,
    no_wait: bool,
    **more: str | None,
) -> None:
    """Change what WHO is; what roles give is taken and given accordingly."""
    changes = {k: v for k, v in more.items() if v is not None}
    if "manager" in changes:
        changes["manager_id"] = context.client().people.show(str(changes.pop("manager"))).id
    plan = wl.NewPlan(verb=Verb.MOVER, who=list(who), at=at, changes=changes)
    _run(context, plan, yes, reference, reason, no_wait)


@click.command()
@click.argument("who", nargs=-1)
@click.option("--file", type=click.Path(exists=True, path_type=Path), help="Logins, one a line.")
@click.option("--at", default="", help="When access ends, in each person's zone. Now if left out.")
@click.option("--successor", default="", help="Who takes over; the manager if left out.")
@click.option("--urgent", is_flag=True, help="Overtake all other work.")
@confirming
@pass_context
def leaver(
    context: Context,
    who: tuple[str, ...],
    file: Path | None,
    at: str,
    successor: str,
    urgent: bool,
    yes: bool,
    reference: str,
    reason: str,
    no_wait: bool,
) -> None:
    """Cut WHO off everywhere, hand over what they own, free what they held."""
    people = list(who)
    if file is not None:
        people += [line.strip() for line in file.read_text().splitlines() if line.strip()]
    plan = wl.NewPlan(verb=Verb.LEAVER, who=people, at=at, successor=successor, urgent=urgent)
    _run(context, plan, yes, reference, reason, no_wait)


@click.command()
@click.argument("who", nargs=-1, required=True)
@click.option("--at", default="", help="First day back. Now if left out.")
@confirming
@pass_context
def returner(
    context: Context,
    who: tuple[str, ...],
    at: str,
    yes: bool,
    reference: str,
    reason: str,
    no_wait: bool,
) -> None:
    """Bring WHO back from absence or after having left, with all that can come back."""
    plan = wl.NewPlan(verb=Verb.RETURNER, who=list(who), at=at)
    _run(context, plan, yes, reference, reason, no_wait)


@click.command()
@click.argument("who", nargs=-1, required=True)
@click.option("--at", default="", help="When the absence begins. Now if left out.")
@click.option("--until", default="", help="When it ends.")
@confirming
@pass_context
def absence(
    context: Context,
    who: tuple[str, ...],
    at: str,
    until: str,
    yes: bool,
    reference: str,
    reason: str,
    no_wait: bool,
) -> None:
    """Suspend WHO for a time; everything is kept."""
    plan = wl.NewPlan(verb=Verb.ABSENCE, who=list(who), at=at, until=until)
    _run(context, plan, yes, reference, reason, no_wait)
