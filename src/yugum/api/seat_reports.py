"""Reports about seats: who held what in a period, and whether whoever begins soon has theirs."""

from __future__ import annotations

from datetime import date
from typing import Annotated

from fastapi import APIRouter, Query

from yugum.api.auth import Use, Viewer
from yugum.api.idempotency import IdempotentRoute
from yugum.api.parameters import Cursor, Limit, OneLine
from yugum.api.shapes import page_of, shape, some_of
from yugum.core.reclaim import ReclaimReason
from yugum.engine.seat_reports import ComingBack
from yugum.wire import seat_reports as wr
from yugum.wire.common import Page

Month = Annotated[str, Query(max_length=20, description="A month: 2031-03."), *OneLine]
Days = Annotated[int, Query(ge=1, le=60, description="Working days from today on.")]
router = APIRouter(prefix="/seats", tags=["seats"], route_class=IdempotentRoute)


@router.get("/held", operation_id="seats.held")
async def list_held(
    use: Use,
    _: Viewer,
    begin: Annotated[
        date | None, Query(description="The first day of the period; the last one if left out.")
    ] = None,
    end: Annotated[
        date | None, Query(description="The last day of the period; today if left out.")
    ] = None,
    pool_id: Annotated[
        str | None, Query(max_length=80, description="Only of one pool, by its id."), *OneLine
    ] = None,
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wr.SeatHeldRow]:
    """Who held a seat at any moment of a period, of one pool or of all."""
    page = await use.seat_reports.held(begin, end, pool_id, cursor, limit)
    return page_of(page, wr.SeatHeldRow.model_validate)


@router.get("/costs", operation_id="seats.costs")
async def list_costs(
    use: Use,
    _: Viewer,
    begin: Month = "",
    end: Month = "",
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wr.SeatCostRow]:
    """What seats cost month by month, by department and license, at the prices of today; the last twelve if left out."""
    rows = await use.seat_reports.costs(begin, end)
    return some_of(rows, wr.SeatCostRow.model_validate, cursor, limit)


@router.get("/reclaimable", operation_id="seats.all-reclaimable")
async def list_all_reclaimable(
    use: Use,
    _: Viewer,
    reason: ReclaimReason | None = None,
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wr.ReclaimableRow]:
    """Seats of all pools that could come back, why, and what each costs a month."""
    page = await use.seat_reports.reclaimable(reason, cursor, limit)
    return page_of(page, _reclaimable)


def _reclaimable(one: ComingBack) -> wr.ReclaimableRow:
    pool = one.pool
    return shape(
        wr.ReclaimableRow,
        one.seat,
        application_name=pool.application_name,
        license=pool.license,
        amount=one.amount,
        currency=pool.currency,
    )


@router.get("/over", operation_id="seats.over")
async def list_over(
    use: Use, _: Viewer, cursor: Cursor = None, limit: Limit = 50
) -> Page[wr.OverRow]:
    """Pools of which more seats are held than were bought."""
    over = [p for p in await use.seats.list() if p.over]
    return some_of(over, wr.OverRow.model_validate, cursor, limit)


async def list_starting_rows(
    use: Use, _: Viewer, days: Days = 10, cursor: Cursor = None, limit: Limit = 50
) -> Page[wr.StartingRow]:
    """Each seat of whoever begins within so many working days."""
    rows = (await use.seat_reports.starting(days)).rows
    return some_of(rows, wr.StartingRow.model_validate, cursor, limit)


@router.get("/starting", operation_id="seats.starting")
async def list_starting(
    use: Use,
    _: Viewer,
    days: Days = 10,
) -> wr.StartingView:
    """Whether everybody who begins within so many working days has the seats that are theirs, or what brings them."""
    return wr.StartingView.model_validate(await use.seat_reports.starting(days))
