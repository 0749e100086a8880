"""Orders of more seats."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Response

from yugum.api.auth import Acting, Administrator, Use, Viewer
from yugum.api.idempotency import IdempotentRoute
from yugum.api.parameters import Cursor, Limit
from yugum.api.shapes import page_of, shape
from yugum.core.orders import OrderState
from yugum.engine.orders import NewOrder, OrderShown
from yugum.wire import orders as wo
from yugum.wire.common import Page, as_dataclass

router = APIRouter(prefix="/orders", tags=["orders"], route_class=IdempotentRoute)
State = Annotated[OrderState | None, Query(description="Only those that are so far.")]
PoolId = Annotated[str | None, Query(description="Only those of one pool, by its id.")]
OnlyOpen = Annotated[bool, Query(description="Only those that are not over.")]


@router.get("", operation_id="orders.list")
async def list_orders(
    use: Use,
    _: Viewer,
    state: State = None,
    pool_id: PoolId = None,
    only_open: OnlyOpen = False,
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wo.OrderRow]:
    """Orders, the latest first."""
    found = await use.orders.page(cursor, limit, state=state, pool_id=pool_id, only_open=only_open)
    return page_of(
        found.page, lambda row: shape(wo.OrderRow, row, overdue=row.overdue(found.today))
    )


@router.post("", status_code=201, operation_id="orders.ask")
async def ask_for_seats(body: wo.NewOrder, use: Use, operator: Acting) -> wo.OrderView:
    """Ask for more seats; an administrator who did not ask agrees."""
    return _view(await use.orders.ask(as_dataclass(body, NewOrder), operator.login))


@router.get("/{order_id}", operation_id="orders.show")
async def show_order(order_id: str, use: Use, _: Viewer) -> wo.OrderView:
    """One order, by its id or its name."""
    return _view(await use.orders.show(order_id))


@router.get(
    "/{order_id}/request",
    operation_id="orders.request",
    response_class=Response,
    responses={200: {"content": {"text/csv": {"schema": {"type": "string"}}}}},
)
async def request_for_seats(order_id: str, use: Use, _: Viewer) -> Response:
    """The request to whoever buys, as CSV (RFC 4180)."""
    text, name = await use.orders.request(order_id)
    return Response(
        text,
        media_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="{name}.csv"'},
    )


@router.post("/{order_id}/decision", operation_id="orders.decide")
async def decide_order(
    order_id: str, body: wo.OrderDecision, use: Use, operator: Administrator
) -> wo.OrderView:
    """Agree to an order, or refuse it; agreed to, the request goes to whoever buys."""
    return _view(await use.orders.decide(order_id, operator.login, body.answer, agreed=body.agreed))


@router.post("/{order_id}/expected", operation_id="orders.expect")
async def expect_order(
    order_id: str, body: wo.OrderPromise, use: Use, operator: Administrator
) -> wo.OrderView:
    """An order is promised for a day; the forecast counts it from then on."""
    return _view(await use.orders.expect(order_id, body.on, body.reference, operator.login))


@router.post("/{order_id}/arrived", operation_id="orders.arrive")
async def receive_order(
    order_id: str, body: wo.OrderArrival, use: Use, operator: Administrator
) -> wo.OrderView:
    """Seats have arrived: they are bought from now on, and whoever waits is served."""
    return _view(await use.orders.arrive(order_id, body.count, body.reference, operator.login))


@router.post("/{order_id}/withdrawn", operation_id="orders.withdraw")
async def withdraw_order(
    order_id: str, body: wo.OrderWithdrawal, use: Use, operator: Acting
) -> wo.OrderView:
    """What has not arrived will not."""
    return _view(await use.orders.withdraw(order_id, body.answer, operator.login))


def _view(shown: OrderShown) -> wo.OrderView:
    serves = [wo.ServedRow.model_validate(s) for s in shown.serves]
    return shape(
        wo.OrderView,
        shown.line,
        overdue=shown.overdue,
        counted=shown.counted,
        serves=serves,
    )
