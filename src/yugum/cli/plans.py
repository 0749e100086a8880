"""Showing a plan, asking, confirming, and following the docket."""

from __future__ import annotations

import sys
from collections.abc import Sequence
from dataclasses import dataclass

import click

from yugum.cli.context import Context
from yugum.cli.doubts import until_right
from yugum.cli.output import STUCK, moment
from yugum.client.work import at_rest
from yugum.core.actions import Action
from yugum.core.actions.registry import ACTIONS
from yugum.core.dockets import DocketState
from yugum.wire import dockets as wd
from yugum.wire import plans as wl


def does(action: Action) -> str:
    """What a step does, in a word; one that a newer service knows as it is called."""
    spec = ACTIONS.get(action)
    return spec.words.does if spec else action.replace("_", " ")


@dataclass(frozen=True, slots=True, kw_only=True)
class Said:
    """What was said of carrying a plan out: asked or not, why, what is typed, and whether to wait."""

    yes: bool
    reference: str
    reason: str
    typed: str
    override: str
    wait: bool


class SaidNo(click.exceptions.Exit):
    """The answer to a plan was no: whatever would follow it does not."""


SHOWN = 5
"""Plans of a batch that are shown in full."""


def show(context: Context, batch: wl.BatchView) -> None:
    """A batch as people read it: summaries, cautions, then each step with its reason."""
    zone = context.zone()
    for plan in batch.plans[:SHOWN]:
        number = f" (no. {plan.employee_number})" if plan.employee_number else ""
        click.secho(f"{plan.title.capitalize()}: {plan.person_name}{number}", bold=True)
        click.echo(f"  {moment(plan.due_at, zone)}")
        for change in plan.changed:
            name = change.field.removeprefix("own.").removesuffix("_id").replace("_", " ")
            click.echo(f"  {name}: {change.before or 'nothing'} → {change.after or 'nothing'}")
        for line in plan.summary:
            click.echo(f"  {line}")
        for caution in plan.cautions:
            click.secho(f"  ! {caution.text}", fg="yellow")
        _steps(batch, plan)
        for stay in plan.stays:
            name = batch.applications.get(stay.application, stay.application)
            click.echo(f"    stays   {name}: {stay.item}  because {stay.reason}")
        for back in plan.fidelity:
            sign = "back" if back.comes_back else "LOST"
            click.echo(f"    {sign:7} {back.what}  ({back.why})")
    if len(batch.plans) > SHOWN:
        click.echo(f"… and {len(batch.plans) - SHOWN} more people with plans of their own.")


def _steps(batch: wl.BatchView, plan: wl.PlanView) -> None:
    phase = ""
    for step in plan.steps:
        if step.phase != phase:
            phase = step.phase
            click.echo(f"  {phase}")
        name = batch.applications.get(step.application_id, step.application_id)
        word = does(step.action)
        item = f" {step.item}" if step.item else ""
        warn = "  cannot be put back" if step.irreversible else ""
        click.echo(
            f"    {name}: {word}{item}  [{step.before} → {step.after}]  because {step.reason}{warn}"
        )


def carry_out(context: Context, plan: wl.NewPlan, said: Said) -> int:
    """Plan, show, ask, confirm, follow. Returns the exit code.

    Raises:
        SaidNo: whoever was asked does not want it.
    """
    plans = context.client().plans
    batch = until_right(
        lambda right: plans.make(plan.model_copy(update={"right": right})),
        plan.right,
        ask=not said.yes,
    )
    if plan.confidential:
        if context.form == "table":
            show(context, batch)
        context.output().one(batch, [f"Prepared in confidence: yugum plans fire {batch.id}"])
        return 0
    return confirmed(context, batch, said)


def confirmed(context: Context, batch: wl.BatchView, said: Said) -> int:
    """Show a plan, ask, confirm, follow. Returns the exit code.

    Raises:
        SaidNo: whoever was asked does not want it.
    """
    client = context.client()
    if context.form == "table":
        show(context, batch)
    if not any(p.steps or p.changes for p in batch.plans):
        context.output().one(batch, [])
        return 0
    if not said.yes and not click.confirm("Carry this out?", err=True):
        click.echo("Nothing was changed.", err=True)
        raise SaidNo(0)
    typed = said.typed
    if any(s.irreversible for p in batch.plans for s in p.steps) and not typed and not said.yes:
        typed = click.prompt("It cannot be put back. Type the login, or 'purge N'", err=True)
    dockets = client.plans.confirm(
        batch, reference=said.reference, reason=said.reason, typed=typed, override=said.override
    )
    code = follow(context, [d.number for d in dockets]) if said.wait else 0
    if context.form == "table":
        for docket in dockets[:SHOWN]:
            if docket.state is DocketState.SCHEDULED and not said.wait:
                click.echo(f"{docket.number}: due {moment(docket.due_at, context.zone())}")
    else:
        views = [client.dockets.show(d.number) for d in dockets]
        context.output().rows(views, {"number": "number", "state": "state"})
    return code


def follow(context: Context, numbers: Sequence[str]) -> int:
    """Show the progress of dockets until each has ended or waits for somebody."""
    code = 0
    for number in numbers:
        view = _watched(context, number)
        if view is None:
            continue
        stuck = view.state is DocketState.RUNNING and at_rest(view)
        if context.form == "table":
            click.echo(f"{number}: {_became(context, view)}")
            for step in view.steps if stuck else ():
                if step.problem:
                    click.secho(f"  ! {step.application_name}: {step.problem.text}", fg="yellow")
                    if step.problem.remedy:
                        click.echo(f"    → {step.problem.remedy}")
        code = STUCK if stuck else code
    return code


def _watched(context: Context, number: str) -> wd.DocketView | None:
    """A docket as it is when it has ended or waits. A line that is written over is for eyes only."""
    seen, view = context.form == "table" and sys.stderr.isatty(), None
    for view in context.client().dockets.follow(number):
        if seen and view.state is DocketState.RUNNING:
            line = f"\r{number}: {view.steps_done} of {view.steps_total} steps done"
            click.echo(line, nl=False, err=True)
    if seen:
        click.echo("\r\033[K", nl=False, err=True)
    return view


def _became(context: Context, view: wd.DocketView) -> str:
    if view.state is DocketState.AWAITING:
        asked = context.client().approvals.all(docket=view.number)
        names = "; ".join(f"{r.name}: {', '.join(a.name for a in r.asked)}" for r in asked)
        return f"waits for {names}"
    if view.state is DocketState.SCHEDULED:
        return f"due {moment(view.due_at, context.zone())}"
    return f"{view.outcome}, {view.steps_done} of {view.steps_total} steps"
