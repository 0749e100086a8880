"""The day sheet."""

from __future__ import annotations

from fastapi import APIRouter, Request

from yugum.api.auth import Use, Viewer
from yugum.api.discretion import discreet
from yugum.api.shapes import installation, number, precaution_row, shape, standing_row
from yugum.api.strict import StrictRoute
from yugum.core.dockets import StepProblem
from yugum.ports.views import DayDocket
from yugum.wire import day as wy

router = APIRouter(prefix="/day", tags=["day sheet"], route_class=StrictRoute)
TOLD = ("department", "title", "site")


@router.get("", operation_id="day.show")
async def day_sheet(request: Request, use: Use, operator: Viewer) -> wy.DaySheet:
    """Today and the week ahead."""
    zone = installation(request).zone
    sheet = await use.overview.day(zone)
    return wy.DaySheet(
        now=sheet.now,
        zone=zone,
        dockets=[_docket(request, d) for d in sheet.rows.dockets],
        later=[_docket(request, d) for d in sheet.rows.later],
        open_late=[
            shape(wy.OpenLate, late, problem=_text(late.problem)) for late in sheet.rows.open_late
        ],
        stuck=[
            shape(wy.Stuck, s, number=number(request, s.number), problem=_text(s.problem))
            for s in sheet.rows.stuck
        ],
        last_call=[wy.LastCall.model_validate(window) for window in sheet.rows.last_call],
        standing=[standing_row(request, line) for line in sheet.standing],
        reviews=[
            await discreet(use, operator, precaution_row(request, line), line.person_id)
            for line in sheet.reviews
        ],
    )


def _docket(request: Request, docket: DayDocket) -> wy.DayDocket:
    change = ", ".join(said for n in TOLD if (said := docket.changes.get(n)))
    note = _text(docket.problem) or next(iter(docket.summary), "")
    return shape(
        wy.DayDocket, docket, number=number(request, docket.number), change=change, note=note
    )


def _text(problem: StepProblem | None) -> str:
    return problem.text if problem else ""
