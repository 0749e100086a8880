"""Dockets: looking, undoing, cancelling, settling stuck steps; restoring an account."""

from __future__ import annotations

import sys

import click

from yugum.cli.confirming import confirming, leaving_out
from yugum.cli.context import Context, pass_context
from yugum.cli.lists import sorted_by
from yugum.cli.output import moment
from yugum.cli.plans import Said, carry_out, does, follow
from yugum.core.actions import Facet, describe
from yugum.core.dockets import DocketState, Outcome, Settlement, StepState, Verb
from yugum.core.lists import DocketSort, Order
from yugum.core.wording import plural
from yugum.errors import InvalidInput
from yugum.wire import dockets as wd
from yugum.wire import plans as wl
from yugum.wire.common import as_dataclass

SIGNS = {
    StepState.DONE: "✓",
    StepState.LEFT_OUT: "–",
    StepState.DUE: "○",
    StepState.INTENT: "…",
    StepState.SETTLING: "◌",
    StepState.WAITING: "!",
    StepState.ATTENTION: "!",
}


@click.group()
def dockets() -> None:
    """Plans being carried out."""


@dockets.command("list")
@click.option("--state", type=click.Choice([s.value for s in DocketState]), default=None)
@click.option("--verb", type=click.Choice([v.value for v in Verb]), default=None)
@click.option("--who", default="", help="About whom.")
@click.option("--author", default="", help="The login of who asked for it.")
@click.option("--reference", default="", help="The whole reference, in any case.")
@click.option("--since", default=None, help="Due from then on (RFC 3339).")
@click.option("--before", default=None, help="Due before then (RFC 3339).")
@click.option("--batch", default="", help="Confirmed together, by that id.")
@click.option("--stuck", is_flag=True, help="Only those that wait for somebody.")
@sorted_by(DocketSort, Order.DESCENDING)
@pass_context
def list_dockets(context: Context, /, **said: str | bool | None) -> None:
    """List dockets, the newest first unless told otherwise."""
    rows = context.client().dockets.all(**said)
    context.output().rows(
        rows,
        {
            "number": "number",
            "what": "title",
            "who": "subject_name",
            "state": "outcome",
            "due": "due_at",
            "steps": "steps_total",
            "done": "steps_done",
            "stuck": "steps_stuck",
            "by": "author",
            "reference": "reference",
        },
        more={"made": "made_at", "reason": "reason"},
        empty="No dockets.",
    )


@dockets.command("show")
@click.argument("number")
@pass_context
def show_docket(context: Context, number: str) -> None:
    """One docket with its steps and receipts."""
    view = context.client().dockets.show(number)
    context.output().one(view, docket_lines(view, context.zone()))


def docket_lines(view: wd.DocketView, zone: str) -> list[str]:
    """A docket as people read it."""
    lines = [f"{view.number} {view.title}: {view.subject_name}, {view.outcome}"]
    by = f"by {view.author}" + (f", reference {view.reference}" if view.reference else "")
    lines.append(f"  due {moment(view.due_at, zone)}, {by}")
    lines += [f"  {line}" for line in view.summary]
    if view.withheld:
        lines.append(f"  its notices are withheld: yugum dockets tell {view.number}")
    if view.cut_off_ms is not None:
        lines.append(f"  every account cut off in {view.cut_off_ms / 1000:.2f} s")
    for step in view.steps:
        item = f" {step.item}" if step.item else ""
        word = does(step.action)
        line = (
            f"  {SIGNS.get(step.state, '?')} {step.phase:10} {step.application_name}: {word}{item}"
        )
        if step.receipt:
            effect, outcome = _effect(step.receipt), step.receipt.outcome
            how = "" if outcome is Outcome.DONE else f" ({outcome})"
            line += f"  [{effect}]{how}" if effect else how
        if step.of and step.state is StepState.INTENT:
            line += f"  {step.moved} of {step.of}"
        lines.append(f"{line}  because {step.reason}")
        if step.problem and step.state is not StepState.DONE:
            lines.append(f"      {step.problem.text}  step {step.id}")
            if step.problem.remedy:
                lines.append(f"      → {step.problem.remedy}")
    lines += [f"  {'back' if f.comes_back else 'LOST'} {f.what} ({f.why})" for f in view.fidelity]
    return lines


