"""Tasks of manual applications."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Request

from yugum.api.auth import Acting, Use, Viewer
from yugum.api.idempotency import IdempotentRoute
from yugum.api.parameters import Cursor, Limit, OfApplication
from yugum.api.shapes import number, page_of, shape
from yugum.core.tasks import TaskState
from yugum.wire import tasks as wt
from yugum.wire.common import BlankIsNone, Page

router = APIRouter(prefix="/tasks", tags=["tasks"], route_class=IdempotentRoute)


@router.get("", operation_id="tasks.list")
async def list_tasks(
    request: Request,
    use: Use,
    _: Viewer,
    application: OfApplication,
    state: Annotated[TaskState | None, BlankIsNone] = TaskState.OPEN,
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wt.TaskRow]:
    """Tasks, the most urgent first."""
    page = await use.tasks.page(state, application, cursor, limit)
    return page_of(page, lambda t: shape(wt.TaskRow, t, number=number(request, t.number)))


@router.post("/{task_id}/done", operation_id="tasks.done")
async def task_done(task_id: str, body: wt.TaskDone, use: Use, operator: Acting) -> wt.ClosedTask:
    """Report a task done, with what proves it; the docket goes on."""
    return shape(wt.ClosedTask, await use.tasks.done(task_id, body.evidence, operator.login))


@router.post("/{task_id}/refuse", operation_id="tasks.refuse")
async def refuse_task(
    task_id: str, body: wt.TaskRefused, use: Use, operator: Acting
) -> wt.ClosedTask:
    """Say why a task is not done; its step then needs attention."""
    return shape(wt.ClosedTask, await use.tasks.refuse(task_id, body.reason, operator.login))
