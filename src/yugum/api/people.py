"""People and their decisions."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Header, Query, Request, Response

from yugum.api.auth import Acting, Use, Viewer
from yugum.api.discretion import discreet, discreet_rows
from yugum.api.idempotency import IdempotentRoute
from yugum.api.shapes import page_of, person_view
from yugum.errors import InvalidInput
from yugum.wire import nouns as wn
from yugum.wire import people as wp
from yugum.wire.common import Page

router = APIRouter(prefix="/people", tags=["people"], route_class=IdempotentRoute)

Limit = Annotated[int, Query(ge=1, le=200)]
Cursor = Annotated[str | None, Query(max_length=2000)]


@router.get("")
async def list_people(
    use: Use,
    _: Viewer,
    q: Annotated[
        str, Query(max_length=200, description="Any part of a name, login or number.")
    ] = "",
    filter: Annotated[str, Query(max_length=4000, description="RFC 7644 3.4.2.2")] = "",
    state: Literal["", "expected", "active", "absent", "left"] = "",
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wp.PersonRow]:
    page = await use.people.page(
        filter_text=filter, query=q, state=state, cursor=cursor, limit=limit
    )
    return page_of(page, wp.PersonRow.model_validate)


@router.post("", status_code=201)
async def create_people(body: wp.NewPeople, use: Use, operator: Acting) -> list[dict[str, str]]:
    """Create people; all are checked before any is stored."""
    people = await use.people.create([p.model_dump() for p in body.people], operator.login)
    return [{"id": p.id, "user_name": p.user_name} for p in people]


@router.post("/would-get")
async def would_get(body: wp.WouldGet, use: Use, _: Viewer) -> list[wp.GivenLine]:
    """What somebody with these fields would have, and why, before anything is stored."""
    fields = {k: v for k, v in body.model_dump().items() if v}
    return [wp.GivenLine.model_validate(line) for line in await use.readiness.would_get(fields)]


@router.get("/joiners")
async def list_joiners(
    use: Use,
    _: Viewer,
    before: Annotated[int, Query(ge=0, le=366, description="Days back from today.")] = 7,
    ahead: Annotated[int, Query(ge=0, le=366, description="Days on from today.")] = 14,
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wp.JoinerRow]:
    """Who begins these days, and what is still missing for each."""
    rows, page = await use.readiness.page(before, ahead, cursor, limit)
    return Page(
        items=[wp.JoinerRow.model_validate(row) for row in rows], next=page.next, total=page.total
    )


@router.get("/{who}/same-as/{like}")
async def same_as(who: str, like: str, use: Use, _: Viewer) -> wp.SameAs:
    """What it takes for one person to be as another, roles apart from exceptions."""
    return wp.SameAs.model_validate(await use.readiness.same_as(who, like))


@router.get("/{who}")
async def show_person(
    who: str, request: Request, response: Response, use: Use, operator: Viewer
) -> wp.PersonView:
    """One person, by id, login, number or name."""
    view = person_view(request, await use.people.show(who))
    view = await discreet(use, operator, view, view.id)
    response.headers["ETag"] = f'"{view.rev}"'
    return view


@router.patch("/{who}")
async def change_person(
    who: str,
    body: wp.PersonChange,
    response: Response,
    use: Use,
    operator: Acting,
    if_match: Annotated[str | None, Header()] = None,
) -> dict[str, str]:
    """Correct fields. With If-Match the change is refused when somebody else came first."""
    rev = None
    if if_match is not None:
        text = if_match.strip('"')
        if not text.isdigit():
            raise InvalidInput("If-Match is an ETag as given by GET.", place="If-Match")
        rev = int(text)
    person, after = await use.people.change(who, body.changes, rev, operator.login, body.reason)
    response.headers["ETag"] = f'"{after}"'
    return {"id": person.id, "user_name": person.user_name}


@router.post("/{who}/merge")
async def merge_people(
    who: str, body: wp.MergePeople, use: Use, operator: Acting
) -> dict[str, str]:
    """Make one person of two who are the same; a split is linking accounts anew."""
    person = await use.people.merge(who, body.other, operator.login, body.reason)
    return {"id": person.id, "user_name": person.user_name}


@router.get("/{who}/decisions")
async def list_decisions(
    who: str, use: Use, operator: Viewer, cursor: Cursor = None, limit: Limit = 50
) -> Page[wp.DecisionLine]:
    page = await use.decisions.page(who, cursor, limit)
    page = await discreet_rows(use, operator, page, "subject_id")
    return page_of(page, wp.DecisionLine.model_validate)


decisions = APIRouter(prefix="/decisions", tags=["decisions"], route_class=IdempotentRoute)


@decisions.post("", status_code=201)
async def make_decision(body: wn.NewDecision, use: Use, operator: Acting) -> wn.DecisionView:
    """An exception, a successor or a hold; the next plan reads it."""
    made = await use.decisions.make(
        body.who, body.kind, body.payload, body.reason, body.ends, operator.login
    )
    return wn.DecisionView(
        id=made.id,
        subject_id=made.subject_id,
        kind=made.kind.value,
        payload=dict(made.payload),
        author=made.author,
        reason=made.reason,
        ends_at=made.ends,
    )


@decisions.delete("/{decision_id}")
async def end_decision(decision_id: str, use: Use, operator: Acting) -> wn.DecisionView:
    row = await use.decisions.end(decision_id, operator.login)
    return wn.DecisionView.model_validate(dict(row))
