"""Health, the stop, and business time."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Request

from yugum import __version__
from yugum.api.applications import application_row
from yugum.api.auth import Acting, Administrator, Use, Viewer
from yugum.api.idempotency import IdempotentRoute
from yugum.api.parameters import OneLine, Who
from yugum.api.shapes import installation, shape
from yugum.engine.services import Services
from yugum.errors import NotFound
from yugum.wire import status as wz

router = APIRouter(prefix="/status", tags=["status"], route_class=IdempotentRoute)
clock = APIRouter(prefix="/clock", tags=["clock"], route_class=IdempotentRoute)


@router.get("", operation_id="status.show")
async def show_status(request: Request, use: Use, _: Viewer, check: bool = False) -> wz.Status:
    """Health of the service and its database; with ``check`` every application is asked now."""
    if check:
        await use.applications.check()
    health = await use.overview.health()
    whose = installation(request)
    return wz.Status(
        version=__version__,
        organisation=whose.organisation,
        demo=whose.demo,
        database_ms=round(health.database_ms, 2),
        counts=shape(wz.Counts, health.counts.figures, people=health.counts.states),
        applications=[application_row(a) for a in await use.applications.list()],
    )


@router.get("/counts", operation_id="status.count")
async def count(use: Use, _: Viewer) -> wz.Figures:
    """The figures beside the console's pages: each is what its page counts."""
    return wz.Figures.model_validate(await use.overview.figures())


@router.get("/stop", operation_id="status.stopped")
async def show_stop(use: Use, _: Viewer) -> wz.StopView:
    return await _stop(use)


async def _stop(use: Services) -> wz.StopView:
    found = await use.applications.stopped()
    return shape(wz.StopView, found, stopped=True) if found else wz.StopView(stopped=False)


@router.post("/stop", operation_id="status.stop")
async def stop_everything(body: wz.StopRequest, use: Use, operator: Acting) -> wz.StopView:
    """Stop everything but cut-offs, at once, in all applications."""
    await use.applications.stop(operator.login, body.reason)
    return await _stop(use)


@router.delete("/stop", operation_id="status.go-on")
async def go_on(use: Use, operator: Administrator) -> wz.StopView:
    """Lift the stop; what waits goes on by itself."""
    await use.applications.go_on(operator.login)
    return await _stop(use)


@clock.get("", operation_id="clock.show")
async def show_clock(use: Use, _: Viewer) -> wz.ClockView:
    return shape(wz.ClockView, await use.clock.read())


@clock.get("/moment", operation_id="clock.moment")
async def read_moment(
    use: Use,
    _: Viewer,
    said: Annotated[str, Query(min_length=1, max_length=60), *OneLine],
    who: Who = "",
    day_begins: Annotated[bool, Query(description="A day alone is its beginning.")] = False,
) -> wz.MomentView:
    """What a date or words such as ``Fri 17:00`` mean: the full date with its zone."""
    at, zone = await use.clock.moment(said, who, day_begins=day_begins)
    return wz.MomentView(at=at, zone=zone)


@clock.post("/advance", operation_id="clock.advance")
async def advance_clock(body: wz.Advance, request: Request, use: Use, _: Acting) -> wz.Advanced:
    """In a demo: move to the next due moment on the way and wait until its work is done."""
    if not installation(request).demo:
        raise NotFound("There is no simulated clock here.")
    return shape(wz.Advanced, await use.clock.advance(body.to))
