"""Correcting somebody's fields, and what follows from it."""

from __future__ import annotations

import sys

import click

from yugum.cli.confirming import confirming
from yugum.cli.context import Context, pass_context
from yugum.cli.doubts import until_right
from yugum.cli.fields import doubted
from yugum.cli.plans import Said, carry_out
from yugum.core.entry import Doubted
from yugum.core.verbs import Verb
from yugum.errors import InvalidInput
from yugum.wire import plans as wl


@click.command("correct")
@click.argument("who")
@click.argument("changes", nargs=-1, required=True, metavar="FIELD=VALUE...")
@doubted
@confirming
@pass_context
def correct(
    context: Context, who: str, changes: tuple[str, ...], right: tuple[Doubted, ...], said: Said
) -> None:
    """Correct fields of WHO, such as title=Bosun, phone= or own.locker=17b.

    The correction is stored at once; when something follows from it the plan is shown and asked about.
    """
    wrong = [part for part in changes if "=" not in part]
    if wrong:
        raise InvalidInput(f"'{wrong[0]}' is not FIELD=VALUE.", place="changes")
    client = context.client()
    fields: dict[str, str | None] = {}
    for part in changes:
        name, _, value = part.partition("=")
        fields[name] = value
    before = client.people.show(who)
    until_right(
        lambda r: client.people.change(before.id, fields, reason=said.reason, right=r),
        right,
        ask=not said.yes,
    )
    after = client.people.show(before.id)
    latest = after.facts[0] if after.rev != before.rev else None
    if context.form == "table":
        for name in fields:
            was, becomes = (latest.before, latest.after) if latest else ({}, {})
            if name in becomes:
                click.echo(f"{name}: {was[name] or 'nothing'} → {becomes[name] or 'nothing'}")
            else:
                click.echo(f"{name}: as it was")
    sys.exit(carry_out(context, wl.NewPlan(verb=Verb.RECHECK, who=[before.id]), said))
