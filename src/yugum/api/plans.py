"""Plans: prepare, look, confirm."""

from __future__ import annotations

from fastapi import APIRouter, Request

from yugum.api.auth import Acting, Use, Viewer, actor
from yugum.api.idempotency import IdempotentRoute
from yugum.api.shapes import number
from yugum.engine.requests import PlanRequest
from yugum.wire import plans as wl

router = APIRouter(prefix="/plans", tags=["plans"], route_class=IdempotentRoute)


@router.post("", status_code=201)
async def make_plan(body: wl.NewPlan, use: Use, operator: Acting) -> wl.BatchView:
    """What a verb would do, from what the applications show now. Nothing happens yet."""
    return wl.BatchView.model_validate(
        await use.plans.prepare(PlanRequest(**body.model_dump()), actor(operator))
    )


@router.get("")
async def list_prepared(use: Use, operator: Acting) -> list[wl.Prepared]:
    """What you keep in confidence and have not carried out; nobody else sees it."""
    return [wl.Prepared.model_validate(r) for r in await use.plans.prepared(actor(operator))]


@router.post("/{batch_id}/fire", status_code=201)
async def fire_plan(
    batch_id: str, body: wl.Fire, request: Request, use: Use, operator: Acting
) -> wl.Confirmed:
    """Carry out at once what was prepared in confidence, planned again from what is now."""
    rows = await use.plans.fire(
        batch_id, actor(operator), reference=body.reference, reason=body.reason
    )
    return wl.Confirmed(
        dockets=[
            wl.ConfirmedDocket.model_validate({**r, "number": number(request, r["number"])})
            for r in rows
        ]
    )


@router.get("/{batch_id}")
async def show_plan(batch_id: str, use: Use, operator: Viewer) -> wl.BatchView:
    return wl.BatchView.model_validate(await use.plans.show(batch_id, actor(operator)))


@router.post("/{batch_id}/confirm", status_code=201)
async def confirm_plan(
    batch_id: str, body: wl.Confirm, request: Request, use: Use, operator: Acting
) -> wl.Confirmed:
    """Carry the plan out: dockets are made and begin when they are due."""
    rows = await use.plans.confirm(
        batch_id,
        body.digest,
        actor(operator),
        reference=body.reference,
        reason=body.reason,
        typed=body.typed,
        override=body.override,
    )
    return wl.Confirmed(
        dockets=[
            wl.ConfirmedDocket.model_validate({**r, "number": number(request, r["number"])})
            for r in rows
        ]
    )
