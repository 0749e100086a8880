"""Quick actions on accounts, what is prepared in confidence, and what is about to be lost."""

from __future__ import annotations

import sys
from collections.abc import Callable
from datetime import timedelta
from typing import IO, Any, cast

import click

from yugum.cli.confirming import OVERRIDE, TYPED, confirming, leaving_out
from yugum.cli.context import Context, pass_context
from yugum.cli.named import account_ids
from yugum.cli.output import moment
from yugum.cli.people import accounts
from yugum.cli.plans import Said, carry_out, follow, show
from yugum.core.applications import Duty
from yugum.core.verbs import Quick, Verb
from yugum.wire import plans as wl

WORDS = {
    Quick.SUSPEND: "Suspend ACCOUNTS (ids, or WHO/APPLICATION) and end every way in; rules do not open them again.",
    Quick.RESUME: "Open suspended ACCOUNTS again.",
    Quick.ARCHIVE: "Archive ACCOUNTS where the application has an archive.",
    Quick.REOPEN: "Reopen archived ACCOUNTS.",
    Quick.DELETE: "Delete ACCOUNTS, recoverable for as long as the application's window says; where it "
    "knows no window, for good and as a purge.",
    Quick.RESTORE: "Restore deleted ACCOUNTS within their windows; they come back suspended.",
    Quick.PURGE: "Purge ACCOUNTS before their time: for good, typed, and agreed to by a second operator.",
    Quick.INVITE: "Have the invitation to ACCOUNTS sent again that nobody has accepted.",
    Quick.REQUIRE: "Ask for duties at the next sign-in to ACCOUNTS: --duty second_factor, several times.",
}


def _more(what: Quick) -> Callable[..., Any]:
    """The option that one of the actions has, and no other."""
    if what is Quick.REQUIRE:
        kinds = click.Choice([d.value for d in Duty])
        return click.option("--duty", type=kinds, multiple=True, required=True)
    if what is Quick.DELETE:
        return click.option("--successor", default="", help="Who takes over what they own.")
    return lambda command: command


def _command(what: Quick) -> Callable[..., None]:
    @click.argument("account", nargs=-1, required=True)
    @_more(what)
    @leaving_out
    @confirming
    @pass_context
    def act(
        context: Context,
        account: tuple[str, ...],
        left_out: dict[str, str],
        said: Said,
        successor: str = "",
        duty: tuple[str, ...] = (),
    ) -> None:
        plan = wl.NewPlan(
            verb=Verb.ACCOUNT,
            accounts=account_ids(context.client(), account),
            action=what,
            successor=successor,
            duties=[Duty(d) for d in duty],
            left_out=left_out,
        )
        sys.exit(carry_out(context, plan, said))

    act.__doc__ = WORDS[what]
    return cast("Callable[..., None]", act)


for _what in Quick:
    accounts.command(_what.value)(_command(_what))


@click.group()
def plans() -> None:
    """What you prepared in confidence; nobody else sees it."""


@plans.command("list")
@pass_context
def list_plans(context: Context) -> None:
    """What waits to be fired."""
    context.output().rows(
        context.client().plans.prepared(),
        {"id": "batch_id", "verb": "verb", "who": "names", "prepared": "made_at"},
        empty="Nothing is prepared.",
    )


@plans.command("show")
@click.argument("plan")
@pass_context
def show_plan(context: Context, plan: str) -> None:
    """Look at a prepared PLAN again."""
    show(context, context.client().plans.show(plan))


@plans.command("fire")
@click.argument("plan")
@click.option("--reference", default="")
@click.option("--reason", default="")
@click.option("--typed", default="", help=TYPED)
@click.option("--override", default="", help=OVERRIDE)
@pass_context
def fire(
    context: Context, plan: str, reference: str, reason: str, typed: str, override: str
) -> None:
    """Carry a prepared PLAN out at once, overtaking all other work.

    What is left out is as it was prepared.
    """
    dockets = context.client().plans.fire(
        plan, reference=reference, reason=reason, typed=typed, override=override
    )
    sys.exit(follow(context, [d.number for d in dockets]))


@click.command("last-call")
@click.option("--application", default="")
@click.option(
    "--days", type=click.IntRange(1, 3650), default=3650, help="Lost within so many days."
)
@pass_context
def last_call(context: Context, application: str, days: int) -> None:
    """What can still be brought back, what is lost first at the top."""
    rows = context.client().last_call(application=application, days=days)
    if context.form != "table":
        columns = ("account_id", "login", "display_name", "application_name", "recoverable_until")
        context.output().rows(rows, {c: c for c in columns})
        return
    for row in rows:
        name = row.display_name or row.login
        until = moment(row.recoverable_until, context.zone())
        held = "  on hold" if row.held else ""
        click.echo(f"{until}  {name}: {row.application_name}{held}  {row.account_id}")
    if not rows:
        click.echo("Nothing is about to be lost.")


@click.command("holds")
@pass_context
def holds(context: Context) -> None:
    """What must not be deleted or purged, with how to end it."""
    rows = list(context.client().decisions.holds())
    if context.form != "table":
        columns = ("id", "person_id", "application_id", "name", "reason", "author", "ends_at")
        context.output().rows(rows, {c: c for c in columns})
        return
    for row in rows:
        until = (
            f"until {moment(row.ends_at, context.zone())}" if row.ends_at else "until it is ended"
        )
        what = "application " if row.application_id else ""
        click.echo(f"{what}{row.name}  {until}  by {row.author}: {row.reason}")
        click.echo(f"    yugum people end-decision {row.id}")
    if not rows:
        click.echo("Nothing is on hold.")


@click.command("handovers")
@click.option("--docket", default="")
@click.option("--who", default="", help="Who gave or received it.")
@pass_context
def handovers(context: Context, docket: str, who: str) -> None:
    """Every thing that was handed over, and its new home; the newest first."""
    columns = {
        "what": "name",
        "kind": "kind",
        "application": "application_name",
        "from": "from_name",
        "to": "to_name",
        "copy": "copied",
        "docket": "number",
        "when": "at",
    }
    rows = context.client().handovers(docket=docket, who=who)
    context.output().rows(rows, columns, empty="Nothing was handed over.")


@click.command("calendar")
@click.option("--days", type=click.IntRange(1, 366), default=30, help="From now on.")
@click.option("--kind", multiple=True, help="Only these: a docket's verb, close, purge, remind …")
@click.option("--ics", is_flag=True, help="A year as iCalendar, as calendar programs fetch it.")
@pass_context
def calendar(context: Context, days: int, kind: tuple[str, ...], ics: bool) -> None:
    """What has a date: dockets, closings, windows that end, terms that run out."""
    client = context.client()
    if ics:
        click.echo(client.calendar_feed(), nl=False)
        return
    now = client.clock.show().now
    rows = client.calendar(now, now + timedelta(days=days), kind)
    columns = {
        "when": "at",
        "what": "kind",
        "docket": "number",
        "who": "display_name",
        "application": "application_name",
        "because": "text",
    }
    context.output().rows(rows, columns, empty=f"Nothing is dated in the next {days} days.")


@click.command("cut-off-sheet")
@click.argument("who", nargs=-1, required=True)
@click.option("--to", "file", type=click.File("w"), default="-")
@pass_context
def cut_off_sheet(context: Context, who: tuple[str, ...], file: IO[str]) -> None:
    """A page to print beforehand: where WHO gets in, and whom to call while Yugum is down."""
    file.write(context.client().cut_off_sheet(who))
