"""Everything that waits for somebody, in one list."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import suppress
from datetime import datetime

import click
from pydantic import BaseModel

from yugum.cli.context import Context, pass_context
from yugum.client import Client
from yugum.errors import Forbidden


class Waiting(BaseModel):
    """One thing that waits, since or until when, and the command that goes on with it."""

    kind: str
    about: str
    what: str
    at: datetime | None
    command: str


def _all(client: Client) -> Iterator[Waiting]:
    yield from _answers(client)
    yield from _work(client)


def _answers(client: Client) -> Iterator[Waiting]:
    """Where somebody has to say something."""
    for stuck in client.dockets.all(stuck=True):
        yield Waiting(
            kind="stuck",
            about=stuck.subject_name,
            what=f"{stuck.title}: {stuck.steps_stuck} of {stuck.steps_total} steps",
            at=stuck.due_at,
            command=f"yugum dockets show {stuck.number}",
        )
    for asked in client.approvals.all():
        yield Waiting(
            kind="approval",
            about=asked.subject_name,
            what=f"{asked.verb}: {asked.name}",
            at=asked.expires_at,
            command=f"yugum approvals give {asked.id}",
        )
    with suppress(Forbidden):  # who only looks prepares nothing
        for plan in client.plans.prepared():
            yield Waiting(
                kind="prepared",
                about=", ".join(plan.names),
                what=plan.verb,
                at=plan.due_at,
                command=f"yugum plans fire {plan.batch_id}",
            )
    for takes in client.handover.asked(answer="open"):
        yield Waiting(
            kind="takeover",
            about=takes.heir_name,
            what=f"{takes.count} {takes.thing} of {takes.name} in {takes.application_name}",
            at=takes.answer_by,
            command=f"yugum handover answer {takes.id}",
        )


def _work(client: Client) -> Iterator[Waiting]:
    """Where somebody has to do something."""
    for task in client.tasks.all(state="open"):
        yield Waiting(
            kind="task",
            about=task.subject_name,
            what=f"{task.application_name}: {task.instructions}",
            at=task.due_at,
            command=f"yugum tasks done {task.id}",
        )
    for thing in client.equipment.all(due=True):
        yield Waiting(
            kind="to collect",
            about=thing.display_name or "",
            what=thing.name,
            at=thing.access_ends,
            command=f"yugum equipment back {thing.id}",
        )
    for secret in client.shared.all(due=True):
        yield Waiting(
            kind="to change",
            about=", ".join(secret.left),
            what=f"{secret.name} ({secret.place})",
            at=secret.due_since,
            command=f"yugum shared changed {secret.id}",
        )
    for link in client.accounts.proposals():
        yield Waiting(
            kind="link",
            about=link.person_name,
            what=f"{link.application_name}: {link.login}",
            at=None,
            command=f"yugum accounts link {link.account_id} {link.person_id}",
        )


@click.command("waiting")
@pass_context
def waiting(context: Context) -> None:
    """Everything that waits for somebody, with the command that goes on with it."""
    context.output().rows(
        _all(context.client()),
        {"kind": "kind", "about": "about", "what": "what", "by": "at", "go on with": "command"},
        empty="Nothing waits for anybody.",
    )
