"""Seats given and taken by hand, or as a file says; and who has what, side by side."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Query, Request

from yugum.api.auth import Acting, Use, Viewer, actor
from yugum.api.idempotency import IdempotentRoute
from yugum.api.parameters import Cursor, Limit, OneLine
from yugum.api.plans import batch_shape
from yugum.api.said import WhichPeople
from yugum.api.shapes import shape
from yugum.engine.allocations import CheckedEntry, SeatTurnSaid
from yugum.wire import allocations as wa
from yugum.wire import plans as wl
from yugum.wire.seats import PoolRow

router = APIRouter(prefix="/seats", tags=["seats"], route_class=IdempotentRoute)
CSV: dict[str, Any] = {
    "requestBody": {"required": True, "content": {"text/csv": {"schema": {"type": "string"}}}}
}


@router.get("/matrix", operation_id="seats.matrix")
async def show_matrix(
    use: Use,
    _: Viewer,
    said: WhichPeople,
    application_id: Annotated[
        str | None, Query(max_length=80, description="Only its licenses."), *OneLine
    ] = None,
    cursor: Cursor = None,
    limit: Limit = 50,
) -> wa.MatrixView:
    """People by licenses: who has a seat of which, and why; people are filtered like their list."""
    page = await use.people.page(
        said.chosen(), filter_text=said.filter, manager=said.manager, cursor=cursor, limit=limit
    )
    found = await use.allocations.matrix(page.items, application_id)
    return wa.MatrixView(
        pools=[wa.MatrixColumn.model_validate(p) for p in found.pools],
        items=[
            wa.MatrixRow(
                person_id=p.id,
                person_name=p.display_name,
                login=p.user_name,
                department=p.department,
                title=p.title,
                cells=[wa.SeatCell.model_validate(c) for c in found.cells.get(p.id, ())],
            )
            for p in page.items
        ],
        next=page.next,
        total=page.total,
        over=page.over,
    )


@router.post("/allocations", status_code=201, operation_id="seats.allocate")
async def allocate_seats(body: wa.SeatTurns, use: Use, operator: Acting) -> wl.BatchView:
    """Plan that people have seats, or none; nothing is given, taken or decided until it is confirmed."""
    turns = [SeatTurnSaid(t.person, t.pool_id, t.give) for t in body.turns]
    batch = await use.allocations.plan(turns, body.reason, body.ends, actor(operator))
    return await batch_shape(use, operator, batch)


@router.post("/allocations/check", operation_id="seats.check-file", openapi_extra=CSV)
async def check_seat_file(request: Request, use: Use, _: Acting) -> wa.CheckedSeats:
    """Look at a CSV file (person, application, license, seat: give, take or leave); nothing is changed."""
    found = await use.allocations.check(await request.body())
    return wa.CheckedSeats(
        rows=[_row(r) for r in found.rows],
        demand=[shape(wa.DemandRow, d, pool=PoolRow.model_validate(d.pool)) for d in found.demand],
    )


def _row(row: CheckedEntry) -> wa.CheckedRow:
    wrong = row.problem
    return wa.CheckedRow(
        line=row.entry.line,
        person=row.entry.person,
        application=row.entry.application,
        license=row.entry.license,
        give=row.entry.give,
        person_id=row.person_id,
        pool_id=row.pool_id,
        place=wrong.place if wrong else "",
        problem=wrong.text if wrong else "",
        remedy=wrong.remedy if wrong else "",
    )
