"""The standing difference, and looking at people again."""

from __future__ import annotations

import sys

import click

from yugum.cli.confirming import confirming, leaving_out
from yugum.cli.context import Context, pass_context
from yugum.cli.plans import Said, carry_out
from yugum.core.lines import CLOSING, LineKind, LineStatus, Side
from yugum.core.verbs import Verb
from yugum.wire import plans as wl
from yugum.wire import standing as ws

COLUMNS = {
    "application": "application_name",
    "login": "login",
    "what": "kind",
    "item": "item",
    "differs": "side",
    "held": "held",
    "wanted": "want",
    "status": "status",
    "waits for": "waits",
    "docket": "docket",
    "since": "since",
    "because": "reason",
}


def told(row: ws.StandingRow) -> str:
    """A line in words: ``entitlement deck missing, waits for an approval (MS-0321)``."""
    which = "not done" if row.item == CLOSING else row.side.value.replace("_", " ")
    what = f"{row.kind.value} {row.item}".strip() + f" {which}"
    status = row.status.value
    if row.status is LineStatus.WAITING:
        status = f"waits for {row.waits}"
    elif row.status is LineStatus.ACCEPTED:
        status = f"accepted by {row.accepted_by}: {row.accepted_why}"
    elif row.waits:
        status = f"needs {row.waits}"
    return f"{what}, {status}" + (f" ({row.docket})" if row.docket else "")


@click.group()
def standing() -> None:
    """What people should have against what they have."""


@standing.command("list")
@click.option("--status", type=click.Choice([s.value for s in LineStatus]), default=None)
@click.option("--kind", type=click.Choice([k.value for k in LineKind]), default=None)
@click.option("--side", type=click.Choice([s.value for s in Side]), default=None)
@click.option("--application", default="", help="In one application only (its id).")
@click.option("--hours", type=float, default=0.0, help="Standing so long or longer.")
@pass_context
def list_standing(context: Context, /, **choices: object) -> None:
    """List what is not as it should be, the oldest first."""
    client = context.client()
    behind = client.standing.behind()
    if behind.ahead:
        click.echo(f"{behind.ahead} of {behind.of} people are still looked at.", err=True)
    if behind.faults:
        text = f"The last look at everybody found {behind.faults} people who were not in step."
        click.echo(text, err=True)
    context.output().rows(
        client.standing.all(**choices),
        {"person": "display_name", **COLUMNS},
        empty="Everything is as it should be.",
    )


@standing.command("show")
@click.argument("who")
@pass_context
def show(context: Context, who: str) -> None:
    """What of WHO is not as it should be, this moment."""
    context.output().rows(
        context.client().people.show(who).standing, COLUMNS, empty="Everything is as it should be."
    )


@standing.command("accept")
@click.argument("who")
@click.argument("application")
@click.argument("kind", type=click.Choice([k.value for k in LineKind]))
@click.argument("item", default="")
@click.option("--side", type=click.Choice([s.value for s in Side]), required=True)
@click.option("--reason", required=True, help="Why it may stay so.")
@click.option("--until", default="", help="Until when; for good if left out.")
@pass_context
def accept(
    context: Context,
    who: str,
    application: str,
    kind: str,
    item: str,
    side: str,
    reason: str,
    until: str,
) -> None:
    """Settle that something of WHO may stay as it is: APPLICATION, KIND and ITEM name the line."""
    body = ws.Accept(
        who=who,
        application_id=application,
        kind=LineKind(kind),
        item=item,
        side=Side(side),
        reason=reason,
        ends=until,
    )
    made = context.client().standing.accept(body)
    context.output().one(made, [f"Accepted; end it with: yugum standing reopen {made.id}"])


@standing.command("reopen")
@click.argument("accepted")
@pass_context
def reopen(context: Context, accepted: str) -> None:
    """End what was ACCEPTED (its id): the line counts again."""
    done = context.client().standing.reopen(accepted)
    context.output().one(done, ["It counts again."])


@click.command()
@click.argument("who", nargs=-1, required=True)
@leaving_out
@confirming
@pass_context
def recheck(context: Context, who: tuple[str, ...], left_out: dict[str, str], said: Said) -> None:
    """Plan what WHO lacks or has too much by the rules now, but for what is in hand already."""
    plan = wl.NewPlan(verb=Verb.RECHECK, who=list(who), left_out=left_out)
    sys.exit(carry_out(context, plan, said))
