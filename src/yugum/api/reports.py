"""Reports about leavers of a period against their moments."""

from __future__ import annotations

from fastapi import APIRouter, Request

from yugum.api.auth import Use, Viewer
from yugum.api.discretion import discreet_page
from yugum.api.parameters import Begin, Cursor, End, Limit
from yugum.api.shapes import number, shape
from yugum.api.strict import StrictRoute
from yugum.wire import reports as wp
from yugum.wire.common import Page

router = APIRouter(prefix="/reports", tags=["reports"], route_class=StrictRoute)


@router.get("/leavers", operation_id="reports.leavers")
async def list_leavers(
    request: Request,
    use: Use,
    operator: Viewer,
    begin: Begin = None,
    end: End = None,
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wp.CutOffRow]:
    """Each account of whoever left in a period: when access was to end, and when it was shut."""
    page = await use.leaver_reports.cut_offs(begin, end, cursor, limit)
    return await discreet_page(
        use,
        operator,
        page,
        lambda cut_off: cut_off.person_id,
        lambda cut_off: shape(wp.CutOffRow, cut_off, number=number(request, cut_off.number)),
    )


@router.get("/cut-offs", operation_id="reports.cut-offs")
async def count_cut_offs(
    use: Use, _: Viewer, begin: Begin = None, end: End = None
) -> wp.CutOffTimes:
    """How long cut-offs of a period took: how many within a minute, five, and so on."""
    times = await use.leaver_reports.times(begin, end)
    counts = [wp.LatenessCount(lateness=word, count=count) for word, count in times.counts]
    return wp.CutOffTimes(begin=times.begin, end=times.end, counts=counts)
