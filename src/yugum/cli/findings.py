"""Findings, and what to do about changes made outside."""

from __future__ import annotations

import sys

import click

from yugum.cli.context import Context, pass_context
from yugum.cli.plans import Said, carry_out
from yugum.cli.verbs import confirming
from yugum.core.decisions import DecisionKind
from yugum.core.deviations import DeviationState, Meaning
from yugum.core.findings import FindingKind
from yugum.core.verbs import Quick, Verb
from yugum.errors import InvalidInput
from yugum.wire import decisions as wd
from yugum.wire import plans as wl


@click.group()
def findings() -> None:
    """What the readings show that should not be."""


@findings.command("list")
@click.option("--kind", type=click.Choice([k.value for k in FindingKind]), default=None)
@pass_context
def list_findings(context: Context, kind: str | None) -> None:
    """List findings."""
    context.output().rows(
        context.client().findings.all(kind or ""),
        {
            "kind": "kind",
            "application": "application_name",
            "login": "login",
            "person": "display_name",
            "what": "text",
            "since": "since",
            "a month": "cost",
        },
        empty="Nothing was found that should not be.",
    )


@findings.command("counts")
@pass_context
def count_findings(context: Context) -> None:
    """How many there are of each kind, and what their seats cost a month."""
    context.output().rows(
        context.client().findings.counts(),
        {"kind": "kind", "count": "count", "a month": "cost"},
        empty="Nothing was found that should not be.",
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
