"""Findings, and what to do about changes made outside."""

from __future__ import annotations

import sys
from datetime import date
from itertools import islice

import click

from yugum.cli.confirming import confirming
from yugum.cli.context import Context, pass_context
from yugum.cli.plans import Said, carry_out
from yugum.cli.seats import day
from yugum.core.decisions import DecisionKind
from yugum.core.deviations import DeviationState, Meaning
from yugum.core.findings import FindingKind
from yugum.core.verbs import Quick, Verb
from yugum.core.wording import plural
from yugum.errors import InvalidInput
from yugum.wire import decisions as wd
from yugum.wire import findings as wf
from yugum.wire import plans as wl

KIND = click.Choice([k.value for k in FindingKind])


@click.group()
def findings() -> None:
    """What the readings show that should not be."""


@findings.command("list")
@click.option("--kind", type=KIND, default=None)
@click.option("--accepted", is_flag=True, help="Those that somebody has accepted.")
@click.option("--application", default="", help="Only those of this application, by its id.")
@click.option("--who", default="", help="Only those about this person.")
@pass_context
def list_findings(
    context: Context, kind: str | None, accepted: bool, application: str, who: str
) -> None:
    """List findings that nobody has accepted."""
    more = {"until": "accepted_until", "by": "accepted_by", "why": "accepted_why"}
    context.output().rows(
        context.client().findings.all(
            kind or "", accepted=accepted, application=application, who=who
        ),
        {
            "key": "key",
            "kind": "kind",
            "application": "application_name",
            "login": "login",
            "person": "display_name",
            "what": "text",
            "since": "since",
            "a month": "cost",
            **(more if accepted else {}),
        },
        empty="Nothing was found that should not be.",
    )


@findings.command("accept")
@click.argument("keys", nargs=-1, metavar="[KEY…]")
@click.option("--kind", type=KIND, required=True, help="Of which kind they are.")
@click.option("--all", "every", is_flag=True, help="All of the kind, at most 500.")
@click.option("--until", required=True, help="When they are told again: +30d, at most 90 days.")
@click.option("--reason", required=True, help="Why they may be so, for the record.")
@pass_context
def accept(
    context: Context, keys: tuple[str, ...], kind: str, every: bool, until: str, reason: str
) -> None:
    """Accept findings of a kind (KEY as yugum findings list has it): they are not told before that day."""
    client = context.client()
    if bool(keys) is every:
        raise click.UsageError("Name some KEYs, or say --all.")
    if every:
        keys = tuple(f.key for f in islice(client.findings.all(kind), wf.MOST + 1))
        if len(keys) > wf.MOST:
            raise InvalidInput(f"There are more than {wf.MOST}.", remedy="Name some by their keys.")
    if not keys:
        click.echo("Nothing of this kind was found.", err=True)
        return
    items = [wf.WhichFinding(kind=FindingKind(kind), key=key) for key in keys]
    done = client.findings.accept(wf.AcceptFindings(items=items, until=until, reason=reason))
    click.echo(f"{plural(done.accepted, 'finding')} accepted.", err=True)
    if done.refused:
        columns = {"kind": "kind", "key": "key", "problem": "problem"}
        context.output().rows(done.refused, columns)
        sys.exit(1)


@findings.command("reopen")
@click.argument("keys", nargs=-1, required=True, metavar="KEY…")
@click.option("--kind", type=KIND, required=True, help="Of which kind they are.")
@pass_context
def reopen(context: Context, keys: tuple[str, ...], kind: str) -> None:
    """Accepted findings of a kind are told again."""
    items = [wf.WhichFinding(kind=FindingKind(kind), key=key) for key in keys]
    done = context.client().findings.reopen(wf.ReopenFindings(items=items))
    click.echo(f"{plural(done.accepted, 'finding')} told again.", err=True)


