"""The guide in a terminal."""

from __future__ import annotations

import click

from yugum.cli.context import Context, pass_context


@click.command("guide")
@click.argument("name", default="")
@pass_context
def guide(context: Context, name: str) -> None:
    """What is promised and how it is asked for: a page by its NAME, or the list of pages."""
    client, output = context.client(), context.output()
    if name:
        output.text(client.guide.show(name))
    else:
        output.rows(client.guide.pages(), {"name": "name", "about": "title"})
