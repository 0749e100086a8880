"""The day sheet, business time, health."""

from __future__ import annotations

import sys

import click

from yugum.cli.context import Context, pass_context
from yugum.cli.output import moment
from yugum.cli.standing import told
from yugum.core.wording import plural
from yugum.wire import status as wz


@click.command()
@pass_context
def today(context: Context) -> None:
    """The day sheet: what is due, who is late, what is stuck."""
    client = context.client()
    sheet, figures = client.day(), client.figures()
    zone = sheet.zone
    lines = [moment(sheet.now, zone)]
    for title, rows in (
        (
            "Past their time, still open",
            [f"{r.display_name}: {r.application_name} {r.problem}" for r in sheet.open_late],
        ),
        (
            "Stuck",
            [
                f"{r.number} {r.display_name}: {r.application_name}, {r.problem}"
                for r in sheet.stuck
            ],
        ),
        ("Waits for somebody", _waiting(figures)),
        (
            "Not as it should be",
            [
                f"{r.display_name}: {r.application_name} {told(r)}, since {moment(r.since, zone)}"
                for r in sheet.standing
            ],
        ),
        (
            "Lost for good this week",
            [
                f"{moment(r.recoverable_until, zone)}  {r.display_name or r.login}: {r.application_name}"
                for r in sheet.last_call
            ],
        ),
        (
            "Today",
            [
                f"{moment(r.due_at, zone)}  {r.verb} {r.display_name}, {r.title}: {r.note}"
                for r in sheet.dockets
            ],
        ),
        (
            "This week",
            [
                f"{moment(r.due_at, zone)}  {r.verb} {r.display_name}, {r.title}"
                for r in sheet.later
            ],
        ),
    ):
        if rows:
            lines += [title, *(f"  {row}" for row in rows)]
    context.output().one(sheet, lines)


def _waiting(counts: wz.Figures) -> list[str]:
    """What waits for somebody to act, with the command that has it."""
    of = counts.over
    waits = (
        (counts.approvals, "approval", "approvals", "approvals list", "approvals"),
        (counts.tasks, "task", "tasks", "tasks list", "tasks"),
        (
            counts.late_tasks,
            "task past its time",
            "tasks past their time",
            "tasks list",
            "late_tasks",
        ),
        (
            counts.waiting_seats,
            "waits for a seat",
            "wait for a seat",
            "seats list",
            "waiting_seats",
        ),
        (
            counts.asked,
            "answer about a takeover",
            "answers about takeovers",
            "handover asked",
            "asked",
        ),
        (counts.failed_mails, "mail not sent", "mails not sent", "mails --unsent", "failed_mails"),
        (counts.findings, "finding", "findings", "findings list", "findings"),
    )
    return [
        f"{'over ' if name in of else ''}{plural(count, one, many)}: yugum {command}"
        for count, one, many, command, name in waits
        if count
    ]


@click.group()
def clock() -> None:
    """Business time; in a demo it is simulated and can be advanced."""


@clock.command("show")
@pass_context
def show_clock(context: Context) -> None:
    """What time it is for Yugum."""
    view = context.client().clock.show()
    kind = "simulated" if view.simulated else "real"
    context.output().one(view, [f"{moment(view.now, view.zone)} ({kind})"])


@clock.command("moment")
@click.argument("said")
@click.option("--who", default="", help="In whose zone; the installation's if left out.")
@pass_context
def read_moment(context: Context, said: str, who: str) -> None:
    """What a date or words such as 'Fri 17:00' mean: the full date with its zone."""
    view = context.client().clock.moment(said, who)
    context.output().one(view, [moment(view.at, view.zone)])


@clock.command("advance")
@click.argument("to")
@pass_context
def advance(context: Context, to: str) -> None:
    """In a demo: go to a moment (+12d, Friday, 2031-03-10), stopping wherever something is due."""
    zone = context.zone()
    stop = None
    for stop in context.client().clock.advance(to):
        if context.form == "table":
            due = f"  {stop.due} due" if stop.due else ""
            busy = "" if stop.drained else "  (some of it is still being done)"
            click.echo(f"{moment(stop.now, zone)}{due}{busy}")
    if stop is not None and context.form != "table":
        context.output().one(stop, [])


@click.command()
@pass_context
def status(context: Context) -> None:
    """Address and health of the service, its database and each application."""
    client = context.client()
    view = client.status(check=True)
    document = {"url": context.url, **view.model_dump(mode="json")}
    lines = [
        f"{view.organisation} at {context.url}, version {view.version}",
        f"  database answers in {view.database_ms:g} ms",
        *(
            f"  {a.name} at {a.address}: {a.problem or 'in order'}, {a.active} of {a.accounts} accounts active"
            for a in view.applications
        ),
    ]
    context.output().one(document, lines)
    if any(a.problem for a in view.applications):
        sys.exit(7)
