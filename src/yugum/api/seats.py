"""Seats."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Response

from yugum.api.auth import Acting, Administrator, Use, Viewer, actor
from yugum.api.idempotency import IdempotentRoute
from yugum.api.parameters import Cursor, Limit
from yugum.api.plans import batch_shape
from yugum.api.shapes import page_of, shape
from yugum.core.reclaim import ReclaimReason
from yugum.core.seats import Purchase
from yugum.engine.forecasts import PoolForecast
from yugum.engine.seats import PoolChange, PoolShown
from yugum.engine.what_if import WhatIf, some_of
from yugum.wire import forecasts as wf
from yugum.wire import plans as wl
from yugum.wire import reclaim as wr
from yugum.wire import seats as ws
from yugum.wire.common import Page, as_dataclass

router = APIRouter(prefix="/seats", tags=["seats"], route_class=IdempotentRoute)
Below = Annotated[bool, Query(description="Fewer than are held are meant.")]


@router.get("", operation_id="seats.list")
async def list_pools(use: Use, _: Viewer) -> list[ws.PoolRow]:
    """All pools with how many are held, free and waited for."""
    return [ws.PoolRow.model_validate(line) for line in await use.seats.list()]


@router.post("", status_code=201, operation_id="seats.put")
async def put_pool(body: ws.PutPool, use: Use, operator: Administrator) -> ws.PoolView:
    """Add a pool, or change what is said of it; the line is served at once."""
    change = as_dataclass(body, PoolChange)
    return _view(await use.seats.put(body.application_id, body.license, change, operator.login))


@router.get("/cost", operation_id="seats.cost")
async def list_cost(use: Use, _: Viewer) -> list[ws.SeatCost]:
    """What seats cost a month, by department and license."""
    return [ws.SeatCost.model_validate(one) for one in await use.seats.cost()]


@router.get("/{pool_id}", operation_id="seats.show")
async def show_pool(pool_id: str, use: Use, _: Viewer) -> ws.PoolView:
    """One pool with what was bought for it."""
    return _view(await use.seats.show(pool_id))


@router.delete("/{pool_id}", status_code=204, operation_id="seats.remove")
async def remove_pool(pool_id: str, use: Use, operator: Administrator) -> Response:
    """A pool goes of which nobody holds a seat or waits for one."""
    await use.seats.remove(pool_id, operator.login)
    return Response(status_code=204)


@router.post("/{pool_id}/purchases", status_code=201, operation_id="seats.buy")
async def buy_seats(
    pool_id: str, body: ws.PutPurchase, use: Use, operator: Administrator
) -> ws.PoolView:
    """Seats were bought, for a term if it ends; the line is served as soon as it begins."""
    bought = _purchase(body, "")
    return _view(await use.seats.buy(pool_id, bought, operator.login, below=body.below))


@router.put("/{pool_id}/purchases/{purchase_id}", operation_id="seats.change-purchase")
async def change_purchase(
    pool_id: str, purchase_id: str, body: ws.PutPurchase, use: Use, operator: Administrator
) -> ws.PoolView:
    """Correct what was bought, or let its term end on another day."""
    bought = _purchase(body, purchase_id)
    return _view(await use.seats.buy(pool_id, bought, operator.login, below=body.below))


@router.delete("/{pool_id}/purchases/{purchase_id}", operation_id="seats.unbuy")
async def remove_purchase(
    pool_id: str, purchase_id: str, use: Use, operator: Administrator, below: Below = False
) -> ws.PoolView:
    """A purchase was entered by mistake: it goes."""
    return _view(await use.seats.unbuy(pool_id, purchase_id, operator.login, below=below))


@router.get("/{pool_id}/forecast", operation_id="seats.forecast")
async def forecast_pool(pool_id: str, use: Use, _: Viewer) -> wf.ForecastView:
    """Seats taken and bought for 13 weeks, then 24 months, by what is dated; what that assumes is said."""
    return _forecast(await use.forecasts.of(pool_id))


@router.post("/{pool_id}/forecast", operation_id="seats.what-if")
async def ask_what_if(pool_id: str, body: wf.WhatIf, use: Use, _: Acting) -> wf.ForecastView:
    """The forecast as it would be, if; nothing is changed."""
    what_if = WhatIf(
        bought=some_of(body.bought, "bought"),
        joining=some_of(body.joining, "joining"),
        joiners=body.joiners,
        rules=body.rules,
    )
    return _forecast(await use.forecasts.of(pool_id, what_if))


@router.get("/{pool_id}/reclaim", operation_id="seats.reclaimable")
async def list_reclaimable(
    pool_id: str,
    use: Use,
    _: Viewer,
    reason: ReclaimReason | None = None,
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wr.SeatToReclaim]:
    """Seats that could come back, why, and what each costs a month."""
    found = await use.reclaim.page(pool_id, reason, cursor, limit)
    cost = found.pool.monthly(1)
    return page_of(found.page, lambda row: shape(wr.SeatToReclaim, row, cost=cost))


@router.post("/{pool_id}/reclaim", status_code=201, operation_id="seats.reclaim")
async def take_seats_back(
    pool_id: str, body: wr.TakeSeatsBack, use: Use, operator: Acting
) -> wl.BatchView:
    """Plan that some people have no seat of this pool; the exception that says so comes with the confirmed plan."""
    people = list(dict.fromkeys(body.people))
    batch = await use.reclaim.plan(pool_id, people, body.reason, body.ends, actor(operator))
    return await batch_shape(use, operator, batch)


@router.get("/{pool_id}/holders", operation_id="seats.holders")
async def list_holders(
    pool_id: str, use: Use, _: Viewer, cursor: Cursor = None, limit: Limit = 50
) -> Page[ws.SeatHolder]:
    """Who waits, the first served first, and who holds one."""
    return page_of(await use.seats.holders(pool_id, cursor, limit), ws.SeatHolder.model_validate)


def _purchase(body: ws.PutPurchase, purchase_id: str) -> Purchase:
    return Purchase(
        id=purchase_id,
        pool_id="",
        count=body.count,
        begins=body.begins,
        ends=body.ends,
        reference=body.reference,
    )


def _view(shown: PoolShown) -> ws.PoolView:
    purchases = [ws.PurchaseRow.model_validate(p) for p in shown.purchases]
    return shape(ws.PoolView, shown.pool, purchases=purchases)


def _forecast(found: PoolForecast) -> wf.ForecastView:
    orders = [shape(wf.ComingRow, o.order, overdue=o.overdue) for o in found.orders]
    return shape(
        wf.ForecastView,
        found.forecast,
        pool=found.pool,
        past=found.past,
        orders=orders,
        before=found.before,
        assumes=found.assumes,
    )
