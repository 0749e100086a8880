"""Views of lists, and a stream that tells open pages what has changed."""

from __future__ import annotations

from collections.abc import AsyncIterator, Mapping, Sequence
from contextlib import aclosing
from dataclasses import fields
from difflib import get_close_matches
from typing import Annotated, Any

from fastapi import APIRouter, Response
from pydantic import TypeAdapter, ValidationError
from sse_starlette import EventSourceResponse, ServerSentEvent

from yugum.api.auth import Use, Viewer
from yugum.api.idempotency import IdempotentRoute
from yugum.api.parameters import Cursor, Limit
from yugum.api.said import (
    AccountsSaid,
    AuditSaid,
    DocketsSaid,
    FindingsSaid,
    GroupsSaid,
    HandoverSaid,
    IntegrationsSaid,
    JoinersSaid,
    LastCallSaid,
    MailsSaid,
    OperatorsSaid,
    PeopleSaid,
    SharedSaid,
    TokensSaid,
)
from yugum.api.shapes import page_of, shape
from yugum.core.views import ListName, ReportName, told
from yugum.engine.access import Operator
from yugum.engine.services import Services
from yugum.engine.views import WantedView
from yugum.errors import InvalidInput
from yugum.ports.saved import ViewLine
from yugum.wire import views as wv
from yugum.wire.common import BlankIsNone, Page
from yugum.wire.listed import ROWS

router = APIRouter(prefix="/views", tags=["views"], route_class=IdempotentRoute)
changes = APIRouter(prefix="/changes", tags=["views"], route_class=IdempotentRoute)
SAID: Mapping[ListName, tuple[type[Any], frozenset[str]]] = {
    ListName.PEOPLE: (PeopleSaid, frozenset()),
    ListName.ACCOUNTS: (AccountsSaid, frozenset({"application"})),
    ListName.DOCKETS: (DocketsSaid, frozenset()),
    ListName.FINDINGS: (FindingsSaid, frozenset({"application"})),
    ListName.LAST_CALL: (LastCallSaid, frozenset({"application"})),
    ListName.MAILS: (MailsSaid, frozenset()),
    ListName.HANDOVER: (HandoverSaid, frozenset({"application"})),
    ListName.JOINERS: (JoinersSaid, frozenset()),
    ListName.GROUPS: (GroupsSaid, frozenset({"application"})),
    ListName.OPERATORS: (OperatorsSaid, frozenset()),
    ListName.INTEGRATIONS: (IntegrationsSaid, frozenset()),
    ListName.TOKENS: (TokensSaid, frozenset()),
    ListName.SHARED: (SharedSaid, frozenset()),
    ListName.AUDIT: (AuditSaid, frozenset()),
}
"""What each list can be asked, and further parameters."""


def checked(body: wv.NewView) -> WantedView:
    """A view whose list knows all of it.

    Raises:
        InvalidInput: a filter, a value or a column is not known there.
    """
    said_of(body.page, body.query, "query")
    columns_of(body.page, body.columns)
    return WantedView(
        page=body.page,
        name=body.name,
        query=body.query,
        columns=body.columns,
        shared=body.shared,
    )


def said_of(page: ListName, query: Mapping[str, str], place: str) -> Any:  # noqa: ANN401 - each list has its own
    """What a list is asked, from its parameters as text.

    Raises:
        InvalidInput: a parameter or its value is not known there; said with ``place`` before it.
    """
    kind, more = SAID[page]
    known = {f.name for f in fields(kind)}
    for name in query:
        _must_know(name, known | more, place)
    try:
        return TypeAdapter(kind).validate_python({n: v for n, v in query.items() if n in known})
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join([place, *map(str, first["loc"])])
        raise InvalidInput(f"{where}: {first['msg']}", place=where) from error


def columns_of(page: ListName | ReportName, wanted: Sequence[str]) -> list[str]:
    """The columns of a list that are wanted, all of them if none is named.

    Raises:
        InvalidInput: the list has no such column.
    """
    known = list(ROWS[page].model_fields)
    for name in wanted:
        _must_know(name, set(known), "columns")
    return list(wanted) or known


def _must_know(name: str, known: set[str] | frozenset[str], place: str) -> None:
    if name in known:
        return
    near = get_close_matches(name, known, 1)
    remedy = f"Did you mean {near[0]}?" if near else f"There are: {', '.join(sorted(known))}."
    raise InvalidInput(f"This list knows no {name}.", place=f"{place}.{name}", remedy=remedy)


def view_row(line: ViewLine, operator: Operator) -> wv.ViewRow:
    return shape(wv.ViewRow, line, mine=line.operator_id == operator.id)


@router.get("", operation_id="views.list")
async def list_views(
    use: Use,
    operator: Viewer,
    page: Annotated[ListName | None, BlankIsNone] = None,
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wv.ViewRow]:
    """One's own views, and those that others share."""
    found = await use.views.page(operator, page, cursor, limit)
    return page_of(found, lambda line: view_row(line, operator))


@router.post("", status_code=201, operation_id="views.keep")
async def keep_view(body: wv.NewView, use: Use, operator: Viewer) -> wv.ViewRow:
    """Keep a list's filters, order and columns under a name."""
    return view_row(await use.views.keep(checked(body), operator), operator)


@router.delete("/start", status_code=204, operation_id="views.no-start")
async def no_start(use: Use, operator: Viewer) -> Response:
    """Start with the day sheet again."""
    await use.views.start(None, operator)
    return Response(status_code=204)


@router.put("/{view_id}", operation_id="views.change")
async def change_view(view_id: str, body: wv.NewView, use: Use, operator: Viewer) -> wv.ViewRow:
    """Change a view of one's own."""
    return view_row(await use.views.change(view_id, checked(body), operator), operator)


@router.delete("/{view_id}", status_code=204, operation_id="views.drop")
async def drop_view(view_id: str, use: Use, operator: Viewer) -> Response:
    """Drop a view of one's own; whoever started with it starts with the day sheet."""
    await use.views.drop(view_id, operator)
    return Response(status_code=204)


@router.put("/{view_id}/start", status_code=204, operation_id="views.start")
async def start_with(view_id: str, use: Use, operator: Viewer) -> Response:
    """Start with this view from now on."""
    await use.views.start(view_id, operator)
    return Response(status_code=204)


@changes.get("", response_class=EventSourceResponse, operation_id="changes.follow")
async def follow_changes(use: Use, operator: Viewer) -> EventSourceResponse:
    """Server-sent events: which nouns have changed, as long as the session or token is good.

    The first event, ``ready``, says that from now on nothing is missed.
    """
    return EventSourceResponse(_changes(use, operator), ping=15)


async def _changes(use: Services, operator: Operator) -> AsyncIterator[ServerSentEvent]:
    may = told(operator.role)
    async with aclosing(use.watching.nouns(operator)) as found:
        async for nouns in found:
            if nouns is None:
                yield ServerSentEvent("", event="ready")
            elif some := sorted(nouns & may):
                text = wv.Changed(nouns=some).model_dump_json()
                yield ServerSentEvent(text, event="changed")
