"""The audit log."""

from __future__ import annotations

from typing import IO

import click

from yugum.cli.context import Context, pass_context
from yugum.errors import InvalidInput


@click.group()
def audit() -> None:
    """Who did what, when and why."""


@audit.command("list")
@click.option("--who", default="")
@click.option("--docket", default="")
@click.option("--action", default="")
@click.option("--limit", type=click.IntRange(1, 200), default=50)
@pass_context
def list_events(context: Context, who: str, docket: str, action: str, limit: int) -> None:
    """The newest events."""
    page = context.client().audit.page(who=who, docket=docket, action=action, limit=limit)
    context.output().rows(
        page.items,
        {
            "at": "at",
            "actor": "actor",
            "action": "action",
            "about": "subject_name",
            "what": "payload",
            "place": "leaf_index",
        },
        empty="No events.",
    )


@audit.command("export")
@click.argument("file", type=click.File("w"), default="-")
@pass_context
def export(context: Context, file: IO[str]) -> None:
    """Write the sealed log to FILE, one event a line, the signed head last."""
    for line in context.client().audit.export():
        file.write(line)


@audit.command("verify")
@click.argument("file", type=click.File("r", encoding="utf-8"))
@click.option("--key", default="", help="The verifying key you trust, in hex.")
def verify(file: IO[str], key: str) -> None:
    """Check an exported log without the service."""
    from yugum.processes import verify_export

    try:
        count = verify_export(file, key.strip())
    except UnicodeDecodeError as error:
        raise InvalidInput(
            f"{file.name} is no export: it is no text in UTF-8.",
            place="file",
            remedy="Make one with: yugum audit export FILE.",
        ) from error
    click.echo(f"{count} events, nothing changed, added or left out.")
