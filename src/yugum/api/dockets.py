"""Dockets: lists, one with its receipts, its progress as it happens, settling stuck steps."""

from __future__ import annotations

from collections.abc import AsyncIterator
from contextlib import aclosing

from fastapi import APIRouter, Request
from sse_starlette import EventSourceResponse, ServerSentEvent

from yugum.api.auth import Acting, Use, Viewer
from yugum.api.discretion import discreet, discreet_page
from yugum.api.idempotency import IdempotentRoute
from yugum.api.parameters import Cursor, Limit
from yugum.api.said import WhichDockets
from yugum.api.shapes import docket_row, docket_view, shape
from yugum.core.dockets import ENDED
from yugum.engine.access import Operator
from yugum.engine.services import Services
from yugum.wire import dockets as wd
from yugum.wire.common import Page

router = APIRouter(prefix="/dockets", tags=["dockets"], route_class=IdempotentRoute)


@router.get("", operation_id="dockets.list")
async def list_dockets(
    request: Request,
    use: Use,
    operator: Viewer,
    said: WhichDockets,
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wd.DocketRow]:
    page = await use.dockets.page(said.chosen(), said.who, cursor, limit)
    return await discreet_page(
        use, operator, page, lambda d: d.subject_id, lambda d: docket_row(request, d)
    )


@router.get("/{name}", operation_id="dockets.show")
async def show_docket(name: str, request: Request, use: Use, operator: Viewer) -> wd.DocketView:
    """A docket by its id or number (MS-0321)."""
    return await _shown(name, request, use, operator)


async def _shown(name: str, request: Request, use: Services, operator: Operator) -> wd.DocketView:
    docket, begins_now = await use.dockets.show(name)
    view = docket_view(request, docket, begins_now=begins_now)
    return await discreet(use, operator, view, docket.subject_id)


@router.post("/{name}/tell", operation_id="dockets.tell")
async def tell_docket(name: str, request: Request, use: Use, operator: Acting) -> wd.DocketView:
    """Send the notices that were withheld while it was confidential."""
    return docket_view(request, await use.dockets.tell(name, operator.login))


@router.get("/{name}/events", response_class=EventSourceResponse, operation_id="dockets.events")
async def docket_events(
    name: str, request: Request, use: Use, operator: Viewer
) -> EventSourceResponse:
    """Server-sent events: the docket whenever it has changed, until it has ended."""
    # What is not there is refused before a stream begins.
    first = await _shown(name, request, use, operator)
    stream = _changes(first.id, name, request, use, operator)
    return EventSourceResponse(stream, ping=15)


async def _changes(
    docket_id: str, name: str, request: Request, use: Services, operator: Operator
) -> AsyncIterator[ServerSentEvent]:
    last = ""
    async with aclosing(use.watching.changes(docket_id, operator)) as changes:
        async for _ in changes:
            view = await _shown(name, request, use, operator)
            text = view.model_dump_json()
            if text != last:
                last = text
                yield ServerSentEvent(text, event="docket")
            if view.state in ENDED:
                yield ServerSentEvent("", event="end")
                return


@router.get("/batches/{batch_id}", operation_id="dockets.batch")
async def show_batch(batch_id: str, use: Use, _: Viewer) -> wd.BatchTimes:
    """How the dockets stand that were confirmed together, and how long cutting off took."""
    return shape(wd.BatchTimes, await use.leaver_reports.batch(batch_id), id=batch_id)


@router.post("/{name}/cancel", operation_id="dockets.cancel")
async def cancel_docket(
    name: str, body: wd.Cancel, request: Request, use: Use, operator: Acting
) -> wd.DocketView:
    """Take back a docket that has not begun."""
    return docket_view(request, await use.dockets.cancel(name, operator.login, body.reason))


@router.post("/{name}/end", operation_id="dockets.end")
async def end_docket(
    name: str, body: wd.EndDocket, request: Request, use: Use, operator: Acting
) -> wd.DocketView:
    """End a running docket where it is stuck; what it leaves out stays a difference."""
    return docket_view(request, await use.dockets.end(name, operator.login, body.reason))


@router.post("/steps/{step_id}", operation_id="dockets.settle-step")
async def settle_step(
    step_id: str, body: wd.SettleStep, request: Request, use: Use, operator: Acting
) -> wd.DocketView:
    """Retry a stuck step, leave it out, or note that it was done by hand."""
    docket = await use.dockets.settle(step_id, body.how, body.note, operator.login)
    return docket_view(request, docket)
