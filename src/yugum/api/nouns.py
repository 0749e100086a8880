"""Seats, findings, audit, the day sheet, the clock, status."""

from __future__ import annotations

from collections.abc import AsyncIterator, Mapping
from datetime import timedelta
from typing import Annotated, Any, Literal
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Query, Request
from fastapi.responses import StreamingResponse

from yugum import __version__
from yugum.api.auth import Acting, Administrator, Use, Viewer
from yugum.api.discretion import discreet_rows
from yugum.api.idempotency import IdempotentRoute
from yugum.api.people import Cursor, Limit
from yugum.api.shapes import number, page_of
from yugum.core.people import day_begins
from yugum.errors import NotFound
from yugum.wire import nouns as wn
from yugum.wire.common import Page

WEEK = timedelta(days=7)

seats = APIRouter(prefix="/seats", tags=["seats"], route_class=IdempotentRoute)
findings = APIRouter(prefix="/findings", tags=["findings"], route_class=IdempotentRoute)
audit = APIRouter(prefix="/audit", tags=["audit"])
day = APIRouter(prefix="/day", tags=["day sheet"])
clock = APIRouter(prefix="/clock", tags=["clock"], route_class=IdempotentRoute)
status = APIRouter(prefix="/status", tags=["status"], route_class=IdempotentRoute)


def _pool(row: Mapping[str, Any]) -> wn.PoolRow:
    return wn.PoolRow.model_validate({**row, "free": row["bought"] - row["held"]})


@seats.get("")
async def list_pools(use: Use, _: Viewer) -> list[wn.PoolRow]:
    """All pools with who many are held, free and waited for."""
    return [_pool(r) for r in await use.seats.rows()]


@seats.post("", status_code=201)
async def put_pool(body: wn.PutPool, use: Use, operator: Administrator) -> wn.PoolRow:
    """Add a pool, or change how many seats were bought; the line is served at once."""
    pool = await use.seats.put(
        body.application_id, body.license, body.bought, body.price_cents, operator.login
    )
    return next(_pool(r) for r in await use.seats.rows() if r["id"] == pool.id)


@seats.get("/{pool_id}/holders")
async def list_holders(
    pool_id: str, use: Use, _: Viewer, cursor: Cursor = None, limit: Limit = 50
) -> Page[wn.SeatHolder]:
    return page_of(await use.seats.holders(pool_id, cursor, limit), wn.SeatHolder.model_validate)


@findings.get("")
async def list_findings(
    use: Use,
    _: Viewer,
    kind: Annotated[str, Query(max_length=40)] = "",
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wn.Finding]:
    now = await use.now.now()
    async with use.database.unit() as unit:
        page = await unit.findings.page(now, kind=kind, cursor=cursor, limit=limit)
    return page_of(page, wn.Finding.model_validate)


@findings.get("/counts")
async def count_findings(use: Use, _: Viewer) -> list[wn.FindingCount]:
    """How many findings there are of each kind, and what their seats cost."""
    async with use.database.unit() as unit:
        found = await unit.findings.counts(await use.now.now())
    return [
        wn.FindingCount(kind=kind, count=count, cents=cents)
        for kind, (count, cents) in sorted(found.items())
    ]


@findings.get("/outside")
async def list_outside(
    use: Use,
    _: Viewer,
    application: Annotated[str, Query(max_length=60)] = "",
    state: Literal["", "open", "kept", "reverted"] = "open",
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wn.Deviation]:
    """Changes made outside Yugum, each to be kept or reverted."""
    page = await use.links.deviations(application, state, cursor, limit)
    return page_of(page, wn.Deviation.model_validate)


@findings.post("/outside/{deviation_id}/keep")
async def keep_outside(deviation_id: str, use: Use, operator: Acting) -> wn.Decided:
    return wn.Decided.model_validate(await use.links.keep(deviation_id, operator.login))


@findings.post("/outside/{deviation_id}/revert")
async def revert_outside(
    deviation_id: str, request: Request, use: Use, operator: Acting, reference: str = ""
) -> wn.Decided:
    """Put the change back by a docket that starts at once."""
    row = await use.links.revert(deviation_id, operator.login, reference)
    return wn.Decided.model_validate({**row, "docket": number(request, row["docket"])})


@status.get("/stop")
async def show_stop(use: Use, _: Viewer) -> wn.StopView:
    async with use.database.unit() as unit:
        row = await unit.gates.stopped()
    return wn.StopView(stopped=True, **_without(row, "name")) if row else wn.StopView(stopped=False)


def _without(row: Mapping[str, Any], name: str) -> dict[str, Any]:
    return {k: v for k, v in row.items() if k != name}


