"""Files of people: checked row by row, then taken."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Query, Request, Response

from yugum.api.auth import Acting, Use, Viewer, actor
from yugum.api.idempotency import IdempotentRoute
from yugum.api.parameters import Cursor, Limit, OneLine
from yugum.api.plans import batch_shape
from yugum.api.shapes import page_of
from yugum.core.file_columns import BIRTHDAY, FileKind, accepted_of, pairs
from yugum.core.people_file import RowState
from yugum.engine.people_files import Reading
from yugum.ports.people_files import FileRow
from yugum.wire import people_files as wpf
from yugum.wire import plans as wl
from yugum.wire.common import Page

router = APIRouter(prefix="/people-files", tags=["people"], route_class=IdempotentRoute)

CSV: dict[str, Any] = {
    "requestBody": {
        "required": True,
        "content": {"text/csv": {"schema": {"type": "string", "format": "people-file"}}},
    }
}


@router.post("", status_code=201, operation_id="people-files.check", openapi_extra=CSV)
async def check_people_file(
    request: Request,
    use: Use,
    operator: Acting,
    name: Annotated[str, Query(min_length=1, max_length=200), *OneLine],
    kind: FileKind = FileKind.PEOPLE,
    encoding: Annotated[
        str, Query(max_length=40, description="If it is not to be found out."), *OneLine
    ] = "",
    empties: Annotated[
        str, Query(max_length=60, description="The text of a cell that empties a field."), *OneLine
    ] = "",
    column: Annotated[
        list[str],
        Query(max_length=200, description="NAME=FIELD: what a column is; NAME= leaves it out."),
    ] = [],  # noqa: B006 - FastAPI copies it
    leave: Annotated[
        bool,
        Query(description="Leave out columns nobody knows, until somebody says what they are."),
    ] = False,
    new: Annotated[
        list[str],
        Query(max_length=500, description="FIELD=VALUE: right, though nobody has it yet."),
    ] = [],  # noqa: B006
) -> wpf.PeopleFileView:
    """Check a CSV file of people or of leavers row by row and keep it for thirty days; nothing else is done."""
    columns = {k: v.strip() for k, v in pairs(column, "column")}
    accepted = accepted_of(new, "new")
    reading = Reading(
        encoding=encoding, columns=columns, empties=empties, accepted=accepted, leave=leave
    )
    raw = await request.body()
    return _view(await use.people_files.check(kind, name, raw, reading, operator.login))


@router.get("", operation_id="people-files.list")
async def list_people_files(
    use: Use, _: Viewer, cursor: Cursor = None, limit: Limit = 50
) -> Page[wpf.PeopleFileView]:
    """The files of the last thirty days, the last ones first."""
    return page_of(await use.people_files.page(cursor, limit), _view)


@router.get("/{file_id}", operation_id="people-files.show")
async def show_people_file(file_id: str, use: Use, _: Viewer) -> wpf.PeopleFileView:
    return _view(await use.people_files.one(file_id))


@router.get("/{file_id}/rows", operation_id="people-files.rows")
async def people_file_rows(
    file_id: str,
    use: Use,
    _: Viewer,
    state: RowState | None = None,
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wpf.FileRowView]:
    """What came of each row, in the file's order."""
    page = await use.people_files.rows(file_id, state, cursor, limit)
    return page_of(page, _row)


@router.post("/{file_id}/check", operation_id="people-files.again")
async def check_people_file_again(
    file_id: str, body: wpf.HowToRead, use: Use, operator: Acting
) -> wpf.PeopleFileView:
    """Check a kept file once more: against what is known by now, or with other columns."""
    reading = Reading(columns=body.columns, empties=body.empties, accepted=body.accepted)
    return _view(await use.people_files.again(file_id, reading, operator.login))


@router.post("/{file_id}/take", operation_id="people-files.take")
async def take_people_file(file_id: str, use: Use, operator: Acting) -> wpf.PeopleFileView:
    """Take the next two thousand good rows; to be asked until no new or changed ones are left."""
    return _view(await use.people_files.take(file_id, operator.login))


@router.post("/{file_id}/plan", status_code=201, operation_id="people-files.plan")
async def plan_leaver_file(file_id: str, use: Use, operator: Acting) -> wl.BatchView:
    """A plan for the next five hundred good rows of a file of leavers; confirming it takes them.

    To be asked until no new or changed ones are left.
    """
    return await batch_shape(use, operator, await use.leaver_files.plan(file_id, actor(operator)))


@router.get(
    "/{file_id}/rejected",
    operation_id="people-files.rejected",
    response_class=Response,
    responses={200: {"content": {"text/csv": {}}, "description": "The rows that were not taken."}},
)
async def rejected_rows(file_id: str, use: Use, _: Acting) -> Response:
    """The faulty rows in the file's own form, each with what is wrong and what to do."""
    raw, encoding = await use.people_files.rejected(file_id)
    kind = f"text/csv; charset={'utf-8' if encoding == 'utf-8-sig' else encoding}"
    return Response(raw, media_type=kind)


@router.delete("/{file_id}", status_code=204, operation_id="people-files.drop")
async def drop_people_file(file_id: str, use: Use, operator: Acting) -> Response:
    """What was kept of a file goes; whom it made stays."""
    await use.people_files.drop(file_id, operator.login)
    return Response(status_code=204)


def _row(row: FileRow) -> wpf.FileRowView:
    view = wpf.FileRowView.model_validate(row)
    if BIRTHDAY in view.document:
        view.document[BIRTHDAY] = "kept as a digest"
    return view


def _view(line: object) -> wpf.PeopleFileView:
    return wpf.PeopleFileView.model_validate(line)