def _effect(receipt: wd.Receipt) -> str:
    found, seen = (as_dataclass(x, Facet) for x in (receipt.found, receipt.seen))
    return describe(found, seen) if seen else ""


@dockets.command("follow")
@click.argument("number")
@pass_context
def follow_docket(context: Context, number: str) -> None:
    """Show progress until it has ended; Ctrl-C leaves it running."""
    sys.exit(follow(context, [number]))


@dockets.command("undo")
@click.argument("number")
@leaving_out
@confirming
@pass_context
def undo(context: Context, number: str, left_out: dict[str, str], said: Said) -> None:
    """Put back what a docket did; what cannot come back is said first."""
    plan = wl.NewPlan(verb=Verb.UNDO, docket=number, left_out=left_out)
    sys.exit(carry_out(context, plan, said))


@dockets.command("cancel")
@click.argument("number")
@click.option("--reason", default="")
@pass_context
def cancel(context: Context, number: str, reason: str) -> None:
    """Take back a docket that has not begun."""
    view = context.client().dockets.cancel(number, reason)
    context.output().one(view, [f"{view.number}: {view.state}"])


@dockets.command("end")
@click.argument("number")
@click.option("--reason", required=True, help="Why, for the record.")
@pass_context
def end(context: Context, number: str, reason: str) -> None:
    """End a running docket where it is stuck; what it leaves out stays a difference."""
    client = context.client()
    client.dockets.end(number, reason)
    view = list(client.dockets.follow(number))[-1]
    context.output().one(view, docket_lines(view, context.zone()))


@dockets.command("settle")
@click.argument("step")
@click.argument("how", type=click.Choice([s.value for s in Settlement]))
@click.option("--note", default="", help="Why, or what was done by hand.")
@pass_context
def settle(context: Context, step: str, how: str, note: str) -> None:
    """Retry a stuck STEP, leave it out, or note that it was done by hand."""
    view = context.client().dockets.settle(step, Settlement(how), note)
    context.output().one(view, docket_lines(view, context.zone()))


@dockets.command("batch")
@click.argument("number")
@pass_context
def batch(context: Context, number: str) -> None:
    """How the dockets stand that were confirmed together with NUMBER, and how long cutting off took."""
    client = context.client()
    mine = client.dockets.show(number).batch_id
    if mine is None:
        raise InvalidInput(f"{number} was not confirmed with others.", place="NUMBER")
    found = client.dockets.batch(mine)
    states = ("done", "running", "scheduled", "otherwise")
    stand = ", ".join(f"{getattr(found, n)} {n}" for n in states if getattr(found, n))
    lines = [f"{plural(found.dockets, 'docket')}: {stand}"]
    if found.stuck:
        lines.append(f"{found.stuck} stuck: yugum dockets list --batch {mine} --stuck")
    if found.half_ms is not None and found.longest_ms is not None:
        half, most = found.half_ms / 1000, found.longest_ms / 1000
        lines.append(f"{found.cut_offs} cut off: half within {half:.1f} s, all within {most:.1f} s")
    context.output().one(found, lines)


@dockets.command("tell")
@click.argument("number")
@pass_context
def tell(context: Context, number: str) -> None:
    """Send the notices that were withheld while a docket was confidential."""
    view = context.client().dockets.tell(number)
    context.output().one(view, [f"{view.number}: told"])


@dockets.command("record")
@click.argument("number")
@click.option("--form", type=click.Choice(["json", "csv", "html"]), default="csv")
@click.option("--batch", is_flag=True, help="All dockets confirmed together with this one.")
@pass_context
def record(context: Context, number: str, form: str, batch: bool) -> None:
    """Everything a docket took away or changed: who, what, before, after, when, on whose approval."""
    click.echo(context.client().dockets.record(number, form, batch=batch), nl=False)
