"""Tasks of applications without an interface, and the book of what these hold."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Protocol

from yugum.core.accounts import Observed
from yugum.core.actions import Action, Arguments
from yugum.core.tasks import TaskState
from yugum.ports.pages import ListPage


@dataclass(frozen=True, slots=True, kw_only=True)
class NewTask:
    """What the owner of an application is asked to do, in words, within a time."""

    application_id: str
    account_id: str
    external_id: str
    login: str
    action: Action
    item: str
    arguments: Arguments
    instructions: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Task:
    """A task, locked for whoever closes it."""

    id: str
    step_id: str
    docket_id: str
    subject_id: str
    application_id: str
    account_id: str
    external_id: str
    login: str
    action: Action
    item: str
    arguments: Arguments
    state: TaskState


@dataclass(frozen=True, slots=True, kw_only=True)
class TaskLine:
    """A task in a list."""

    id: str
    application_id: str
    application_name: str
    contact: str
    subject_id: str
    subject_name: str
    docket_id: str
    number: int
    action: Action
    item: str
    instructions: str
    state: TaskState
    made_at: datetime
    due_at: datetime
    reminded_at: datetime | None
    escalated_at: datetime | None
    ended_at: datetime | None
    ended_by: str
    evidence: str


@dataclass(frozen=True, slots=True, kw_only=True)
class LateTask:
    """A task that somebody is reminded of or, with ``escalated_at``, told of because it is late."""

    id: str
    docket_id: str
    subject_id: str
    application_id: str
    instructions: str
    escalated_at: datetime | None


class TaskStore(Protocol):
    async def book(self, application_id: str, after: str, limit: int) -> Sequence[Observed]:
        """Entries of an application's book after an id, in the order of their ids."""
        ...

    async def entry(
        self, application_id: str, external_id: str, account_id: str, login: str
    ) -> Observed | None:
        """One entry: by its id, else by our correlation id, else by its login."""
        ...

    async def write(self, application_id: str, entries: Iterable[Observed]) -> None:
        """Write entries, new or known by their ids."""
        ...

    async def remove(self, application_id: str, external_id: str) -> None:
        """Take an entry out of the book."""
        ...

    async def open(self, task: NewTask, now: datetime, within: timedelta) -> str:
        """A task, or the one that is open for the same thing already; returns its id.

        Raises:
            Conflict: no step of a running docket asks for it.
        """
        ...

    async def one(self, task_id: str) -> Task:
        """One task, locked until the end of the transaction.

        Raises:
            NotFound: there is none of that id.
        """
        ...

    async def close(self, task_id: str, state: TaskState, by: str, note: str, at: datetime) -> None:
        """Close a task; ``note`` is what proves it done, or why it is refused."""
        ...

    async def refuse_step(self, step_id: str, text: str, remedy: str) -> None:
        """Let the step of a refused task ask for attention."""
        ...

    async def page(
        self, state: TaskState | None, application_id: str, cursor: str | None, limit: int
    ) -> ListPage[TaskLine]:
        """Tasks, the most urgent first."""
        ...

    async def escalate_due(self, now: datetime) -> Sequence[LateTask]:
        """Mark tasks to be reminded of (half of their time is over) or escalated (all of it is)."""
        ...
