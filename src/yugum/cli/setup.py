"""The first steps, one after the other: administrator, people, the first application, what is found there."""

from __future__ import annotations

import sys
from collections.abc import Callable
from pathlib import Path

import click

from yugum.cli.applications import read
from yugum.cli.context import Context, pass_context
from yugum.cli.login import login
from yugum.cli.operators import typed
from yugum.cli.people_files import people_file
from yugum.core.wording import plural
from yugum.errors import InvalidInput, YugumError
from yugum.wire import applications as wap

SELDOM = ("manual", "script", "sign-on", "web-hook")
"""Kinds that are kept by hand or have no accounts: an installation does not begin with them."""


@click.command("setup")
@click.argument("link", default="")
@pass_context
def setup(context: Context, link: str) -> None:
    """Lead through the first steps: by the one-time LINK, people from a file, the first application.

    What is done already is passed over, and an empty answer leaves a step for later: the command can be
    given again. The application is only watched; nothing is changed in it.
    """
    step = click.get_current_context()
    click.secho("1 of 4  You", bold=True)
    if link:
        step.invoke(login, link=link, name="", scope=None, days=90)
    client = context.client()
    me, whose = client.session(), client.status()
    click.echo(f"You are {me.operator.login} at {whose.organisation}; times are {me.zone}.")
    click.secho("2 of 4  People", bold=True)
    people = sum(whose.counts.people.values())
    if people:
        click.echo(f"{plural(people, 'person', 'people')} already.")
    else:
        _until_it_fits(lambda: _people(step))
    click.secho("3 of 4  The first application, which is watched", bold=True)
    if whose.applications:
        click.echo(f"There are: {', '.join(a.name for a in whose.applications)}.")
    else:
        _until_it_fits(lambda: _application(context, step))
    click.secho("4 of 4  What is found", bold=True)
    _found(context)


def _until_it_fits(ask: Callable[[], None]) -> None:
    """A step whose answer was refused is asked again, by somebody who sits there."""
    while True:
        try:
            ask()
        except YugumError as error:
            if not sys.stdin.isatty():
                raise
            click.secho(f"{error.message} {error.remedy}".strip(), fg="yellow", err=True)
        else:
            return


def _asked(prompt: str, default: str = "") -> str:
    """An answer as typed, or a line of what is piped in."""
    if sys.stdin.isatty():
        return str(click.prompt(prompt, default=default, show_default=bool(default), err=True))
    return sys.stdin.readline().strip() or default


def _people(step: click.Context) -> None:
    answer = _asked("A CSV file of them (login, number, names, department; nothing: later)")
    if not answer:
        click.echo("Later: yugum people file FILE.")
        return
    path = Path(answer).expanduser()
    if not path.is_file():
        raise InvalidInput(f"There is no file {path}.", place="file")
    try:
        step.invoke(
            people_file,
            file=path,
            columns=(),
            new=(),
            encoding="",
            empties="",
            rejected=None,
            check_only=False,
            yes=not sys.stdin.isatty(),
        )
    except SystemExit:
        return  # rows came back, as was said: the others are in


def _application(context: Context, step: click.Context) -> None:
    client = context.client()
    kinds = [k for k in client.applications.kinds() if k not in SELDOM]
    kind = _asked(f"Its kind ({', '.join(kinds)}; nothing: later)")
    if not kind:
        click.echo("Later: yugum apps connect.")
        return
    if kind not in kinds:
        raise InvalidInput(f"There is no kind {kind}.", place="kind")
    name = _asked("What people call it", kind)
    slug = "-".join(name.lower().split())
    asked = wap.ConnectApplication(
        id=_asked("Its short name in rules and commands", slug),
        name=name,
        kind=kind,
        url=_asked("Its address (nothing, if the credential holds it, as a connection URL does)"),
        secret=typed("Its credential (bearer token, bind password or connection URL)") or None,
    )
    row = client.applications.connect(asked)
    click.echo(f"{row.name} can: {', '.join(row.capabilities) or 'nothing'}")
    step.invoke(read, id=row.id, changes=False, believe=False)


def _found(context: Context) -> None:
    client = context.client()
    for one in client.findings.counts():
        click.echo(f"  {one.count} {one.kind.value.replace('-', ' ')}")
    ids = [a.id for a in client.applications.all() if a.trust != "full"]
    click.echo(
        "Look at them: yugum findings list. Then write what people should have, hold it against the "
        "applications and adopt it: yugum rules adopt FILE."
    )
    if ids:
        click.echo(f"From then on Yugum may act, if you say so: yugum apps trust {ids[0]} full.")
