"""Writes docs/reference/cli.md and api.md from the commands and the API themselves."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any, cast

import click

from yugum.api.app import create_app
from yugum.cli.main import cli

REFERENCE = Path(__file__).parents[1] / "docs/reference"


def commands(command: click.Command, name: str) -> Iterator[tuple[str, click.Command]]:
    """Every command below one, with its whole name."""
    if isinstance(command, click.Group):
        for word, inner in sorted(command.commands.items()):
            yield from commands(inner, f"{name} {word}")
    else:
        yield name, command


def cli_text() -> str:
    parts = []
    for name, command in commands(cli, "yugum"):
        words = [name]
        options = []
        for option in command.params:
            if isinstance(option, click.Argument):
                words.append((option.name or "").upper() + ("…" if option.nargs == -1 else ""))
            elif isinstance(option, click.Option):
                options.append(f"- `{option.opts[-1]}` {option.help or ''}".rstrip())
        text = f"## `{' '.join(words)}`\n\n{(command.help or '').strip()}\n"
        parts.append(text + ("\n" + "\n".join(options) + "\n" if options else ""))
    return "\n".join(parts)


def api_text() -> str:
    app = create_app(cast("Any", None), cast("Any", None), "")
    rows = []
    for path, methods in sorted(app.openapi()["paths"].items()):
        for method, call in methods.items():
            told = (call.get("description") or call["summary"]).strip().split("\n")[0]
            rows.append(f"| `{method.upper()} {path.removeprefix('/api/v1')}` | {told} |")
    return "\n".join(rows) + "\n"


def main() -> None:
    """Keep each file's introduction and write the rest anew."""
    for name, begins, text in (("cli", "## `", cli_text()), ("api", "| `", api_text())):
        file = REFERENCE / f"{name}.md"
        head, _, _ = file.read_text().partition(begins)
        file.write_text(head + text)


if __name__ == "__main__":
    main()
