"""Dockets: lists, one with its receipts, its progress as it happens, settling stuck steps."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from typing import Annotated, Literal

from fastapi import APIRouter, Query, Request
from sse_starlette import EventSourceResponse, ServerSentEvent

from yugum.api.auth import Acting, Use, Viewer
from yugum.api.discretion import discreet, discreet_rows
from yugum.api.idempotency import IdempotentRoute
from yugum.api.people import Cursor, Limit
from yugum.api.shapes import docket_row, docket_view, page_of
from yugum.engine.access import Operator
from yugum.engine.services import Services
from yugum.wire import dockets as wd
from yugum.wire.common import Page

router = APIRouter(prefix="/dockets", tags=["dockets"], route_class=IdempotentRoute)

POLL_SECONDS = 0.25


@router.get("")
async def list_dockets(
    request: Request,
    use: Use,
    operator: Viewer,
    state: Literal["", "awaiting", "scheduled", "running", "done", "cancelled", "superseded"] = "",
    verb: Annotated[str, Query(max_length=20)] = "",
    who: Annotated[str, Query(max_length=200)] = "",
    batch: Annotated[str, Query(max_length=60)] = "",
    stuck: bool = False,
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wd.DocketRow]:
    subject = ""
    if who:
        async with use.database.unit() as unit:
            subject = (await unit.people.resolve(who)).id
    page = await use.dockets.page(
        state=state,
        verb=verb,
        subject_id=subject,
        batch_id=batch,
        stuck=stuck,
        cursor=cursor,
        limit=limit,
    )
    page = await discreet_rows(use, operator, page, "subject_id")
    return page_of(page, lambda row: docket_row(request, row))


@router.get("/{name}")
async def show_docket(name: str, request: Request, use: Use, operator: Viewer) -> wd.DocketView:
    """A docket by its id or number (MS-0321)."""
    return await _shown(name, request, use, operator)


async def _shown(name: str, request: Request, use: Services, operator: Operator) -> wd.DocketView:
    row = await use.dockets.show(name)
    return await discreet(use, operator, docket_view(request, row), row["subject_id"])


@router.post("/{name}/tell")
async def tell_docket(name: str, request: Request, use: Use, operator: Acting) -> wd.DocketView:
    """Send the notices that were withheld while it was confidential."""
    return docket_view(request, await use.dockets.tell(name, operator.login))


@router.get("/{name}/events", response_class=EventSourceResponse)
async def docket_events(
    name: str, request: Request, use: Use, operator: Viewer
) -> EventSourceResponse:
    """Server-sent events: the docket whenever it has changed, until it has ended."""
    # What is not there is refused before a stream begins.
    await _shown(name, request, use, operator)
    return EventSourceResponse(_changes(name, request, use, operator), ping=15)


async def _changes(
    name: str, request: Request, use: Services, operator: Operator
) -> AsyncIterator[ServerSentEvent]:
    last = ""
    while not await request.is_disconnected():
        view = await _shown(name, request, use, operator)
        text = view.model_dump_json()
        if text != last:
            last = text
            yield ServerSentEvent(text, event="docket")
        if view.state in ("done", "cancelled", "superseded"):
            yield ServerSentEvent("", event="end")
            return
        await asyncio.sleep(POLL_SECONDS)


@router.post("/{name}/cancel")
async def cancel_docket(
    name: str, body: wd.Cancel, request: Request, use: Use, operator: Acting
) -> wd.DocketView:
    """Take back a docket that has not begun."""
    return docket_view(request, await use.dockets.cancel(name, operator.login, body.reason))


@router.post("/steps/{step_id}")
async def settle_step(
    step_id: str, body: wd.SettleStep, request: Request, use: Use, operator: Acting
) -> wd.DocketView:
    """Retry a stuck step, leave it out, or note that it was done by hand."""
    row = await use.dockets.settle(step_id, body.how, body.note, operator.login)
    return docket_view(request, row)
