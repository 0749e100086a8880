"""People and their decisions."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Header, Query, Request, Response

from yugum.api.auth import Acting, Use, Viewer
from yugum.api.discretion import discreet, discreet_page
from yugum.api.idempotency import IdempotentRoute
from yugum.api.parameters import Cursor, Limit, OneLine, Then
from yugum.api.said import WhichJoiners, WhichPeople
from yugum.api.shapes import decision_view, page_of, person_view, shape
from yugum.core.decisions import Payload
from yugum.core.lists import KnownValue
from yugum.core.requests import NewPerson, Somebody
from yugum.engine.readiness import Joiner
from yugum.wire import decisions as wx
from yugum.wire import earlier as we
from yugum.wire import people as wp
from yugum.wire.common import Page, as_dataclass

ETAG = r'^("[0-9]{1,9}"|[0-9]{1,9})$'
"""A revision, as GET gives it (RFC 9110 8.8.3)."""

router = APIRouter(prefix="/people", tags=["people"], route_class=IdempotentRoute)


@router.get("", operation_id="people.list")
async def list_people(
    use: Use,
    _: Viewer,
    said: WhichPeople,
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wp.PersonRow]:
    """People by declared filters, and by any other (``filter``) that ends after two seconds."""
    page = await use.people.page(
        said.chosen(), filter_text=said.filter, manager=said.manager, cursor=cursor, limit=limit
    )
    return page_of(page, wp.PersonRow.model_validate)


@router.get("/values", operation_id="people.values")
async def list_values(
    use: Use,
    _: Viewer,
    field: KnownValue,
    q: Annotated[
        str, Query(max_length=200, description="What it begins with, in any case."), *OneLine
    ] = "",
    limit: Limit = 50,
) -> list[str]:
    """What people have in a field, each value once: departments, sites, kinds."""
    return list(await use.people.values(field, q, limit))


@router.post("", status_code=201, operation_id="people.create")
async def create_people(body: wp.NewPeople, use: Use, operator: Acting) -> list[wp.NamedPerson]:
    """Create people; all are checked before any is stored."""
    new = [as_dataclass(p, NewPerson) for p in body.people]
    return [wp.NamedPerson.model_validate(p) for p in await use.people.create(new, operator.login)]


@router.post("/would-get", operation_id="people.would-get")
async def would_get(body: wp.WouldGet, use: Use, _: Viewer) -> list[wp.GivenLine]:
    """What somebody with these fields would have, and why, before anything is stored."""
    found = await use.readiness.would_get(as_dataclass(body, Somebody))
    return [wp.GivenLine.model_validate(line) for line in found]


@router.get("/joiners", operation_id="people.joiners")
async def list_joiners(
    use: Use,
    _: Viewer,
    said: WhichJoiners,
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wp.JoinerRow]:
    """Who begins these days, and what is still missing for each."""
    page = await use.readiness.page(said.before, said.ahead, said.ready, cursor, limit)
    return page_of(page, _joiner)


def _joiner(joiner: Joiner) -> wp.JoinerRow:
    lines = [
        shape(wp.ReadyLine, line, application_name=name, state=line.state or "")
        for line, name in joiner.lines
    ]
    missing = [f"{line.application_name}: {lack}" for line in lines for lack in line.lacks]
    more = {"ready": joiner.ready, "lines": lines, "missing": missing}
    return shape(wp.JoinerRow, joiner.starter, **more)


@router.get("/declined", operation_id="people.declined")
async def list_declined(
    use: Use, _: Viewer, cursor: Cursor = None, limit: Limit = 50
) -> Page[wp.DeclinedRow]:
    """Who was declined before they began, by whom and why, the latest first."""
    return page_of(await use.declined.page(cursor, limit), wp.DeclinedRow.model_validate)


@router.post("/{who}/decline", operation_id="people.decline")
async def decline_person(
    who: str, body: wp.DeclinePerson, use: Use, operator: Acting
) -> wp.DeclinedRow:
    """Take somebody out who has not begun: no person and no account is left, the refusal is on record."""
    one = await use.declined.decline(who, operator.login, body.reason)
    return wp.DeclinedRow.model_validate(one)


@router.get("/{who}/same-as/{like}", operation_id="people.same-as")
async def same_as(who: str, like: str, use: Use, _: Viewer) -> wp.SameAs:
    """What it takes for one person to be as another, roles apart from exceptions."""
    return wp.SameAs.model_validate(await use.readiness.same_as(who, like))


@router.get("/{who}", operation_id="people.show")
async def show_person(
    who: str, request: Request, response: Response, use: Use, operator: Viewer
) -> wp.PersonView:
    """One person, by id, login, number or name."""
    view = person_view(request, await use.people.show(who))
    view = await discreet(use, operator, view, view.id)
    response.headers["ETag"] = f'"{view.rev}"'
    return view


@router.get("/{who}/then", operation_id="people.then")
async def show_person_then(who: str, at: Then, use: Use, operator: Viewer) -> we.PersonThen:
    """Somebody as they were at a moment of the past: fields, accounts and what these held."""
    view = we.PersonThen.model_validate(await use.people.then(who, at))
    return await discreet(use, operator, view, view.id)


@router.patch("/{who}", operation_id="people.change")
async def change_person(
    who: str,
    body: wp.PersonChange,
    response: Response,
    use: Use,
    operator: Acting,
    if_match: Annotated[str, Header(pattern=ETAG)] = "",
) -> wp.NamedPerson:
    """Correct fields. With If-Match the change is refused when somebody else came first."""
    rev = None
    if if_match:
        rev = int(if_match.strip('"'))
    person, after = await use.people.change(
        who, body.changes, rev, operator.login, body.reason, body.right
    )
    response.headers["ETag"] = f'"{after}"'
    return wp.NamedPerson.model_validate(person)


@router.put("/{who}/birthday", operation_id="people.birthday")
async def put_birthday(
    who: str, body: wp.BirthdaySaid, use: Use, operator: Acting
) -> list[wp.SameBirthday]:
    """Keep a digest of a day of birth; the answer names who may be the same person by it."""
    found = await use.birthdays.put(who, body.birthday, operator.login)
    return [wp.SameBirthday.model_validate(one) for one in found]


@router.post("/{who}/merge", operation_id="people.merge")
async def merge_people(
    who: str, body: wp.MergePeople, use: Use, operator: Acting
) -> wp.NamedPerson:
    """Make one person of two who are the same; a split is linking accounts anew."""
    person = await use.people.merge(who, body.other, operator.login, body.reason)
    return wp.NamedPerson.model_validate(person)


@router.get("/{who}/decisions", operation_id="people.decisions")
async def list_decisions(
    who: str, use: Use, operator: Viewer, cursor: Cursor = None, limit: Limit = 50
) -> Page[wx.DecisionLine]:
    page = await use.decisions.page(who, cursor, limit)
    return await discreet_page(
        use, operator, page, lambda d: d.subject_id, wx.DecisionLine.model_validate
    )


decisions = APIRouter(prefix="/decisions", tags=["decisions"], route_class=IdempotentRoute)


@decisions.post("", status_code=201, operation_id="decisions.make")
async def make_decision(body: wx.NewDecision, use: Use, operator: Acting) -> wx.DecisionView:
    """An exception, a successor or a hold; the next plan reads it."""
    payload = as_dataclass(body.payload, Payload)
    made = await use.decisions.make(
        body.who, body.kind, payload, body.reason, body.ends, operator.login, new=body.new
    )
    return decision_view(made)


@decisions.delete("/{decision_id}", operation_id="decisions.end")
async def end_decision(decision_id: str, use: Use, operator: Acting) -> wx.DecisionView:
    return wx.DecisionView.model_validate(await use.decisions.end(decision_id, operator.login))
