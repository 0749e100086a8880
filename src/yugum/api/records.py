"""Records of dockets, the cut-off sheet, and what can still be brought back."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import timedelta
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Query, Request, Response
from fastapi.responses import JSONResponse
from pydantic import AwareDatetime

from yugum.api.auth import Administrator, Use, Viewer
from yugum.api.calendar import feed
from yugum.api.idempotency import IdempotentRoute
from yugum.api.people import Cursor, Limit
from yugum.api.shapes import number, page_of
from yugum.engine.records import FORMS
from yugum.wire import nouns as wn
from yugum.wire.common import Page

router = APIRouter(tags=["records"], route_class=IdempotentRoute)


@router.get("/dockets/{name}/record", response_class=Response)
async def docket_record(
    name: str,
    request: Request,
    use: Use,
    operator: Viewer,
    form: Literal["json", "csv", "html"] = "json",
    batch: bool = False,
) -> Response:
    """Everything a docket took away or changed: who, what, before and after, when, why, verified."""
    made = await use.records.of_docket(
        name, form, lambda n: number(request, n), operator.role, batch=batch
    )
    if not isinstance(made, str):
        return JSONResponse(made)
    return Response(made, media_type=FORMS[form])


@router.get("/handovers")
async def list_handovers(
    request: Request,
    use: Use,
    _: Viewer,
    docket: Annotated[str, Query(max_length=60)] = "",
    who: Annotated[str, Query(max_length=200, description="Who gave or received it.")] = "",
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wn.HandoverRow]:
    """Every thing that was handed over, and its new home; the newest first."""
    async with use.database.unit() as unit:
        docket_id = (await unit.dockets.by_name(docket)).id if docket else ""
        person_id = (await unit.people.resolve(who)).id if who else ""
        page = await unit.views.handovers(docket_id, person_id, cursor, limit)
    return page_of(
        page,
        lambda row: wn.HandoverRow.model_validate(
            {**row, "number": number(request, row["number"])}
        ),
    )


@router.get("/cut-off-sheet", response_class=Response)
async def cut_off_sheet(
    use: Use, _: Viewer, who: Annotated[list[str], Query(min_length=1, max_length=200)]
) -> Response:
    """A page to print beforehand: where some people get in, and whom to call while Yugum is down."""
    return Response(await use.records.sheet(who), media_type="text/html")


@router.get("/last-call")
async def last_call(
    use: Use,
    _: Viewer,
    application: Annotated[str, Query(max_length=60)] = "",
    days: Annotated[int, Query(ge=1, le=3650)] = 3650,
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wn.LastCall]:
    """What can still be brought back, what is lost first at the top."""
    now = await use.now.now()
    async with use.database.unit() as unit:
        page = await unit.views.windows(now, now + timedelta(days=days), application, cursor, limit)
    return page_of(page, wn.LastCall.model_validate)


DAYS = timedelta(days=366)


@router.get("/calendar")
async def calendar(
    request: Request,
    use: Use,
    _: Viewer,
    begin: Annotated[AwareDatetime | None, Query()] = None,
    until: Annotated[AwareDatetime | None, Query()] = None,
    kind: Annotated[list[str], Query(max_length=20)] = [],  # noqa: B006 - FastAPI copies it
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wn.CalendarEntry]:
    """Dated dockets and obligations from ``begin`` (now) until ``until`` (a year on)."""
    begin = begin or await use.now.now()
    async with use.database.unit() as unit:
        page = await unit.obligations.calendar(
            begin, until or begin + DAYS, kinds=kind, cursor=cursor, limit=limit
        )
    return page_of(page, lambda row: _entry(request, row))


@router.get("/calendar.ics", response_class=Response)
async def calendar_feed(request: Request, use: Use, _: Viewer) -> Response:
    """The next year as iCalendar (RFC 5545), for any calendar program.

    Such programs sign in with a user name and a password (RFC 7617): an API token is the password.
    """
    now = await use.now.now()
    entries: list[wn.CalendarEntry] = []
    cursor = None
    async with use.database.unit() as unit:
        while len(entries) < FEED_ENTRIES:
            page = await unit.obligations.calendar(now, now + DAYS, cursor=cursor, limit=1000)
            entries += [_entry(request, row) for row in page.items]
            cursor = page.next
            if cursor is None:
                break
    organisation = request.app.state.installation["organisation"]
    text = feed(entries, now, organisation, request.app.state.public_url)
    return Response(text, media_type="text/calendar; charset=utf-8")


FEED_ENTRIES = 10_000


def _entry(request: Request, row: Mapping[str, Any]) -> wn.CalendarEntry:
    shown = number(request, row["number"]) if row["number"] else None
    return wn.CalendarEntry.model_validate({**row, "number": shown})


@router.post("/applications/{application_id}/hold", status_code=201)
async def hold_application(
    application_id: str, body: wn.HoldRequest, use: Use, operator: Administrator
) -> wn.DecisionView:
    """Nothing of an application is deleted or purged while this lasts."""
    made = await use.decisions.hold_application(
        application_id, body.reason, body.ends, operator.login
    )
    return wn.DecisionView(
        id=made.id,
        subject_id=made.subject_id,
        kind=made.kind.value,
        payload={},
        author=made.author,
        reason=made.reason,
        ends_at=made.ends,
    )