@findings.command("counts")
@pass_context
def count_findings(context: Context) -> None:
    """How many there are of each kind, and what their seats cost a month."""
    context.output().rows(
        context.client().findings.counts(),
        {"kind": "kind", "count": "count", "a month": "cost"},
        empty="Nothing was found that should not be.",
    )


@findings.command("days")
@click.argument("begin", callback=day, default="")
@click.argument("end", callback=day, default="")
@pass_context
def list_days(context: Context, begin: date | None, end: date | None) -> None:
    """How many there were on each day from BEGIN to END (both inside); of the last ninety days without them."""
    context.output().rows(
        context.client().findings.days(begin, end),
        {"day": "day", "found": "found", "of which": "counts", "and more": "over"},
        empty="Nothing was counted in that time.",
    )


@findings.command("outside")
@click.option("--application", default="")
@click.option(
    "--state", type=click.Choice([*(s.value for s in DeviationState), ""]), default="open"
)
@pass_context
def outside(context: Context, application: str, state: str) -> None:
    """Changes made outside Yugum."""
    context.output().rows(
        context.client().findings.outside(application, state),
        {
            "application": "application_name",
            "login": "login",
            "person": "person_name",
            "what": "kind",
            "item": "item",
            "before": "was",
            "now": "now_is",
            "seen": "seen_at",
            "state": "state",
            "may mean": "means",
            "id": "id",
        },
        empty="Nothing was changed outside.",
    )


@findings.command("keep")
@click.argument("change")
@pass_context
def keep(context: Context, change: str) -> None:
    """Take a CHANGE made outside as right."""
    done = context.client().findings.keep(change)
    context.output().one(done, ["Kept."])


@findings.command("follow")
@click.argument("change")
@click.argument("meaning", type=click.Choice([m.value for m in Meaning]))
@click.option("--until", default="", help="Of an absence: when it ends.")
@confirming
@pass_context
def follow(context: Context, change: str, meaning: str, until: str, said: Said) -> None:
    """Carry a CHANGE over to all other applications, as what it means; then it is kept."""
    client = context.client()
    row = next((d for d in client.findings.outside() if d.id == change), None)
    if row is None or meaning not in [m.value for m in row.means]:
        raise InvalidInput(
            "This change cannot be followed so.",
            place="change",
            remedy="See what each may mean: yugum findings outside.",
        )
    who = [row.person_id or ""]
    match Meaning(meaning):
        case Meaning.LEAVER:
            plan = wl.NewPlan(verb=Verb.LEAVER, who=who)
        case Meaning.ABSENCE:
            plan = wl.NewPlan(verb=Verb.ABSENCE, who=who, until=until)
        case Meaning.PRECAUTION:
            plan = wl.NewPlan(verb=Verb.ACCOUNT, action=Quick.SUSPEND, accounts=row.elsewhere)
    code = carry_out(context, plan, said)
    if code == 0:
        client.findings.keep(change)
        if meaning == Meaning.PRECAUTION:  # no rule opens the one that was suspended outside either
            client.decisions.make(
                wd.NewDecision(
                    who=who[0],
                    kind=DecisionKind.SUSPEND,
                    payload=wd.DecisionPayload(application=row.application_id),
                    reason=said.reason or "suspended outside, as a precaution",
                )
            )
    sys.exit(code)


@findings.command("revert")
@click.argument("change")
@click.option("--yes", is_flag=True, help="Do not ask.")
@pass_context
def revert(context: Context, change: str, yes: bool) -> None:
    """Put a CHANGE made outside back."""
    client = context.client()
    row = next((d for d in client.findings.outside(state="") if d.id == change), None)
    if row is not None and not yes:
        what = f"{row.application_name}, {row.login}: {row.kind} {row.item}".rstrip()
        click.confirm(f"{what}: {row.now_is} → {row.was}. Put it back?", abort=True)
    done = client.findings.revert(change)
    context.output().one(done, [f"Put back by docket {done.docket}."])
