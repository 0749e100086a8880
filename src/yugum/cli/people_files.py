"""People from a file: checked, asked about, taken; what is wrong comes back as a file."""

from __future__ import annotations

import sys
from pathlib import Path

import click

from yugum.cli.context import Context, pass_context
from yugum.core.file_columns import accepted_of, pairs, plain
from yugum.core.people_file import RowState
from yugum.core.wording import plural
from yugum.wire import people_files as wpf

SHOWN = 20
FAULTY = 5
"""The exit code when some rows were not taken."""


@click.command("file")
@click.argument("file", type=click.Path(exists=True, dir_okay=False, path_type=Path))
@click.option(
    "--column",
    "columns",
    multiple=True,
    metavar="NAME=FIELD",
    help="What a column is; NAME= leaves it out.",
)
@click.option(
    "--new",
    "new",
    multiple=True,
    metavar="FIELD=VALUE",
    help="A value that is right though nobody has it yet.",
)
@click.option(
    "--empties", default="", metavar="TEXT", help="The text of a cell that empties its field."
)
@click.option("--encoding", default="", help="If it is not to be found out, such as windows-1252.")
@click.option(
    "--rejected",
    type=click.Path(dir_okay=False, path_type=Path),
    help="Where the rows go that are not taken; beside FILE otherwise.",
)
@click.option("--check-only", is_flag=True, help="Take nobody.")
@click.option("--yes", is_flag=True, help="Do not ask.")
@pass_context
def people_file(
    context: Context,
    /,
    file: Path,
    columns: tuple[str, ...],
    new: tuple[str, ...],
    rejected: Path | None,
    check_only: bool,
    yes: bool,
    **how: str,
) -> None:
    """Take people from a CSV FILE: new ones are made, known ones (by number, else login) corrected.

    Every row is checked before any is taken. Good rows are taken, the others come back in the file's own
    form with what is wrong. An empty cell changes nothing.
    """
    client = context.client()
    checked = client.people_files.check(
        file.name,
        file.read_bytes(),
        columns=dict(pairs(columns, "--column")),
        accepted=accepted_of(new, "--new"),
        empties=how["empties"],
        encoding=how["encoding"],
    )
    if context.form == "table":
        _told(context, checked)
    good = checked.new + checked.changed
    if good and not check_only:
        if yes or click.confirm(f"Take {good} of {_rows(checked)} rows?", err=True):
            checked = _taken(context, checked)
        else:
            click.echo("Nobody was taken.", err=True)
    if checked.faulty:
        to = rejected or file.with_name(f"{file.stem}-rejected{file.suffix}")
        to.write_bytes(client.people_files.rejected(checked.id))
        wrong = plural(checked.faulty, "row")
        click.echo(f"{wrong} to correct in {to}, each with what is wrong.", err=True)
    if context.form != "table":
        context.output().one(checked, [])
    sys.exit(FAULTY if checked.faulty else 0)


def _taken(context: Context, checked: wpf.PeopleFileView) -> wpf.PeopleFileView:
    good = checked.new + checked.changed
    file = checked
    for file in context.client().people_files.take(checked.id):
        if context.form == "table":
            click.echo(f"{file.taken} of {good} rows taken", err=True)
    return file


def _rows(file: wpf.PeopleFileView) -> int:
    return file.new + file.changed + file.same + file.faulty + file.taken


def _told(context: Context, file: wpf.PeopleFileView) -> None:
    part = {"\t": "tabs", "|": "bars"}.get(file.parting, file.parting)
    click.echo(
        f"{file.name}: {plural(_rows(file), 'row')}, {file.encoding}, cells parted by {part}"
    )
    for column in file.columns:
        read = "struck" if column.secret else column.field or "left out"
        if plain(read) != plain(column.name):
            click.echo(f"  {column.name}: {read}")
    click.echo(
        f"  {file.new} new, {file.changed} changed, {file.same} as they are, {file.faulty} faulty"
    )
    for field, values in file.fresh.items():
        some = ", ".join(values[:SHOWN]) + (" …" if len(values) > SHOWN else "")
        click.echo(f"  new in {field}: {some}")
    if file.faulty:
        page = context.client().people_files.rows(file.id, RowState.FAULTY, limit=SHOWN)
        for row in page.items:
            for fault in row.faults:
                click.echo(f"line {row.line}, {fault.place}: {fault.text} {fault.remedy}")
        if file.faulty > SHOWN:
            click.echo(f"… and {file.faulty - SHOWN} more rows.")


@click.command("files")
@pass_context
def people_files(context: Context) -> None:
    """The files of people of the last thirty days, the last ones first."""
    columns = {
        "id": "id",
        "file": "name",
        "by": "author",
        "at": "made_at",
        "new": "new",
        "changed": "changed",
        "as they are": "same",
        "faulty": "faulty",
        "taken": "taken",
    }
    context.output().rows(context.client().people_files.all(), columns, empty="No files.")


@click.command("drop-file")
@click.argument("id")
@pass_context
def drop_people_file(context: Context, id: str) -> None:
    """Forget what was kept of a file; whom it made stays."""
    context.client().people_files.drop(id)
    click.echo("It is forgotten.")
