"""Seats set aside, and passed on."""

from __future__ import annotations

from fastapi import APIRouter, Response

from yugum.api.auth import Acting, Use, Viewer
from yugum.api.idempotency import IdempotentRoute
from yugum.api.parameters import Cursor, Limit
from yugum.api.shapes import page_of, shape
from yugum.engine.reservations import NewReservation
from yugum.wire import reservations as wr
from yugum.wire.common import Page, as_dataclass

router = APIRouter(
    prefix="/seats/{pool_id}/reservations", tags=["seats"], route_class=IdempotentRoute
)


@router.get("", operation_id="seats.reservations")
async def list_reservations(
    pool_id: str, use: Use, _: Viewer, cursor: Cursor = None, limit: Limit = 50
) -> Page[wr.ReservationRow]:
    """What is, was and will be set aside of a pool."""
    found = await use.reservations.page(pool_id, cursor, limit)
    return page_of(
        found.page, lambda row: shape(wr.ReservationRow, row, state=row.state_on(found.today))
    )


@router.post("", status_code=201, operation_id="seats.reserve")
async def reserve(
    pool_id: str, body: wr.NewReservation, use: Use, operator: Acting
) -> wr.ReservationRow:
    """Set seats aside; nobody else is given them. With ``holder`` that person's seat is passed on."""
    new = as_dataclass(body, NewReservation)
    found = await use.reservations.make(pool_id, new, operator.login)
    return shape(wr.ReservationRow, found.line, state=found.line.state_on(found.today))


@router.delete("/{reservation_id}", status_code=204, operation_id="seats.withdraw-reservation")
async def withdraw_reservation(
    pool_id: str, reservation_id: str, use: Use, operator: Acting
) -> Response:
    """Seats are set aside no longer; whoever waits is served."""
    await use.reservations.withdraw(pool_id, reservation_id, operator.login)
    return Response(status_code=204)
