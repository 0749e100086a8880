"""Equipment and keys that people have."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Response

from yugum.api.auth import Acting, Use, Viewer
from yugum.api.idempotency import IdempotentRoute
from yugum.api.parameters import Cursor, Limit, OneLine, Who
from yugum.api.shapes import page_of
from yugum.wire import equipment as we
from yugum.wire.common import Page

router = APIRouter(prefix="/equipment", tags=["equipment"], route_class=IdempotentRoute)


@router.get("", operation_id="equipment.list")
async def list_equipment(
    use: Use,
    _: Viewer,
    who: Who = "",
    due: Annotated[
        bool, Query(description="Only what is to be collected: its holder leaves within a week.")
    ] = False,
    q: Annotated[
        str, Query(max_length=60, description="Part of a name or of an id."), *OneLine
    ] = "",
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[we.ThingRow]:
    """What people have, and when they leave."""
    page = await use.equipment.page(who=who, only_due=due, q=q, cursor=cursor, limit=limit)
    return page_of(page, we.ThingRow.model_validate)


@router.put("", status_code=204, operation_id="equipment.put")
async def put_equipment(body: we.NewThing, use: Use, operator: Acting) -> Response:
    """Something new, or another holder; another name where that is said."""
    await use.equipment.put(body.id, body.name, body.holder, operator.login, renamed=body.renamed)
    return Response(status_code=204)


@router.post("/{thing_id}/back", status_code=204, operation_id="equipment.back")
async def equipment_back(thing_id: str, body: we.ThingBack, use: Use, operator: Acting) -> Response:
    """It was given back; nobody has it."""
    await use.equipment.back(thing_id, body.note, operator.login)
    return Response(status_code=204)


@router.delete("/{thing_id}", status_code=204, operation_id="equipment.drop")
async def drop_equipment(thing_id: str, use: Use, operator: Acting) -> Response:
    """It is kept track of no more."""
    await use.equipment.drop(thing_id, operator.login)
    return Response(status_code=204)
