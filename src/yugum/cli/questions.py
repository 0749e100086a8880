"""Whether unused seats are still needed."""

from __future__ import annotations

import click

from yugum.cli.context import Context, pass_context
from yugum.cli.named import pool_id
from yugum.core.wording import plural

COLUMNS = {
    "person": "person_name",
    "login": "login",
    "asked": "asked_at",
    "answer by": "answer_by",
    "answer": "answer",
    "kept until": "kept_until",
}


@click.command("ask")
@click.argument("pool")
@pass_context
def ask(context: Context, pool: str) -> None:
    """Ask by mail whoever does not use a seat of a POOL and was not asked; the rules say so (ask_days)."""
    client = context.client()
    people = client.seats.ask_unused(pool_id(client, pool))
    click.echo(f"{plural(people, 'person', 'people')} asked.")


@click.command("asked")
@click.argument("pool")
@pass_context
def asked(context: Context, pool: str) -> None:
    """Who was asked whether they still need a seat of a POOL, and what they answered."""
    client = context.client()
    rows = client.seats.asked(pool_id(client, pool))
    context.output().rows(rows, COLUMNS, empty="Nobody was asked.")
