"""Findings, and changes made outside, each to be kept or reverted."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Request

from yugum.api.auth import Acting, Use, Viewer
from yugum.api.idempotency import IdempotentRoute
from yugum.api.parameters import Begin, Cursor, End, Limit, OfApplication, OneOf
from yugum.api.said import WhichFindings
from yugum.api.shapes import number, page_of, shape
from yugum.core.deviations import DeviationState
from yugum.core.findings import FindingDay
from yugum.engine.accepting import Found
from yugum.ports.deviations import DeviationLine
from yugum.ports.findings import ChosenFindings
from yugum.wire import findings as wf
from yugum.wire.common import BlankIsNone, Page

router = APIRouter(prefix="/findings", tags=["findings"], route_class=IdempotentRoute)


@router.get("", operation_id="findings.list")
async def list_findings(
    use: Use,
    _: Viewer,
    said: WhichFindings,
    application: OfApplication,
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wf.Finding]:
    """What should not be, by kind; of one person or application within two seconds."""
    page = await use.overview.findings(
        ChosenFindings(kind=said.kind, accepted=said.accepted),
        cursor,
        limit,
        application=application,
        who=said.who,
    )
    return page_of(page, wf.Finding.model_validate)


@router.get("/counts", operation_id="findings.count")
async def count_findings(use: Use, _: Viewer) -> list[wf.FindingCount]:
    """How many findings there are of each kind, and what their seats cost."""
    counts = await use.overview.finding_counts()
    return [wf.FindingCount.model_validate(c) for c in sorted(counts, key=lambda c: c.kind)]


@router.get("/days", operation_id="findings.days")
async def list_finding_days(
    use: Use,
    _: Viewer,
    begin: Begin = None,
    end: End = None,
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wf.FindingDay]:
    """How many there were of each kind, day by day; no day on which nothing worked here."""
    page = await use.overview.finding_days(begin, end, cursor, limit)
    return page_of(page, _day)


@router.post("/accepted", operation_id="findings.accept")
async def accept_findings(
    body: wf.AcceptFindings, use: Use, operator: Acting
) -> wf.AcceptedFindings:
    """Accept findings until a day, at most 90 days ahead: they are not told before. Those that were not are told with why."""
    items = [Found(f.kind, f.key) for f in body.items]
    refused = await use.accepting.accept(items, body.until, body.reason, operator.login)
    return wf.AcceptedFindings(
        accepted=len({*items}) - len(refused),
        refused=[wf.RefusedFinding.model_validate(r) for r in refused],
    )


@router.post("/reopened", operation_id="findings.reopen")
async def reopen_findings(
    body: wf.ReopenFindings, use: Use, operator: Acting
) -> wf.AcceptedFindings:
    """Accepted findings are told again; how many were."""
    items = [Found(f.kind, f.key) for f in body.items]
    return wf.AcceptedFindings(accepted=await use.accepting.end(items, operator.login), refused=[])


@router.get("/outside", operation_id="findings.outside")
async def list_deviations(
    use: Use,
    _: Viewer,
    application: OfApplication,
    state: Annotated[DeviationState | None, BlankIsNone] = DeviationState.OPEN,
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wf.Deviation]:
    """Changes made outside Yugum, each to be kept or reverted."""
    page = await use.links.deviations(application, state, cursor, limit)
    return page_of(page, _deviation)


def _day(found: FindingDay) -> wf.FindingDay:
    counts = [wf.KindCount(kind=kind, count=n) for kind, n in sorted(found.counts.items())]
    return shape(wf.FindingDay, found, counts=counts, over=sorted(found.over))


def _deviation(line: DeviationLine) -> wf.Deviation:
    return wf.Deviation.model_validate(line)


@router.post("/outside/{deviation_id}/keep", operation_id="findings.keep")
async def keep_deviation(deviation_id: str, use: Use, operator: Acting) -> wf.Decided:
    decided = await use.links.keep(deviation_id, operator.login)
    return shape(wf.Decided, decided, docket=None)


@router.post("/outside/{deviation_id}/revert", operation_id="findings.revert")
async def revert_deviation(
    deviation_id: str, request: Request, use: Use, operator: Acting, reference: OneOf = ""
) -> wf.Decided:
    """Put the change back by a docket that starts at once."""
    decided = await use.links.revert(deviation_id, operator.login, reference)
    docket = number(request, decided.docket) if decided.docket else None
    return shape(wf.Decided, decided, docket=docket)
