"""New credentials for many, and slips to hand them out."""

from __future__ import annotations

import os
from collections.abc import Mapping, Sequence
from pathlib import Path

import click

from yugum.cli.context import Context, pass_context
from yugum.cli.lists import choosing
from yugum.cli.plans import follow
from yugum.core.wording import plural
from yugum.errors import InvalidInput
from yugum.wire import credentials as wcr

APPLICATION = click.option(
    "--application", "applications", multiple=True, help="Only there; several times."
)
SLIP = b'class="slip"'
PRINTED = 100
"""People on one file of slips."""


@click.command("issue")
@choosing
@APPLICATION
@click.option("--reason", default="", help="Why, for the record.")
@click.option("--reference", default="")
@click.option("--slips", type=click.Path(dir_okay=False, path_type=Path), help="Print them there.")
@click.option("--yes", is_flag=True, help="Do not ask.")
@pass_context
def issue(
    context: Context,
    who: tuple[str, ...],
    matching: dict[str, str] | None,
    applications: tuple[str, ...],
    reason: str,
    reference: str,
    slips: Path | None,
    yes: bool,
) -> None:
    """A new credential for each open account of WHO, generated each, told of as the first one was.

    In all applications that take one, or those that are named. With --slips they are waited for and printed
    instead, one a page: for who has no mail.
    """
    people = _people(context, who, matching)
    files = _files(slips, people) if slips else {}
    client = context.client()
    rows = [r for wave in client.credentials.issue(people, applications, look=True) for r in wave]
    there = sorted({r.application_name for r in rows})
    meant = f"{plural(len(rows), 'account')} of {plural(len({r.person_id for r in rows}), 'person', 'people')}"
    if not rows:
        click.echo("They have no open account that takes a credential.", err=True)
        return
    if not yes and not click.confirm(f"{meant} in {', '.join(there)}. New ones?", err=True):
        click.echo("Nothing was changed.", err=True)
        return
    made: list[wcr.IssuedRow] = []
    for wave in client.credentials.issue(people, applications, reason=reason, reference=reference):
        made += wave
        click.echo(f"{len(made)} of {len(rows)} accounts", err=True)
    if slips is not None:
        follow(context, [r.docket for r in made if r.docket])
        _print(context, files, applications)
    columns = {
        "person": "person_name",
        "application": "application_name",
        "login": "login",
        "docket": "docket",
        "problem": "problem",
    }
    context.output().rows(made, columns)


@click.command("slips")
@choosing
@APPLICATION
@click.option("--to", "to", type=click.Path(dir_okay=False, path_type=Path), required=True)
@pass_context
def slips(
    context: Context,
    who: tuple[str, ...],
    matching: dict[str, str] | None,
    applications: tuple[str, ...],
    to: Path,
) -> None:
    """Print the credentials of WHO that nobody has opened, one a page, as HTML. With this they are opened."""
    _print(context, _files(to, _people(context, who, matching)), applications)


def _people(context: Context, who: Sequence[str], matching: dict[str, str] | None) -> list[str]:
    if matching is None:
        people = [*who]
    elif who:
        raise InvalidInput(
            "People are named, or filters say who it is; not both.",
            place="matching",
            remedy="Leave one of them out.",
        )
    else:
        people = [p.id for p in context.client().people.all(**matching)]
    if not people:
        raise InvalidInput("Nobody is named.", place="who", remedy="Name somebody, or --matching.")
    return people


def _files(to: Path, people: Sequence[str]) -> dict[Path, Sequence[str]]:
    """Files that are to be made, each with the hundred people on it; looked at before anything is done."""
    found: dict[Path, Sequence[str]] = {}
    for at in range(0, len(people), PRINTED):
        path = to if at == 0 else to.with_name(f"{to.stem}-{at // PRINTED + 1}{to.suffix}")
        if path.exists():
            raise InvalidInput(f"{path} is there already.", place="to", remedy="Name another file.")
        found[path] = people[at : at + PRINTED]
    return found


def _print(
    context: Context, files: Mapping[Path, Sequence[str]], applications: Sequence[str]
) -> None:
    """Readable by nobody else from the first byte on."""
    for path, people in files.items():
        flags = os.O_WRONLY | os.O_CREAT | os.O_EXCL
        with os.fdopen(os.open(path, flags, 0o600), "wb") as out:
            page = context.client().credentials.slips(people, applications)
            out.write(page)
        click.echo(f"{plural(page.count(SLIP), 'slip')} in {path}", err=True)
