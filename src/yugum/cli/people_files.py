"""People and leavers from a file: checked, asked about, taken; what is wrong comes back as a file."""

from __future__ import annotations

import sys
from collections.abc import Callable
from contextlib import suppress
from functools import partial, wraps
from pathlib import Path
from typing import Any

import click

from yugum.cli.confirming import confirming
from yugum.cli.context import Context, pass_context
from yugum.cli.plans import Said, SaidNo, confirmed
from yugum.core.file_columns import FileKind, accepted_of, pairs, plain
from yugum.core.people_file import RowState
from yugum.core.wording import plural
from yugum.errors import Conflict
from yugum.wire import people_files as wpf

SHOWN = 20
WORDS = {
    FileKind.PEOPLE: ("new", "changed", "as they are", "faulty"),
    FileKind.LEAVERS: ("to leave", "to leave otherwise", "as planned", "faulty"),
}
"""What rows that are new, changed, the same and faulty are called."""
FAULTY = 5
"""The exit code when some rows were not taken."""


def reading(kind: FileKind, command: Callable[..., Any]) -> Callable[..., Any]:
    """FILE and how it is to be read; the command gets the file that was checked, and where it goes."""

    @wraps(command)
    def gathered(
        context: Context,
        *,
        columns: tuple[str, ...],
        encoding: str,
        rejected: Path | None,
        file: Path,
        new: tuple[str, ...] = (),
        empties: str = "",
        **more: object,
    ) -> object:
        checked = context.client().people_files.check(
            file.name,
            file.read_bytes(),
            kind=kind,
            encoding=encoding,
            how=wpf.HowToRead(
                columns=dict(pairs(columns, "--column")),
                accepted=accepted_of(new, "--new"),
                empties=empties,
            ),
        )
        if context.form == "table":
            _told(context, checked)
        to = rejected or file.with_name(f"{file.stem}-rejected{file.suffix}")
        return command(context, checked, to, **more)

    for option in (
        click.argument("file", type=click.Path(exists=True, dir_okay=False, path_type=Path)),
        click.option(
            "--column",
            "columns",
            multiple=True,
            metavar="NAME=FIELD",
            help="What a column is; NAME= leaves it out.",
        ),
        click.option(
            "--encoding", default="", help="If it is not to be found out, such as windows-1252."
        ),
        click.option(
            "--rejected",
            type=click.Path(dir_okay=False, path_type=Path),
            help="Where the rows go that are not taken; beside FILE otherwise.",
        ),
    ):
        gathered = option(gathered)
    return gathered


@click.command("file")
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
@click.option("--check-only", is_flag=True, help="Take nobody.")
@click.option("--yes", is_flag=True, help="Do not ask.")
@pass_context
@partial(reading, FileKind.PEOPLE)
def people_file(
    context: Context, checked: wpf.PeopleFileView, to: Path, *, check_only: bool, yes: bool
) -> None:
    """Take people from a CSV FILE: new ones are made, known ones (by number, else login) corrected.

    Every row is checked before any is taken. Good rows are taken, the others come back in the file's own
    form with what is wrong. An empty cell changes nothing.
    """
    if _good(checked) and not check_only:
        if yes or click.confirm(f"Take {_good(checked)} of {_rows(checked)} rows?", err=True):
            checked = _taken(context, checked)
        else:
            click.echo("Nobody was taken.", err=True)
    _give_back(context, checked, to, 0)


@click.command("leavers")
@click.option("--check-only", is_flag=True, help="Plan nothing.")
@confirming
@pass_context
@partial(reading, FileKind.LEAVERS)
def people_leavers(
    context: Context, checked: wpf.PeopleFileView, to: Path, *, check_only: bool, said: Said
) -> None:
    """Plan for those who leave by a CSV FILE: who, when, who takes over, and why, each in a row.

    Every row is checked before any is planned. The plan of the good ones is shown and confirmed like any
    other; the others come back in the file's own form with what is wrong.
    """
    code, files = 0, context.client().people_files
    left = _good(checked) + 1
    while left > _good(checked) > 0 and not check_only:
        left = _good(checked)
        try:
            batch = files.plan(checked.id)
        except Conflict as error:  # what was left does not fit any more, and comes back
            click.echo(error.message, err=True)
        else:
            with suppress(SaidNo):
                code = max(code, confirmed(context, batch, said))
        checked = files.show(checked.id)
    _give_back(context, checked, to, code)


def _give_back(context: Context, checked: wpf.PeopleFileView, to: Path, code: int) -> None:
    """The rows that are to be corrected, as a file."""
    if checked.faulty:
        to.write_bytes(context.client().people_files.rejected(checked.id))
        wrong = plural(checked.faulty, "row")
        click.echo(f"{wrong} to correct in {to}, each with what is wrong.", err=True)
    if context.form != "table":
        context.output().one(checked, [])
    sys.exit(code or (FAULTY if checked.faulty else 0))


def _good(file: wpf.PeopleFileView) -> int:
    return file.new + file.changed


def _taken(context: Context, checked: wpf.PeopleFileView) -> wpf.PeopleFileView:
    good = _good(checked)
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
    words = WORDS[FileKind(file.kind)]
    counts = (file.new, file.changed, file.same, file.faulty)
    click.echo("  " + ", ".join(f"{n} {w}" for n, w in zip(counts, words, strict=True)))
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
    """The files of people and leavers of the last thirty days, the last ones first."""
    columns = {
        "id": "id",
        "of": "kind",
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
    """Forget what was kept of a file; whom it made, and what it planned, stays."""
    context.client().people_files.drop(id)
    click.echo("It is forgotten.")
