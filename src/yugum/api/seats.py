"""Seats."""

from __future__ import annotations

from fastapi import APIRouter

from yugum.api.auth import Administrator, Use, Viewer
from yugum.api.idempotency import IdempotentRoute
from yugum.api.parameters import Cursor, Limit
from yugum.api.shapes import page_of
from yugum.wire import seats as ws
from yugum.wire.common import Page

router = APIRouter(prefix="/seats", tags=["seats"], route_class=IdempotentRoute)


@router.get("", operation_id="seats.list")
async def list_pools(use: Use, _: Viewer) -> list[ws.PoolRow]:
    """All pools with how many are held, free and waited for."""
    return [ws.PoolRow.model_validate(line) for line in await use.seats.list()]


@router.post("", status_code=201, operation_id="seats.put")
async def put_pool(body: ws.PutPool, use: Use, operator: Administrator) -> ws.PoolRow:
    """Add a pool, or change how many seats were bought; the line is served at once."""
    pool = await use.seats.put(
        body.application_id, body.license, body.bought, body.price_cents, operator.login
    )
    lines = await use.seats.list()
    return next(ws.PoolRow.model_validate(line) for line in lines if line.id == pool.id)


@router.get("/{pool_id}/holders", operation_id="seats.holders")
async def list_holders(
    pool_id: str, use: Use, _: Viewer, cursor: Cursor = None, limit: Limit = 50
) -> Page[ws.SeatHolder]:
    return page_of(await use.seats.holders(pool_id, cursor, limit), ws.SeatHolder.model_validate)
