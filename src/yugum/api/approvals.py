"""Approvals and mail."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Query, Request

from yugum.api.auth import Acting, Use, Viewer
from yugum.api.idempotency import IdempotentRoute
from yugum.api.people import Cursor, Limit
from yugum.api.shapes import number, page_of
from yugum.wire import approvals as wa
from yugum.wire.common import Page

router = APIRouter(prefix="/approvals", tags=["approvals"], route_class=IdempotentRoute)
mails = APIRouter(prefix="/mails", tags=["mails"])


@router.get("")
async def list_approvals(
    request: Request,
    use: Use,
    operator: Viewer,
    state: Literal["", "open", "given", "refused", "expired"] = "open",
    docket: Annotated[str, Query(max_length=60)] = "",
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wa.ApprovalRow]:
    """Approvals, the one that expires first at the top; ``mine`` are those you were asked for."""
    keys = {f"operator:{operator.login}", f"person:{operator.person_id}"}
    docket_id = ""
    if docket:
        async with use.database.unit() as unit:
            docket_id = (await unit.dockets.by_name(docket)).id

    def row(found: Mapping[str, Any]) -> wa.ApprovalRow:
        return wa.ApprovalRow.model_validate(
            {
                **found,
                "number": number(request, found["number"]),
                "summary": (found["document"] or {}).get("summary", []),
                "mine": bool(keys & {a["key"] for a in found["asked"]}),
            },
            from_attributes=False,
        )

    return page_of(await use.approvals.page(state, docket_id, cursor, limit), row)


@router.post("/{approval_id}/answer")
async def answer_approval(
    approval_id: str, body: wa.AnswerApproval, use: Use, operator: Acting
) -> wa.Answered:
    """Agree or refuse; a refusal says why and cancels the docket."""
    row = await use.approvals.answer(
        approval_id, operator.login, operator.person_id, agrees=body.agrees, note=body.note
    )
    return wa.Answered.model_validate(row, from_attributes=False)


@router.post("/{approval_id}/delegate")
async def delegate_approval(
    approval_id: str, body: wa.Delegate, use: Use, operator: Acting
) -> wa.Answered:
    """Ask another operator as well."""
    row = await use.approvals.delegate(approval_id, operator.login, operator.person_id, body.to)
    return wa.Answered.model_validate(row, from_attributes=False)


links = APIRouter(prefix="/approval-links", tags=["approvals"])


@links.post("/open")
async def open_approval(body: wa.AnswerByLink, use: Use) -> wa.ApprovalByLink:
    """What the link in a mail is about; needs no sign-in and answers nothing yet."""
    found = await use.approvals.opened(body.token)
    docket, approval = found["docket"], found["approval"]
    return wa.ApprovalByLink(
        asked=found["name"],
        name=approval["name"],
        state=approval["state"],
        verb=docket["verb"],
        subject_name=docket["subject_name"],
        author=docket["author"],
        reason=docket["reason"],
        summary=(docket["document"] or {}).get("summary", []),
        due_at=docket["due_at"],
        expires_at=approval["expires_at"],
    )


@links.post("/answer")
async def answer_by_link(body: wa.AnswerByLink, use: Use) -> wa.Answered:
    """Answer by the link in a mail; it works once."""
    row = await use.approvals.answer_link(body.token, agrees=body.agrees, note=body.note)
    return wa.Answered.model_validate(row, from_attributes=False)


@mails.get("")
async def list_mails(
    use: Use,
    _: Viewer,
    who: Annotated[str, Query(max_length=200)] = "",
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wa.MailRow]:
    """What was told to whom, the newest first."""
    return page_of(await use.mails.page(who, cursor, limit), wa.MailRow.model_validate)
