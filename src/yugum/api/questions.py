"""Whether unused seats are still needed."""

from __future__ import annotations

from fastapi import APIRouter

from yugum.api.auth import Acting, Use, Viewer
from yugum.api.idempotency import IdempotentRoute
from yugum.api.parameters import Cursor, Limit
from yugum.api.shapes import page_of
from yugum.api.strict import StrictRoute
from yugum.wire import questions as wq
from yugum.wire.common import Page

router = APIRouter(prefix="/seats/{pool_id}/questions", tags=["seats"], route_class=IdempotentRoute)
links = APIRouter(prefix="/seat-links", tags=["seats"], route_class=StrictRoute)


@router.get("", operation_id="seats.asked")
async def list_questions(
    pool_id: str, use: Use, _: Viewer, cursor: Cursor = None, limit: Limit = 50
) -> Page[wq.QuestionRow]:
    """Who was asked whether they still need a seat they do not use, the latest first."""
    return page_of(await use.questions.page(pool_id, cursor, limit), wq.QuestionRow.model_validate)


@router.post("", status_code=201, operation_id="seats.ask")
async def ask_unused(pool_id: str, use: Use, operator: Acting) -> wq.Asked:
    """Ask now whoever does not use a seat and was not asked since they did; the service does so by itself, too."""
    return wq.Asked(people=await use.questions.ask(pool_id, operator.login))


@links.post("/open", operation_id="seats.open-link")
async def open_question(body: wq.SeatLink, use: Use) -> wq.SeatQuestion:
    """What the link of a mail asks; needs no sign-in and answers nothing yet."""
    return wq.SeatQuestion.model_validate(await use.questions.opened(body.token))


@links.post("/answer", operation_id="seats.answer-link")
async def answer_question(body: wq.SeatReply, use: Use) -> wq.SeatQuestion:
    """Somebody still needs a seat, or does not; the link works once."""
    return wq.SeatQuestion.model_validate(await use.questions.answer(body.token, keeps=body.keeps))
