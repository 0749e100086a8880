"""Tasks of manual applications, and the book of what such an application holds."""

from __future__ import annotations

import uuid
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import asdict
from datetime import datetime, timedelta
from typing import Any

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.accounts import AccountState, Observed
from yugum.core.tasks import TaskState
from yugum.errors import Conflict, NotFound
from yugum.ports.pages import ListPage
from yugum.ports.tasks import LateTask, NewTask, Task, TaskLine
from yugum.storage import tables as t
from yugum.storage.pages import fetch
from yugum.storage.rows import read, reader


def observed_from(external_id: str, document: Mapping[str, Any]) -> Observed:
    until = document.get("recoverable_until")
    return Observed(
        external_id=external_id,
        login=document["login"],
        state=AccountState(document["state"]),
        entitlements=frozenset(document.get("entitlements", ())),
        recoverable_until=datetime.fromisoformat(until) if until else None,
        correlation=document.get("correlation", ""),
        assets=(),
        display_name=document.get("display_name", ""),
        employee_number=document.get("employee_number", ""),
    )


def document_of(seen: Observed) -> dict[str, Any]:
    return {
        "login": seen.login,
        "state": seen.state.value,
        "entitlements": sorted(seen.entitlements),
        "recoverable_until": seen.recoverable_until.isoformat() if seen.recoverable_until else None,
        "correlation": seen.correlation,
        "display_name": seen.display_name,
        "employee_number": seen.employee_number,
    }


class Tasks:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    # --- the book ----------------------------------------------------------------------------

    async def book(self, application_id: str, after: str, limit: int) -> Sequence[Observed]:
        b = t.manual_accounts.c
        query = (
            sa.select(b.external_id, b.document)
            .where(b.application_id == application_id, b.external_id > after)
            .order_by(b.external_id)
            .limit(limit)
        )
        return [observed_from(r[0], r[1]) for r in await self.connection.execute(query)]

    async def entry(
        self, application_id: str, external_id: str, account_id: str, login: str
    ) -> Observed | None:
        """One entry: by its id, else by our correlation id, else by its login."""
        b = t.manual_accounts.c
        if external_id:
            which = b.external_id == external_id
        else:
            named = b.document["login"].as_string() == login
            ours = b.document["correlation"].as_string() == account_id
            which = sa.or_(ours, named) if account_id else named
        query = sa.select(b.external_id, b.document).where(
            b.application_id == application_id, which
        )
        row = (await self.connection.execute(query.limit(1))).first()
        return observed_from(row[0], row[1]) if row else None

    async def write(self, application_id: str, entries: Iterable[Observed]) -> None:
        statement = insert(t.manual_accounts)
        statement = statement.on_conflict_do_update(
            index_elements=["application_id", "external_id"],
            set_={"document": statement.excluded.document},
        )
        rows = [
            {
                "application_id": application_id,
                "external_id": e.external_id,
                "document": document_of(e),
            }
            for e in entries
        ]
        if rows:
            await self.connection.execute(statement, rows)

    async def remove(self, application_id: str, external_id: str) -> None:
        b = t.manual_accounts
        await self.connection.execute(
            sa.delete(b).where(b.c.application_id == application_id, b.c.external_id == external_id)
        )

    # --- tasks -------------------------------------------------------------------------------

    async def open(self, task: NewTask, now: datetime, within: timedelta) -> str:
        c = t.tasks.c
        same = sa.select(c.id).where(
            c.account_id == task.account_id,
            c.action == task.action.value,
            c.item == task.item,
            c.state == TaskState.OPEN.value,
        )
        if (found := await self.connection.scalar(same)) is not None:
            return str(found)
        step = await self._step_of(task)
        values = {
            **asdict(task),
            "id": str(uuid.uuid4()),
            "step_id": step.id,
            "docket_id": step.docket_id,
            "subject_id": step.subject_id,
            "action": task.action.value,
            "arguments": dict(task.arguments.document()),
            "made_at": now,
            "due_at": now + within,
        }
        await self.connection.execute(sa.insert(t.tasks), [values])
        return str(values["id"])

    async def _step_of(self, task: NewTask) -> sa.Row[Any, Any, Any]:
        """The step of a running docket that a task is for."""
        s, d = t.steps.c, t.dockets.c
        query = (
            sa.select(s.id, s.docket_id, s.subject_id)
            .join(t.dockets, d.id == s.docket_id)
            .where(
                s.account_id == task.account_id,
                s.action == task.action.value,
                s.item == task.item,
                d.state == "running",
                s.state.notin_(["done", "left_out"]),
            )
            .limit(1)
        )
        step = (await self.connection.execute(query)).first()
        if step is None:
            raise Conflict("A task belongs to a step of a running docket.")
        return step

    async def one(self, task_id: str) -> Task:
        query = sa.select(t.tasks).where(t.tasks.c.id == task_id).with_for_update()
        row = (await self.connection.execute(query)).mappings().first()
        if row is None:
            raise NotFound(f"There is no task {task_id}.", remedy="See: yugum tasks list.")
        return read(Task, row)

    async def close(self, task_id: str, state: TaskState, by: str, note: str, at: datetime) -> None:
        await self.connection.execute(
            sa.update(t.tasks)
            .where(t.tasks.c.id == task_id)
            .values(state=state.value, ended_by=by, evidence=note, ended_at=at)
        )

    async def refuse_step(self, step_id: str, text: str, remedy: str) -> None:
        s = t.steps
        await self.connection.execute(
            sa.update(s)
            .where(s.c.id == step_id, s.c.state.notin_(["done", "left_out"]))
            .values(
                state="attention",
                problem={"code": "refused", "text": text, "remedy": remedy},
                retry_at=None,
            )
        )

    async def page(
        self, state: TaskState | None, application_id: str, cursor: str | None, limit: int
    ) -> ListPage[TaskLine]:
        task = t.tasks.c
        query = (
            sa.select(
                t.tasks,
                t.applications.c.name.label("application_name"),
                t.applications.c.contact,
                t.faces.c.display_name.label("subject_name"),
                t.dockets.c.number,
            )
            .join(t.applications, t.applications.c.id == task.application_id)
            .join(t.faces, t.faces.c.id == task.subject_id)
            .join(t.dockets, t.dockets.c.id == task.docket_id)
        )
        if state:
            query = query.where(task.state == state.value)
        if application_id:
            query = query.where(task.application_id == application_id)
        return await fetch(
            self.connection,
            query,
            [task.due_at, task.id],
            reader(TaskLine),
            cursor=cursor,
            limit=limit,
            count=not cursor,
        )

    async def escalate_due(self, now: datetime) -> Sequence[LateTask]:
        """Tasks to be reminded of (half of their time is over) or escalated (all of it is)."""
        result = await self.connection.execute(
            sa.text(
                """UPDATE tasks SET
                     reminded_at = coalesce(reminded_at, :now),
                     escalated_at = CASE WHEN due_at <= :now THEN :now END
                   WHERE state = 'open' AND (
                     (reminded_at IS NULL AND made_at + (due_at - made_at) / 2 <= :now)
                     OR (escalated_at IS NULL AND due_at <= :now))
                   RETURNING id, docket_id, subject_id, application_id, instructions, escalated_at"""
            ),
            {"now": now},
        )
        return [LateTask(**r) for r in result.mappings()]
