"""The audit log."""

from __future__ import annotations

from collections.abc import AsyncIterator

from fastapi import APIRouter
from fastapi.responses import StreamingResponse

from yugum.api.auth import Administrator, Use, Viewer
from yugum.api.discretion import discreet_page
from yugum.api.parameters import Cursor, Limit
from yugum.api.said import WhichEvents
from yugum.api.strict import StrictRoute
from yugum.wire import audit as wu
from yugum.wire.common import Page

router = APIRouter(prefix="/audit", tags=["audit"], route_class=StrictRoute)


@router.get("", operation_id="audit.list")
async def list_events(
    use: Use,
    operator: Viewer,
    said: WhichEvents,
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wu.AuditEvent]:
    page = await use.audit.page(
        who=said.who, docket=said.docket, action=said.action, cursor=cursor, limit=limit
    )
    return await discreet_page(
        use, operator, page, lambda e: e.subject, wu.AuditEvent.model_validate
    )


@router.get("/export", response_class=StreamingResponse, operation_id="audit.export")
async def export_events(use: Use, _: Administrator) -> StreamingResponse:
    """The sealed log as JSON lines with its signed head; check it with ``yugum audit verify``."""

    async def lines() -> AsyncIterator[bytes]:
        async for line in use.audit.lines():
            yield line.encode()

    return StreamingResponse(lines(), media_type="application/x-ndjson")
