"""Equipment and keys: who has what, and what is to be collected."""

from __future__ import annotations

import click

from yugum.cli.context import Context, pass_context
from yugum.wire import equipment as we


@click.group("equipment")
def equipment() -> None:
    """Equipment and keys that people have, to be given back when they leave."""


@equipment.command("list")
@click.option("--who", default="", help="Only what this person has.")
@click.option("--due", is_flag=True, help="Only what is to be collected: its holder leaves.")
@click.option("--search", "q", default="", help="Part of a name or of what stands on it.")
@pass_context
def list_equipment(context: Context, who: str, due: bool, q: str) -> None:
    """List it, with who has it and when they leave."""
    columns = {
        "id": "id",
        "what": "name",
        "who has it": "display_name",
        "login": "user_name",
        "since": "since",
        "last working day": "last_working_day",
        "access ends": "access_ends",
    }
    rows = context.client().equipment.all(who=who, due=due, q=q)
    context.output().rows(rows, columns, empty="Nothing.")


@equipment.command("put")
@click.argument("thing", metavar="ID")
@click.option("--name", required=True)
@click.option("--holder", default="", help="Login or number of who has it; nobody if left out.")
@click.option("--renamed", is_flag=True, help="It is called otherwise from now on.")
@pass_context
def put_equipment(context: Context, thing: str, name: str, holder: str, renamed: bool) -> None:
    """Write down something, or who has it now."""
    new = we.NewThing(id=thing, name=name, holder=holder, renamed=renamed)
    context.client().equipment.put(new)
    click.echo(f"{name} is written down." if not holder else f"{name} is with {holder}.")


@equipment.command("back")
@click.argument("thing", metavar="ID")
@click.option("--note", default="")
@pass_context
def equipment_back(context: Context, thing: str, note: str) -> None:
    """It was given back."""
    context.client().equipment.back(thing, note)
    click.echo(f"{thing} is back.")


@equipment.command("drop")
@click.argument("thing", metavar="ID")
@pass_context
def drop_equipment(context: Context, thing: str) -> None:
    """Strike something that is not used any more."""
    context.client().equipment.drop(thing)
    click.echo(f"{thing} is struck.")
