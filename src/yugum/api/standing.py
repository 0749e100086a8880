"""The standing difference: lists of it, and what is accepted of it."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Request

from yugum.api.auth import Acting, Use, Viewer
from yugum.api.discretion import discreet_page
from yugum.api.idempotency import IdempotentRoute
from yugum.api.parameters import Cursor, Limit, OfApplication, OneOf
from yugum.api.shapes import standing_row
from yugum.core.lines import LineKind, LineStatus, Side
from yugum.ports.standing import Chosen
from yugum.wire import standing as ws
from yugum.wire.common import BlankIsNone, Page

router = APIRouter(prefix="/standing", tags=["standing"], route_class=IdempotentRoute)


@router.get("", operation_id="standing.list")
async def list_standing(
    request: Request,
    use: Use,
    operator: Viewer,
    application: OfApplication,
    status: Annotated[LineStatus | None, BlankIsNone] = None,
    kind: Annotated[LineKind | None, BlankIsNone] = None,
    side: Annotated[Side | None, BlankIsNone] = None,
    who: OneOf = "",
    hours: Annotated[float, Query(ge=0, le=87600, description="Standing so long or longer.")] = 0,
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[ws.StandingRow]:
    """What is not as it should be, the oldest first; a person's page is always up to date."""
    chosen = Chosen(status=status, kind=kind, side=side, application_id=application)
    page = await use.standing.page(chosen, who, hours, cursor, limit)
    return await discreet_page(
        use, operator, page, lambda line: line.subject_id, lambda line: standing_row(request, line)
    )


@router.get("/behind", operation_id="standing.behind")
async def behind(use: Use, _: Viewer) -> ws.Behind:
    """How many people a change for many (of rules, of a profile) has still to reach."""
    return ws.Behind.model_validate(await use.standing.progress())


@router.post("/accepted", status_code=201, operation_id="standing.accept")
async def accept(body: ws.Accept, use: Use, operator: Acting) -> ws.Accepted:
    """Settle that something may stay as it is."""
    about = (body.application_id, body.kind, body.item, body.side)
    made = await use.standing.accept(body.who, about, body.reason, body.ends, operator.login)
    return ws.Accepted.model_validate(made)


@router.delete("/accepted/{acceptance_id}", operation_id="standing.reopen")
async def reopen(acceptance_id: str, use: Use, operator: Acting) -> ws.Accepted:
    """Settle that it may not stay any longer."""
    return ws.Accepted.model_validate(await use.standing.end(acceptance_id, operator.login))
