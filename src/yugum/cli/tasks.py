"""Tasks of manual applications, and the stop."""

from __future__ import annotations

import click

from yugum.cli.context import Context, pass_context
from yugum.core.tasks import TaskState


@click.group()
def tasks() -> None:
    """What owners of manual applications are asked to do."""


@tasks.command("list")
@click.option("--state", type=click.Choice([*(s.value for s in TaskState), ""]), default="open")
@click.option("--application", default="")
@pass_context
def list_tasks(context: Context, state: str, application: str) -> None:
    """List tasks, the most urgent first."""
    context.output().rows(
        context.client().tasks.all(state=state, application=application),
        {
            "due": "due_at",
            "application": "application_name",
            "what": "instructions",
            "for": "subject_name",
            "docket": "number",
            "contact": "contact",
            "escalated": "escalated_at",
            "id": "id",
        },
        empty="No tasks.",
    )


@tasks.command("done")
@click.argument("task")
@click.option("--evidence", default="", help="What proves it: a number, a sentence.")
@pass_context
def done(context: Context, task: str, evidence: str) -> None:
    """Report a TASK done; its docket goes on."""
    state = context.client().tasks.done(task, evidence)
    context.output().one(state, ["Done; the docket goes on."])


@tasks.command("refuse")
@click.argument("task")
@click.argument("reason")
@pass_context
def refuse(context: Context, task: str, reason: str) -> None:
    """Say why a TASK is not done."""
    state = context.client().tasks.refuse(task, reason)
    context.output().one(state, ["Refused; its step needs attention."])


@click.command()
@click.argument("reason")
@pass_context
def stop(context: Context, reason: str) -> None:
    """Stop everything but cut-offs, everywhere, at once."""
    view = context.client().stop(reason)
    context.output().one(view, [f"Stopped by {view.author}: {view.reason}. Lift it: yugum go-on"])


@click.command("go-on")
@pass_context
def go_on(context: Context) -> None:
    """Lift the stop."""
    view = context.client().go_on()
    context.output().one(view, ["Work goes on."])
