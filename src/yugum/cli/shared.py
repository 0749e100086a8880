"""Shared credentials: who knows them, and which are to be changed."""

from __future__ import annotations

import click

from yugum.cli.context import Context, pass_context
from yugum.wire import shared as ws


@click.group("shared")
def shared() -> None:
    """Credentials several people know; never the credentials themselves."""


@shared.command("list")
@click.option("--due", is_flag=True, help="Only those a leaver knew and nobody changed since.")
@click.option("--search", "q", default="", help="Part of the name or place.")
@pass_context
def list_shared(context: Context, due: bool, q: str) -> None:
    """List them, and who of those who know one has left."""
    columns = {
        "id": "id",
        "name": "name",
        "where": "place",
        "owner": "owner_name",
        "known by": "known_by",
        "have left": "left",
        "due since": "due_since",
        "changed": "changed_at",
    }
    empty = "None is to be changed." if due else "None that fits." if q else "None."
    context.output().rows(context.client().shared.all(due=due, q=q), columns, empty=empty)


@shared.command("put")
@click.argument("name_id", metavar="ID")
@click.option("--name", required=True)
@click.option("--place", default="", help="Where it opens something.")
@click.option("--owner", default="", help="Who changes it.")
@pass_context
def put_shared(context: Context, name_id: str, name: str, place: str, owner: str) -> None:
    """Write down a new one, or another name, place or owner."""
    context.client().shared.put(ws.NewShared(id=name_id, name=name, place=place, owner=owner))
    click.echo(f"{name} is written down.")


@shared.command("drop")
@click.argument("name_id", metavar="ID")
@pass_context
def drop_shared(context: Context, name_id: str) -> None:
    """Strike one that is not used any more."""
    context.client().shared.drop(name_id)
    click.echo(f"{name_id} is struck.")


@shared.command("known")
@click.argument("name_id", metavar="ID")
@click.option("--add", multiple=True, help="Login or number of somebody who knows it now.")
@click.option("--remove", multiple=True, help="Login or number of somebody who does not.")
@pass_context
def known(context: Context, name_id: str, add: tuple[str, ...], remove: tuple[str, ...]) -> None:
    """Who knows it; with --add or --remove, write that down."""
    client = context.client()
    if add or remove:
        client.shared.know(name_id, add, remove)
    columns = {"name": "display_name", "login": "user_name", "since": "since", "left": "left_at"}
    context.output().rows(client.shared.known(name_id), columns, empty="Nobody knows it.")


@shared.command("changed")
@click.argument("name_id", metavar="ID")
@click.option("--note", default="")
@pass_context
def changed(context: Context, name_id: str, note: str) -> None:
    """It was changed where it is kept: whoever has left does not know it any more."""
    context.client().shared.changed(name_id, note)
    click.echo(f"{name_id} is changed.")
