"""Tasks of manual applications."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Query, Request

from yugum.api.auth import Acting, Use, Viewer
from yugum.api.idempotency import IdempotentRoute
from yugum.api.people import Cursor, Limit
from yugum.api.shapes import number, page_of
from yugum.wire import nouns as wn
from yugum.wire.common import Page

router = APIRouter(prefix="/tasks", tags=["tasks"], route_class=IdempotentRoute)


@router.get("")
async def list_tasks(
    request: Request,
    use: Use,
    _: Viewer,
    state: Literal["", "open", "done", "refused"] = "open",
    application: Annotated[str, Query(max_length=60)] = "",
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wn.TaskRow]:
    """Tasks, the most pressing first."""
    page = await use.tasks.page(state, application, cursor, limit)
    return page_of(
        page,
        lambda row: wn.TaskRow.model_validate({**row, "number": number(request, row["number"])}),
    )


@router.post("/{task_id}/done")
async def task_done(task_id: str, body: wn.TaskDone, use: Use, operator: Acting) -> wn.TaskState:
    """Report a task done, with what proves it; the docket goes on."""
    return wn.TaskState.model_validate(
        await use.tasks.done(task_id, body.evidence, operator.login), from_attributes=False
    )


@router.post("/{task_id}/refuse")
async def refuse_task(
    task_id: str, body: wn.TaskRefused, use: Use, operator: Acting
) -> wn.TaskState:
    """Say why a task is not done; its step then needs attention."""
    return wn.TaskState.model_validate(await use.tasks.refuse(task_id, body.reason, operator.login))
