"""What somebody owns, over all applications, and what is to become of it."""

from __future__ import annotations

from fastapi import APIRouter, Request

from yugum.api.auth import Acting, Use, Viewer
from yugum.api.discretion import discreet, discreet_page
from yugum.api.idempotency import IdempotentRoute
from yugum.api.parameters import Cursor, Limit, OneOf
from yugum.api.said import WhichHandovers
from yugum.api.shapes import number, shape
from yugum.api.strict import StrictRoute
from yugum.core.handover import Settled
from yugum.core.people import full_name
from yugum.engine.handover import SAMPLES, HandoverShown, NewChoice, OnBoard, Owned
from yugum.wire import handover as wh
from yugum.wire.common import Page, as_dataclass

board = APIRouter(prefix="/handover", tags=["people"], route_class=StrictRoute)
router = APIRouter(prefix="/people/{who}/handover", tags=["people"], route_class=IdempotentRoute)
of_person = APIRouter(prefix="/people/{who}", tags=["people"], route_class=StrictRoute)


@board.get("", operation_id="handover.list")
async def list_handover(
    use: Use,
    operator: Viewer,
    said: WhichHandovers,
    application: OneOf = "",
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wh.BoardRow]:
    """What everybody who leaves or has left still owns, as last seen, and what becomes of it."""
    page = await use.handover.board(application, said.settled, cursor, limit)
    return await discreet_page(use, operator, page, lambda row: row.line.person_id, _on_board)


@router.get("", operation_id="people.handover")
async def show_handover(who: str, use: Use, operator: Viewer) -> wh.HandoverView:
    """What somebody owns, looked at now in every application, and what becomes of it when they leave."""
    view = _view(await use.handover.show(who))
    return await discreet(use, operator, view, view.id)


@router.put("", operation_id="people.choose-handover")
async def choose_handover(
    who: str, body: wh.ChooseHandover, use: Use, operator: Acting
) -> wh.HandoverView:
    """Settle what becomes of some of what somebody owns; who has left already hands it over at once."""
    new = as_dataclass(body, NewChoice)
    view = _view(await use.handover.choose(who, new, operator.login))
    return await discreet(use, operator, view, view.id)


@of_person.get("/given", operation_id="people.given")
async def show_given(who: str, request: Request, use: Use, operator: Viewer) -> wh.GivenView:
    """What somebody had and others were given, and who has it now, as last seen."""
    shown = await use.handover.given(who)
    view = wh.GivenView(
        id=shown.person.id,
        name=full_name(shown.person),
        user_name=shown.person.user_name,
        over=shown.over,
        rows=[shape(wh.GivenRow, r, number=number(request, r.number)) for r in shown.rows],
    )
    return await discreet(use, operator, view, view.id)


def _on_board(row: OnBoard) -> wh.BoardRow:
    person, choice = row.subject.person, row.part.choice
    heir = choice.successor
    return shape(
        wh.BoardRow,
        row.line,
        name=full_name(person),
        user_name=person.user_name,
        leaves_at=person.access_ends,
        application_name=row.application_name,
        matching=row.part.matching,
        count=len(row.part.things),
        settled=choice.settled,
        ground=choice.ground,
        to_id=heir.person.id if heir else None,
        to_name=full_name(heir.person) if heir else "",
        code=choice.code,
        text=choice.text,
    )


def _view(shown: HandoverShown) -> wh.HandoverView:
    person = shown.person
    return wh.HandoverView(
        id=person.id,
        name=full_name(person),
        user_name=person.user_name,
        at=shown.at,
        open=sum(r.choice.settled is Settled.OPEN for r in shown.rows),
        rows=[_row(r) for r in shown.rows],
        silent=list(shown.silent),
    )


def _row(row: Owned) -> wh.OwnedRow:
    choice = row.choice
    heir, decision = choice.successor, choice.decision
    return shape(
        wh.OwnedRow,
        row,
        names=list(row.names[:SAMPLES]),
        until=decision.ends if decision else None,
        settled=choice.settled,
        ground=choice.ground,
        to_id=heir.person.id if heir else None,
        to_name=full_name(heir.person) if heir else "",
        decision_id=decision.id if decision else None,
        author=decision.author if decision else "",
        reason=decision.reason if decision else "",
        code=choice.code,
        text=choice.text,
        roles=list(choice.roles),
    )
