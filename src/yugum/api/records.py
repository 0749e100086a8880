"""Records of dockets, the cut-off sheet, and what can still be brought back."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Request, Response
from fastapi.responses import JSONResponse

from yugum.api.auth import Administrator, Use, Viewer
from yugum.api.calendar import feed
from yugum.api.discretion import discreet_page
from yugum.api.idempotency import IdempotentRoute
from yugum.api.parameters import At, Cursor, Limit, OfApplication, OneOf, Who
from yugum.api.said import WhichWindows
from yugum.api.shapes import (
    decision_view,
    installation,
    number,
    page_of,
    precaution_row,
    shape,
)
from yugum.core.documents import full
from yugum.core.obligations import ObligationKind
from yugum.core.verbs import Verb
from yugum.engine.records import RecordForm
from yugum.pages import STYLE_SOURCE
from yugum.ports.obligations import DatedLine
from yugum.wire import day as wy
from yugum.wire import decisions as wx
from yugum.wire.applications import HoldRequest
from yugum.wire.common import Line, Page

router = APIRouter(tags=["records"], route_class=IdempotentRoute)


def _page(text: str) -> Response:
    """A page to print, which has its style in itself and loads nothing."""
    policy = (
        f"default-src 'none'; style-src {STYLE_SOURCE}; base-uri 'none'; frame-ancestors 'none'"
    )
    return Response(text, media_type="text/html", headers={"Content-Security-Policy": policy})


@router.get("/dockets/{name}/record", response_class=Response, operation_id="dockets.record")
async def docket_record(
    name: str,
    request: Request,
    use: Use,
    operator: Viewer,
    form: RecordForm = RecordForm.JSON,
    batch: bool = False,
) -> Response:
    """Everything a docket took away or changed: who, what, before and after, when, why, verified."""
    first, lines = await use.records.of_docket(
        name, lambda n: number(request, n), operator.role, batch=batch
    )
    match form:
        case RecordForm.JSON:
            return JSONResponse([full(line) for line in lines])
        case RecordForm.CSV:
            return Response(use.records.table_of(lines), media_type="text/csv")
        case RecordForm.HTML:
            return _page(await use.records.page_of(first, lines))


@router.get("/handovers", operation_id="handovers.list")
async def list_handovers(
    request: Request,
    use: Use,
    _: Viewer,
    docket: OneOf = "",
    who: Who = "",
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wy.HandoverRow]:
    """Every thing that was handed over, and its new home; the newest first."""
    page = await use.overview.handovers(docket, who, cursor, limit)
    return page_of(page, lambda h: shape(wy.HandoverRow, h, number=number(request, h.number)))


@router.get("/cut-off-sheet", response_class=Response, operation_id="people.cut-off-sheet")
async def cut_off_sheet(
    use: Use, _: Viewer, who: Annotated[list[Line], Query(min_length=1, max_length=200)]
) -> Response:
    """A page to print beforehand: where some people get in, and whom to call while Yugum is down."""
    return _page(await use.records.sheet(who))


@router.get("/last-call", operation_id="accounts.last-call")
async def last_call(
    use: Use,
    _: Viewer,
    application: OfApplication,
    said: WhichWindows,
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wy.LastCall]:
    """What can still be brought back, what is lost first at the top."""
    page = await use.overview.last_call(application, said.days, cursor, limit)
    return page_of(page, wy.LastCall.model_validate)


@router.get("/calendar", operation_id="calendar.list")
async def calendar(
    request: Request,
    use: Use,
    _: Viewer,
    begin: At = None,
    until: At = None,
    kind: Annotated[list[Verb | ObligationKind], Query()] = [],  # noqa: B006 - FastAPI copies it
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wy.CalendarEntry]:
    """Dated dockets and obligations from ``begin`` (now) until ``until`` (a year on)."""
    kinds = [k.value for k in kind]
    page = await use.overview.calendar(begin, until, kinds, cursor, limit)
    return page_of(page, lambda line: _entry(request, line))


@router.get("/calendar.ics", response_class=Response, operation_id="calendar.feed")
async def calendar_feed(request: Request, use: Use, _: Viewer) -> Response:
    """The next year as iCalendar (RFC 5545), for any calendar program.

    Such programs sign in with a user name and a password (RFC 7617): an API token is the password.
    """
    now, lines = await use.overview.year()
    entries = [_entry(request, line) for line in lines]
    text = feed(entries, now, installation(request).organisation, request.app.state.public_url)
    return Response(text, media_type="text/calendar; charset=utf-8")


def _entry(request: Request, line: DatedLine) -> wy.CalendarEntry:
    shown = number(request, line.number) if line.number else None
    return shape(wy.CalendarEntry, line, number=shown)


@router.get("/holds", operation_id="holds.list")
async def list_holds(
    use: Use, _: Viewer, cursor: Cursor = None, limit: Limit = 50
) -> Page[wx.HoldRow]:
    """What must not be deleted or purged: holds on people and applications, the newest first."""
    return page_of(await use.decisions.holds(cursor, limit), wx.HoldRow.model_validate)


@router.get("/precautions", operation_id="precautions.list")
async def list_precautions(
    request: Request, use: Use, operator: Viewer, cursor: Cursor = None, limit: Limit = 50
) -> Page[wx.PrecautionRow]:
    """Precautions in force, the first to be looked at again at the top."""
    page = await use.decisions.precautions(cursor, limit)
    return await discreet_page(
        use, operator, page, lambda p: p.person_id, lambda p: precaution_row(request, p)
    )


@router.post(
    "/applications/{application_id}/hold", status_code=201, operation_id="applications.hold"
)
async def hold_application(
    application_id: str, body: HoldRequest, use: Use, operator: Administrator
) -> wx.DecisionView:
    """Nothing of an application is deleted or purged while this lasts."""
    made = await use.decisions.hold_application(
        application_id, body.reason, body.ends, operator.login
    )
    return decision_view(made)
