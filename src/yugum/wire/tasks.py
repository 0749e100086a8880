"""Tasks of applications without an interface."""

from __future__ import annotations

from yugum.core.actions import Action
from yugum.core.tasks import TaskState
from yugum.wire.common import Line, Model, Moment, Request, Seen, Words


class TaskRow(Model):
    """What the owner of a manual application is asked to do."""

    id: str
    application_id: str
    application_name: str
    contact: str
    subject_id: str
    subject_name: str
    docket_id: str
    number: str
    action: Seen[Action]
    item: str
    instructions: str
    state: Seen[TaskState]
    made_at: Moment
    due_at: Moment
    reminded_at: Moment | None
    escalated_at: Moment | None
    ended_at: Moment | None
    ended_by: str
    evidence: str


class TaskDone(Request):
    evidence: Line = ""


class TaskRefused(Request):
    reason: Words


class ClosedTask(Model):
    id: str
    state: Seen[TaskState]
