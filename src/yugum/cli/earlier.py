"""Somebody as they were."""

from __future__ import annotations

import click

from yugum.cli.context import Context, pass_context
from yugum.cli.output import moment


@click.command("then")
@click.argument("who")
@click.argument("when")
@pass_context
def show_then(context: Context, who: str, when: str) -> None:
    """WHO as they were at a moment of the past: fields, accounts and what these held."""
    client = context.client()
    view = client.people.then(who, client.clock.moment(when, who).at)
    lines = [f"{view.display_name}, {moment(view.at, context.zone())}"]
    lines += [f"  {name.replace('_', ' ')}: {value}" for name, value in view.fields.items()]
    for account in view.accounts:
        lines.append(f"{account.application_name}: {account.login} {account.state}")
        lines += [f"  {held}" for held in (*account.entitlements, *account.seats)]
    context.output().one(view, lines)