@status.post("/stop")
async def stop_everything(body: wn.StopRequest, use: Use, operator: Acting) -> wn.StopView:
    """Stop everything but cut-offs, at once, in all applications."""
    await use.applications.stop(operator.login, body.reason)
    return await show_stop(use, operator)


@status.delete("/stop")
async def go_on(use: Use, operator: Administrator) -> wn.StopView:
    """Lift the stop; what waits goes on by itself."""
    await use.applications.go_on(operator.login)
    return await show_stop(use, operator)


@audit.get("")
async def list_events(
    use: Use,
    operator: Viewer,
    who: Annotated[str, Query(max_length=200)] = "",
    docket: Annotated[str, Query(max_length=60)] = "",
    action: Annotated[str, Query(max_length=60)] = "",
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wn.AuditEvent]:
    async with use.database.unit() as unit:
        subject = (await unit.people.resolve(who)).id if who else ""
        docket_id = (await unit.dockets.by_name(docket)).id if docket else ""
        page = await unit.audit.page(
            subject=subject, docket_id=docket_id, action=action, cursor=cursor, limit=limit
        )
    page = await discreet_rows(use, operator, page, "subject")
    return page_of(page, wn.AuditEvent.model_validate)


@audit.get("/export", response_class=StreamingResponse)
async def export_events(use: Use, _: Administrator) -> StreamingResponse:
    """The sealed log as JSON lines with its signed head; check it with ``yugum audit verify``."""

    async def lines() -> AsyncIterator[bytes]:
        async for line in use.exports.lines():
            yield line.encode()

    return StreamingResponse(lines(), media_type="application/x-ndjson")


def _day_docket(request: Request, row: Mapping[str, Any]) -> wn.DayDocket:
    document, changes = row["document"] or {}, row["cause"].get("changes", {})
    summary = document.get("summary") or [""]
    change = ", ".join(str(changes[k]) for k in ("department", "title", "site") if changes.get(k))
    return wn.DayDocket.model_validate(
        {
            **row,
            "number": number(request, row["number"]),
            "change": change,
            "note": row["problem"] or summary[0],
        }
    )


@day.get("")
async def day_sheet(request: Request, use: Use, _: Viewer) -> wn.DaySheet:
    """Today and the week ahead."""
    now = await use.now.now()
    zone = request.app.state.installation["zone"]
    begin = day_begins(now.astimezone(ZoneInfo(zone)).date(), zone)
    end = begin + timedelta(days=1)
    async with use.database.unit() as unit:
        today = await unit.views.day(begin, now, end)
        later = await unit.views.day(end, now, end + WEEK)
        going = await unit.views.last_call(now, now + WEEK)
    return wn.DaySheet(
        now=now,
        zone=zone,
        dockets=[_day_docket(request, r) for r in today["dockets"]],
        later=[_day_docket(request, r) for r in later["dockets"]],
        open_late=[
            wn.OpenLate.model_validate({**r, "problem": (r["problem"] or {}).get("text", "")})
            for r in today["open_late"]
        ],
        stuck=[
            wn.Stuck.model_validate(
                {
                    **r,
                    "number": number(request, r["number"]),
                    "problem": (r["problem"] or {}).get("text", ""),
                }
            )
            for r in today["stuck"]
        ],
        last_call=[wn.LastCall.model_validate(r) for r in going],
    )


@clock.get("")
async def show_clock(use: Use, _: Viewer) -> wn.ClockView:
    return wn.ClockView(**await use.clock.read())


@clock.post("/advance")
async def advance_clock(body: wn.Advance, request: Request, use: Use, _: Acting) -> wn.Advanced:
    """In a demo: move to the next due moment on the way and wait until its work is done."""
    if not request.app.state.installation["demo"]:
        raise NotFound("There is no simulated clock here.")
    return wn.Advanced(**await use.clock.advance(body.to))


@status.get("")
async def show_status(request: Request, use: Use, _: Viewer, check: bool = False) -> wn.Status:
    """Health of the service and its database; with ``check`` every application is asked now."""
    if check:
        await use.applications.check()
    now = await use.now.now()
    async with use.database.unit() as unit:
        milliseconds = await unit.views.ping()
        counts = await unit.views.counts(now)
    rows = await use.applications.rows()
    installation = request.app.state.installation
    return wn.Status(
        version=__version__,
        organisation=installation["organisation"],
        demo=installation["demo"],
        database_ms=round(milliseconds, 2),
        counts=dict(counts),
        applications=[wn.ApplicationRow.model_validate(r) for r in rows],
    )
