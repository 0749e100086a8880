"""The ``yugum`` command.

Exit codes: 0 done; 1 unexpected; 2 wrong usage; 3 nothing or several by that name; 4 refused as
asked; 5 the service does not answer; 6 not signed in or not allowed; 7 an application does not do
its part, or a docket waits for somebody.
"""

from __future__ import annotations

import sys
from pathlib import Path

import click
from pydantic import ValidationError

from yugum import __version__
from yugum.cli import (
    allocations,
    applications,
    approvals,
    audit,
    correcting,
    decisions,
    dockets,
    earlier,
    equipment,
    findings,
    groups,
    guide,
    handover,
    issuing,
    login,
    merging,
    operators,
    orders,
    people,
    people_files,
    precautions,
    questions,
    quick,
    reports,
    reservations,
    rules,
    seat_reports,
    seats,
    serve,
    setup,
    shared,
    standing,
    status,
    tasks,
    verbs,
    views,
    waiting,
)
from yugum.cli.context import Context
from yugum.cli.output import fail
from yugum.errors import YugumError


@click.group(context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(__version__)
@click.option("--url", envvar="YUGUM_URL", default="", help="Address of the service.")
@click.option(
    "--token", envvar="YUGUM_TOKEN", default="", help="API token (better in YUGUM_TOKEN)."
)
@click.option(
    "--state",
    envvar="YUGUM_STATE",
    type=click.Path(path_type=Path),
    default=None,
    help="A demo's state folder, which knows address and token.",
)
@click.option("--output", "form", type=click.Choice(["table", "json", "csv"]), default="table")
@click.option("--columns", default="", help="Of a list: these columns, with commas between them.")
@click.pass_context
def cli(
    context: click.Context, url: str, token: str, state: Path | None, form: str, columns: str
) -> None:
    """Joiner, mover and leaver work for application accounts."""
    chosen = tuple(c.strip() for c in columns.split(",") if c.strip())
    context.obj = Context(url, token, state, form, chosen)


for command in (
    verbs.joiner,
    verbs.mover,
    verbs.leaver,
    verbs.returner,
    verbs.absence,
    verbs.rename,
    verbs.extend,
    status.today,
    people.people,
    people.accounts,
    quick.plans,
    quick.last_call,
    quick.holds,
    precautions.precautions,
    quick.cut_off_sheet,
    quick.calendar,
    quick.handovers,
    findings.findings,
    standing.standing,
    standing.recheck,
    shared.shared,
    equipment.equipment,
    groups.groups,
    guide.guide,
    handover.handover,
    tasks.tasks,
    tasks.stop,
    tasks.go_on,
    dockets.dockets,
    applications.apps,
    seats.seats,
    rules.rules,
    rules.roles,
    approvals.approvals,
    approvals.mails,
    approvals.names,
    approvals.credentials,
    audit.audit,
    reports.reports,
    operators.operators,
    orders.orders,
    operators.integrations,
    operators.sessions,
    operators.tokens,
    views.views,
    views.export,
    views.changes,
    waiting.waiting,
    status.clock,
    status.status,
    setup.setup,
    login.login,
    login.logout,
    serve.serve,
    serve.worker,
):
    cli.add_command(command)
for part in (
    reservations.reserve,
    reservations.pass_on,
    reservations.reservations,
    reservations.withdraw,
    questions.ask,
    questions.asked,
    allocations.give,
    allocations.take,
    allocations.from_file,
    allocations.matrix,
    seat_reports.costs,
    seat_reports.held,
    seat_reports.over,
    seat_reports.reclaimable,
    seat_reports.starting,
):
    seats.seats.add_command(part)
approvals.credentials.add_command(issuing.issue)
approvals.credentials.add_command(issuing.slips)
people.people.add_command(correcting.correct)
people.people.add_command(earlier.show_then)
people.people.add_command(decisions.list_decisions)
people.people.add_command(decisions.decide)
people.people.add_command(decisions.end_decision)
people.people.add_command(merging.merge)
people.people.add_command(merging.birthday)
people.people.add_command(people_files.people_file)
people.people.add_command(people_files.people_leavers)
people.people.add_command(people_files.people_files)
people.people.add_command(people_files.drop_people_file)
people.people.add_command(merging.split)
people.people.add_command(views.values)


def _whole(command: click.Command) -> None:
    """What a command does stands in its group's list to the end of its first sentence, not cut off."""
    first = (command.help or "").split("\n\n")[0]
    command.short_help = command.short_help or " ".join(first.split())
    for one in command.commands.values() if isinstance(command, click.Group) else ():
        _whole(one)


@cli.command()
@click.argument("shell", type=click.Choice(["bash", "zsh", "fish"]))
def completion(shell: str) -> None:
    """Print the line that turns on completion in a SHELL."""
    source = {
        "bash": 'eval "$(_YUGUM_COMPLETE=bash_source yugum)"',
        "zsh": 'eval "$(_YUGUM_COMPLETE=zsh_source yugum)"',
        "fish": "_YUGUM_COMPLETE=fish_source yugum | source",
    }
    click.echo(source[shell])


_whole(cli)


def main() -> None:
    """Run the command; errors are told with their remedy and become exit codes."""
    try:
        cli(standalone_mode=True)
    except YugumError as error:
        sys.exit(fail(error))
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(p) for p in first["loc"])
        click.echo(f"yugum: {first['msg']} ({place})", err=True)
        sys.exit(2)


if __name__ == "__main__":
    main()
