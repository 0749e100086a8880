"""Whether whoever is to take something over does."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated

from fastapi import APIRouter, Query

from yugum.api.auth import Acting, Use, Viewer
from yugum.api.discretion import discreet, discreet_page
from yugum.api.idempotency import IdempotentRoute
from yugum.api.parameters import Cursor, Limit
from yugum.api.strict import StrictRoute
from yugum.core.takeovers import TakeoverAnswer
from yugum.engine.takeovers import Reply
from yugum.ports.takeovers import TakeoverLine
from yugum.wire import takeovers as wt
from yugum.wire.common import Page

router = APIRouter(prefix="/takeovers", tags=["people"], route_class=IdempotentRoute)
links = APIRouter(prefix="/takeover-links", tags=["people"], route_class=StrictRoute)


@router.get("", operation_id="takeovers.list")
async def list_takeovers(
    use: Use,
    operator: Viewer,
    answer: Annotated[TakeoverAnswer | None, Query(description="Only those so answered.")] = None,
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wt.TakeoverRow]:
    """Who is asked, or was, whether they take over what somebody owns who leaves or has left, the latest first."""
    page = await use.takeovers.page(answer, cursor, limit)
    row = wt.TakeoverRow.model_validate
    return await discreet_page(use, operator, page, lambda line: line.person_id, row)


@router.post("/{takeover_id}/answer", operation_id="takeovers.answer")
async def answer_takeover(
    takeover_id: str, body: wt.TakeoverReply, use: Use, operator: Acting
) -> wt.TakeoverRow:
    """Note what somebody who was asked has said otherwise, and how it is known; it counts like an answer by the link."""
    line = await use.takeovers.answer_for(takeover_id, _said(body), operator.login)
    row = wt.TakeoverRow.model_validate(line)
    return await discreet(use, operator, row, row.person_id)


@links.post("/open", operation_id="takeovers.open-link")
async def open_takeovers(body: wt.TakeoverLink, use: Use) -> wt.TakeoverQuestions:
    """What the link of a mail asks; needs no sign-in and answers nothing yet."""
    return _asked(await use.takeovers.opened(body.token))


@links.post("/answer", operation_id="takeovers.answer-link")
async def answer_takeover_link(body: wt.TakeoverLinkReply, use: Use) -> wt.TakeoverQuestions:
    """Whoever was asked takes one kind of thing over, declines it or passes it on; each is answered once."""
    return _asked(await use.takeovers.answer_link(body.token, body.id, _said(body)))


def _said(body: wt.TakeoverReply) -> Reply:
    return Reply(answer=body.answer, to=body.to, note=body.note)


def _asked(lines: Sequence[TakeoverLine]) -> wt.TakeoverQuestions:
    return wt.TakeoverQuestions(
        heir_name=lines[0].heir_name,
        zone=lines[0].heir_zone,
        questions=[wt.TakeoverQuestion.model_validate(line) for line in lines],
    )
