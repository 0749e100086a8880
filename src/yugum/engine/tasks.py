"""Tasks: done or refused by the owner of an application, reminded of and escalated in time."""

from __future__ import annotations

import asyncio
import uuid
from dataclasses import replace
from datetime import datetime

from yugum.core.tasks import TaskState, after_task
from yugum.engine.events import make_event
from yugum.engine.files import parse_accounts
from yugum.errors import Conflict, InvalidInput, NotFound
from yugum.ports.clock import Clock
from yugum.ports.pages import ListPage
from yugum.ports.tasks import Task, TaskLine
from yugum.ports.units import Database


class Tasks:
    def __init__(self, database: Database, clock: Clock) -> None:
        self._database = database
        self._clock = clock

    async def page(
        self, state: TaskState | None, application_id: str, cursor: str | None, limit: int
    ) -> ListPage[TaskLine]:
        async with self._database.unit() as unit:
            return await unit.tasks.page(state, application_id, cursor, limit)

    async def done(self, task_id: str, evidence: str, author: str) -> Task:
        """The task was carried out: the book says so, and the docket goes on and reads it back.

        Raises:
            Conflict: it was closed otherwise already; a second ``done`` changes nothing.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            task = await unit.tasks.one(task_id)
            if task.state is TaskState.DONE:
                return task
            if task.state is not TaskState.OPEN:
                raise Conflict("This task was refused; retry its step to ask again.")
            application_id = task.application_id
            external_id = task.external_id or f"m-{uuid.uuid4().hex[:12]}"
            before = await unit.tasks.entry(
                application_id, task.external_id, task.account_id, task.login
            )
            after = after_task(
                before, task.action, task.item, task.arguments, external_id, task.account_id
            )
            if after is not None:
                await unit.tasks.write(application_id, [after])
            elif before is not None:
                await unit.tasks.remove(application_id, before.external_id)
            await unit.tasks.close(task_id, TaskState.DONE, author, evidence, now)
            await unit.leases.wake([task.subject_id], priority=5)
            await unit.hint()
            payload = {"task": task_id, "evidence": evidence, "step": task.step_id}
            await unit.audit.add(
                [make_event(now, author, "task.done", task.subject_id, payload, task.docket_id)]
            )
            return replace(task, state=TaskState.DONE)

    async def refuse(self, task_id: str, reason: str, author: str) -> Task:
        """The owner does not do it: the step needs somebody's attention, with the reason."""
        if not reason.strip():
            raise InvalidInput("Say why.", place="reason")
        now = await self._clock.now()
        async with self._database.unit() as unit:
            task = await unit.tasks.one(task_id)
            if task.state is not TaskState.OPEN:
                raise Conflict(f"This task is {task.state.value} already.")
            await unit.tasks.close(task_id, TaskState.REFUSED, author, reason, now)
            await unit.tasks.refuse_step(
                task.step_id,
                f"{author} does not do it: {reason}",
                "Settle it with them; then retry the step, or leave it out with a reason.",
            )
            payload = {"task": task_id, "reason": reason}
            await unit.audit.add(
                [make_event(now, author, "task.refused", task.subject_id, payload, task.docket_id)]
            )
            return replace(task, state=TaskState.REFUSED)

    async def escalate(self, now: datetime) -> int:
        """Remind and escalate what is due; returns how many tasks that were."""
        async with self._database.unit() as unit:
            late = await unit.tasks.escalate_due(now)
            await unit.audit.add(
                [
                    make_event(
                        now,
                        "schedule",
                        "task.escalated" if t.escalated_at else "task.reminded",
                        t.subject_id,
                        {"task": t.id, "instructions": t.instructions},
                        t.docket_id,
                    )
                    for t in late
                ]
            )
        return len(late)

    async def upload(self, application_id: str, text: str, author: str) -> int:
        """Take a CSV file as what a manual application holds; returns how many accounts.

        Every row is checked first.

        Raises:
            InvalidInput: the file is not of this form, with the line; nothing is taken then.
        """
        entries = await asyncio.to_thread(parse_accounts, text)  # a long file takes a while
        now = await self._clock.now()
        async with self._database.unit() as unit:
            application = (await unit.applications.all()).get(application_id)
            if application is None:
                raise NotFound(f"There is no application {application_id}.")
            if application.kind != "manual":
                raise Conflict(
                    f"{application.name} is read by its connector, not from a file.",
                    remedy=f"Use: yugum apps read {application_id}.",
                )
            await unit.tasks.write(application_id, entries)
            event = {"accounts": len(entries)}
            await unit.audit.add(
                [make_event(now, author, "application.uploaded", application_id, event)]
            )
        return len(entries)
