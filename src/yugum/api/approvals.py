"""Approvals and mail."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Request

from yugum.api.auth import Deciding, Use, Viewer
from yugum.api.idempotency import IdempotentRoute
from yugum.api.parameters import Cursor, Limit, OneOf
from yugum.api.said import WhichMails
from yugum.api.shapes import number, page_of, shape
from yugum.api.strict import StrictRoute
from yugum.core.approvals import ApprovalState
from yugum.core.operators import OperatorRole
from yugum.ports.approvals import ApprovalLine
from yugum.wire import approvals as wa
from yugum.wire import mails as wm
from yugum.wire.common import BlankIsNone, Page

router = APIRouter(prefix="/approvals", tags=["approvals"], route_class=IdempotentRoute)
mails = APIRouter(prefix="/mails", tags=["mails"], route_class=StrictRoute)


@router.get("", operation_id="approvals.list")
async def list_approvals(
    request: Request,
    use: Use,
    operator: Viewer,
    state: Annotated[ApprovalState | None, BlankIsNone] = ApprovalState.OPEN,
    docket: OneOf = "",
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wa.ApprovalRow]:
    """Approvals, the one that expires first at the top; ``mine`` are those you were asked for."""
    keys = {f"operator:{operator.login}", f"person:{operator.person_id}"}

    def row(approval: ApprovalLine) -> wa.ApprovalRow:
        return shape(
            wa.ApprovalRow,
            approval,
            number=number(request, approval.number),
            summary=approval.notes.summary,
            mine=bool(keys & {a.key for a in approval.asked}),
        )

    return page_of(await use.approvals.page(state, docket, cursor, limit), row)


@router.post("/{approval_id}/answer", operation_id="approvals.answer")
async def answer_approval(
    approval_id: str, body: wa.AnswerApproval, use: Use, operator: Deciding
) -> wa.Answered:
    """Agree or refuse; a refusal says why and cancels the docket.

    An administrator may answer for those who were asked, with a note; the answer is marked as theirs.
    """
    approval = await use.approvals.answer(
        approval_id,
        operator.login,
        operator.person_id,
        agrees=body.agrees,
        note=body.note,
        administrator=operator.role is OperatorRole.ADMINISTRATOR,
    )
    return wa.Answered.model_validate(approval)


@router.post("/{approval_id}/delegate", operation_id="approvals.delegate")
async def delegate_approval(
    approval_id: str, body: wa.Delegate, use: Use, operator: Deciding
) -> wa.Answered:
    """Ask another operator as well."""
    approval = await use.approvals.delegate(
        approval_id,
        operator.login,
        operator.person_id,
        body.to,
        administrator=operator.role is OperatorRole.ADMINISTRATOR,
    )
    return wa.Answered.model_validate(approval)


links = APIRouter(prefix="/approval-links", tags=["approvals"], route_class=StrictRoute)


@links.post("/open", operation_id="approvals.open-link")
async def open_approval(body: wa.AnswerByLink, use: Use) -> wa.ApprovalByLink:
    """What the link in a mail is about; needs no sign-in and answers nothing yet."""
    found = await use.approvals.opened(body.token)
    docket, approval = found.docket, found.approval
    return wa.ApprovalByLink(
        asked=found.name,
        name=approval.name,
        state=approval.state,
        verb=docket.verb,
        subject_name=docket.subject_name,
        author=docket.author,
        reason=docket.reason,
        summary=list(docket.notes.summary),
        due_at=docket.due_at,
        expires_at=approval.expires_at,
    )


@links.post("/answer", operation_id="approvals.answer-link")
async def answer_by_link(body: wa.AnswerByLink, use: Use) -> wa.Answered:
    """Answer by the link in a mail; it works once."""
    approval = await use.approvals.answer_link(body.token, agrees=body.agrees, note=body.note)
    return wa.Answered.model_validate(approval)


@mails.get("", operation_id="mails.list")
async def list_mails(
    use: Use,
    _: Viewer,
    said: WhichMails,
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wm.MailRow]:
    """What was told to whom, the newest first."""
    page = await use.mails.page(said.who, cursor, limit, kind=said.kind, unsent=said.unsent)
    return page_of(page, wm.MailRow.model_validate)
