"""Shared credentials."""

from __future__ import annotations

from fastapi import APIRouter, Response

from yugum.api.auth import Acting, Use, Viewer
from yugum.api.idempotency import IdempotentRoute
from yugum.api.parameters import Cursor, Limit
from yugum.api.said import WhichShared
from yugum.api.shapes import page_of
from yugum.wire import shared as ws
from yugum.wire.common import Page

router = APIRouter(prefix="/shared", tags=["shared credentials"], route_class=IdempotentRoute)


@router.get("", operation_id="shared.list")
async def list_shared(
    use: Use, _: Viewer, said: WhichShared, cursor: Cursor = None, limit: Limit = 50
) -> Page[ws.SharedRow]:
    """Credentials several people know, and who of them has left."""
    page = await use.shared.page(only_due=said.due, q=said.q, cursor=cursor, limit=limit)
    return page_of(page, ws.SharedRow.model_validate)


@router.put("", status_code=204, operation_id="shared.put")
async def put_shared(body: ws.NewShared, use: Use, operator: Acting) -> Response:
    """A new one, or another name, place or owner."""
    await use.shared.put(body.id, body.name, body.place, body.owner, operator.login)
    return Response(status_code=204)


@router.delete("/{shared_id}", status_code=204, operation_id="shared.drop")
async def drop_shared(shared_id: str, use: Use, operator: Acting) -> Response:
    await use.shared.drop(shared_id, operator.login)
    return Response(status_code=204)


@router.get("/{shared_id}/known", operation_id="shared.knowers")
async def list_knowers(
    shared_id: str, use: Use, _: Viewer, cursor: Cursor = None, limit: Limit = 50
) -> Page[ws.Knower]:
    """Who knows it, leavers among them."""
    return page_of(await use.shared.knowers(shared_id, cursor, limit), ws.Knower.model_validate)


@router.post("/{shared_id}/known", status_code=204, operation_id="shared.know")
async def change_knowers(shared_id: str, body: ws.Knowers, use: Use, operator: Acting) -> Response:
    await use.shared.know(shared_id, body.add, body.remove, operator.login)
    return Response(status_code=204)


@router.post("/{shared_id}/changed", status_code=204, operation_id="shared.changed")
async def shared_changed(
    shared_id: str, body: ws.ChangedShared, use: Use, operator: Acting
) -> Response:
    """It was changed where it is kept; whoever has left does not know it any more."""
    await use.shared.changed(shared_id, body.note, operator.login)
    return Response(status_code=204)
