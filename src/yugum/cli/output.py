"""Output as a table, as JSON or as CSV, and errors with their remedy."""

from __future__ import annotations

import csv
import io
import json
import sys
from collections.abc import Iterable, Mapping, Sequence
from datetime import UTC, datetime
from typing import Any
from zoneinfo import ZoneInfo

import click
from pydantic import BaseModel
from rich.console import Console
from rich.markdown import Markdown
from rich.table import Table

from yugum import errors
from yugum.core.records import csv_cell
from yugum.wire.guide import GuidePage

STUCK = 7
"""Also the exit code of a command whose docket waits for somebody."""


def fail(error: errors.YugumError) -> int:
    """Print what is wrong and what to do about it; returns the exit code."""
    place = f" ({error.place})" if error.place else ""
    click.echo(f"yugum: {error.message}{place}", err=True)
    if error.remedy:
        click.echo(f"  → {error.remedy}", err=True)
    return error.exit_code


def moment(value: datetime | None, zone: str = "UTC") -> str:
    """``Mon 3 Mar 2031 08:40`` in a zone, the zone named."""
    if value is None:
        return ""
    local = value.astimezone(ZoneInfo(zone))
    name = "UTC" if zone == "UTC" else local.tzname() or zone
    return f"{local:%a} {local.day} {local:%b %Y %H:%M} {name}"


class Output:
    """Writes rows in the form the user chose."""

    def __init__(self, form: str, zone: str = "UTC", columns: Sequence[str] = ()) -> None:
        self.form = form
        self.zone = zone
        self.columns = columns
        self._console = Console(width=None if sys.stdout.isatty() else 140, highlight=False)

    def rows(
        self,
        rows: Iterable[BaseModel],
        columns: Mapping[str, str],
        *,
        more: Mapping[str, str] | None = None,
        empty: str = "Nothing.",
    ) -> None:
        """Rows under headings; ``columns`` maps a heading to the field it shows.

        ``more`` are columns that are shown when they are asked for.

        Raises:
            InvalidInput: a column was asked for that this list has not.
        """
        columns = self._chosen({**columns, **(more or {})}) if self.columns else columns
        if self.form == "json":
            fields = set(columns.values()) if self.columns else None
            documents = [json.loads(r.model_dump_json(include=fields)) for r in rows]
            click.echo(json.dumps(documents, indent=2, ensure_ascii=False))
            return
        if self.form == "csv":
            self._csv(rows, columns)
            return
        table = Table(box=None, pad_edge=False, header_style="bold")
        for heading in columns:
            table.add_column(heading, overflow="fold")
        count = 0
        for row in rows:
            count += 1
            table.add_row(*(self._text(getattr(row, field)) for field in columns.values()))
        if count:
            self._console.print(table)
        else:
            click.echo(empty)

    def text(self, page: GuidePage) -> None:
        """A page in CommonMark, laid out for a terminal; its text as it is where that is no terminal."""
        if self.form == "json":
            click.echo(page.model_dump_json(indent=2))
        elif sys.stdout.isatty():
            self._console.print(Markdown(page.text))
        else:
            click.echo(page.text, nl=False)

    def _chosen(self, known: Mapping[str, str]) -> dict[str, str]:
        if unknown := [c for c in self.columns if c not in known]:
            raise errors.InvalidInput(
                f"This list has no column {unknown[0]}.",
                place="--columns",
                remedy=f"It has: {', '.join(known)}.",
            )
        return {c: known[c] for c in self.columns}

    def _csv(self, rows: Iterable[BaseModel], columns: Mapping[str, str]) -> None:
        buffer = io.StringIO()
        writer = csv.writer(buffer, lineterminator="\n")
        writer.writerow(columns.values())
        for row in rows:
            writer.writerow([_cell(getattr(row, field)) for field in columns.values()])
        click.echo(buffer.getvalue(), nl=False)

    def one(self, model: BaseModel | Mapping[str, Any], lines: Sequence[str]) -> None:
        """One thing: JSON as it is, else the given lines.

        Raises:
            InvalidInput: columns were asked for, which only lists have.
        """
        if self.columns:
            text = "Only lists have columns."
            raise errors.InvalidInput(text, place="--columns", remedy="Leave --columns out.")
        if self.form == "table":
            for line in lines:
                click.echo(line)
            return
        if isinstance(model, BaseModel):
            click.echo(model.model_dump_json(indent=2))
        else:
            click.echo(json.dumps(model, indent=2, ensure_ascii=False, default=str))

    def _text(self, value: object) -> str:
        if isinstance(value, datetime):
            return moment(value, self.zone)
        return _words(value)


def _cell(value: object) -> str:
    if isinstance(value, datetime):
        return value.astimezone(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
    return csv_cell(_words(value))


def _words(value: object) -> str:
    """A value in one line: lists with commas, what has parts of its own with spaces."""
    if isinstance(value, BaseModel):
        value = value.model_dump()
    if isinstance(value, Mapping):
        return " ".join(word for v in value.values() if (word := _words(v)))
    if isinstance(value, (list, tuple)):
        return ", ".join(_words(v) for v in value)
    return "" if value is None else str(value)
