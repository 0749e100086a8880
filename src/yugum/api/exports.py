"""Lists to take along: exactly the rows and columns that are shown, in an open format."""

from __future__ import annotations

import csv
import io
import tempfile
from collections.abc import AsyncIterator, Awaitable, Callable, Mapping, Sequence
from datetime import UTC, datetime
from functools import partial
from inspect import Parameter, Signature, signature
from typing import Annotated, Any

import orjson
import xlsxwriter
from anyio import open_file, to_thread
from fastapi import APIRouter, Query
from fastapi.responses import StreamingResponse
from pydantic import BaseModel

from yugum.api.accounts import list_accounts
from yugum.api.approvals import list_mails
from yugum.api.audit import list_events
from yugum.api.dockets import list_dockets
from yugum.api.findings import list_findings
from yugum.api.groups import list_groups
from yugum.api.handover import list_handover
from yugum.api.idempotency import IdempotentRoute
from yugum.api.operators import list_integrations, list_operators, list_tokens
from yugum.api.people import list_joiners, list_people
from yugum.api.records import last_call
from yugum.api.reports import list_leavers
from yugum.api.seat_reports import (
    list_all_reclaimable,
    list_costs,
    list_held,
    list_over,
    list_starting_rows,
)
from yugum.api.shared import list_shared
from yugum.api.views import columns_of
from yugum.core.records import csv_cell
from yugum.core.views import ExportForm, ListName, ReportName
from yugum.wire.common import Page

router = APIRouter(prefix="/exports", tags=["views"], route_class=IdempotentRoute)
PORTION = 500
MOST_IN_SHEET = 1_048_575
"""Rows of a sheet under its head (ECMA-376)."""
CHUNK = 1 << 16


Listed = ListName | ReportName
TYPES = {
    ExportForm.CSV: "text/csv; charset=utf-8",
    ExportForm.XLSX: "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    ExportForm.JSON_LINES: "application/jsonl",
}
Form = Annotated[ExportForm, Query(description="What the file is to be.")]
Columns = Annotated[
    list[str],
    Query(
        default_factory=list,
        max_length=40,
        description="The fields of a row, in this order; all if none.",
    ),
]


LISTED: Mapping[ListName, Callable[..., Awaitable[Page[Any]]]] = {
    ListName.PEOPLE: list_people,
    ListName.ACCOUNTS: list_accounts,
    ListName.DOCKETS: list_dockets,
    ListName.FINDINGS: list_findings,
    ListName.LAST_CALL: last_call,
    ListName.MAILS: list_mails,
    ListName.HANDOVER: list_handover,
    ListName.JOINERS: list_joiners,
    ListName.GROUPS: list_groups,
    ListName.OPERATORS: list_operators,
    ListName.INTEGRATIONS: list_integrations,
    ListName.TOKENS: list_tokens,
    ListName.SHARED: list_shared,
    ListName.AUDIT: list_events,
}
REPORTS: Mapping[ReportName, Callable[..., Awaitable[Page[Any]]]] = {
    ReportName.COSTS: list_costs,
    ReportName.RECLAIMABLE: list_all_reclaimable,
    ReportName.OVER: list_over,
    ReportName.HELD: list_held,
    ReportName.STARTING: list_starting_rows,
    ReportName.LEAVERS: list_leavers,
}
AT_ONCE = frozenset({ReportName.COSTS, ReportName.OVER, ReportName.STARTING})
"""Computed as a whole for each page: taken as one."""
MOST_AT_ONCE = 1_000_000
PAGING = ("cursor", "limit")


def _offer(name: Listed, listed: Callable[..., Awaitable[Page[Any]]]) -> None:
    """A list as a file: asked with what the list is asked with but for its pages."""

    async def export(column: list[str], format: ExportForm, **said: Any) -> StreamingResponse:  # noqa: ANN401 - of as many types as there are parameters
        portion = MOST_AT_ONCE if name in AT_ONCE else PORTION
        return await _file(partial(listed, **said, limit=portion), name, format, column)

    own = signature(_taken).parameters.values()
    asked = [
        p for p in signature(listed, eval_str=True).parameters.values() if p.name not in PAGING
    ]
    every = [p.replace(kind=Parameter.KEYWORD_ONLY) for p in (*asked, *own)]
    export.__signature__ = Signature(every)  # type: ignore[attr-defined]
    router.get(
        f"/{name}",
        response_class=StreamingResponse,
        operation_id=f"exports.{name}",
        description="Every row the list has, as a file.",
    )(export)


def _taken(column: Columns, format: Form = ExportForm.CSV) -> None:
    """What is to be in the file, and what the file is to be."""


for _name, _listed in LISTED.items():
    _offer(_name, _listed)
for _report, _listed in REPORTS.items():
    _offer(_report, _listed)


async def _file(
    pages: Callable[..., Awaitable[Page[Any]]],
    name: Listed,
    form: ExportForm,
    columns: Sequence[str],
) -> StreamingResponse:
    """What is wrong with the question is said before the file begins."""
    chosen = columns_of(name, columns)
    first = await pages(cursor=None)
    rows = _rows(first, pages)
    body: AsyncIterator[Any]
    match form:
        case ExportForm.CSV:
            body = _csv(rows, chosen)
        case ExportForm.JSON_LINES:
            body = _json_lines(rows, chosen)
        case ExportForm.XLSX:
            body = _sheet(rows, chosen, name)
    saved = f'attachment; filename="{name}-{datetime.now(UTC):%Y-%m-%d}.{form}"'
    return StreamingResponse(body, media_type=TYPES[form], headers={"Content-Disposition": saved})


async def _rows(
    page: Page[Any], pages: Callable[..., Awaitable[Page[Any]]]
) -> AsyncIterator[list[BaseModel]]:
    yield page.items
    while page.next:
        page = await pages(cursor=page.next)
        yield page.items


async def _csv(rows: AsyncIterator[list[BaseModel]], columns: Sequence[str]) -> AsyncIterator[str]:
    yield "\ufeff" + _lines([columns])  # what spreadsheets take as UTF-8
    async for some in rows:
        yield _lines([[csv_cell(_text(getattr(r, c))) for c in columns] for r in some])


def _lines(cells: Sequence[Sequence[str]]) -> str:
    buffer = io.StringIO()
    csv.writer(buffer).writerows(cells)
    return buffer.getvalue()


async def _json_lines(
    rows: AsyncIterator[list[BaseModel]], columns: Sequence[str]
) -> AsyncIterator[bytes]:
    async for some in rows:
        documents = (r.model_dump(mode="json", include=set(columns)) for r in some)
        yield b"".join(orjson.dumps({c: d[c] for c in columns}) + b"\n" for d in documents)


async def _sheet(
    rows: AsyncIterator[list[BaseModel]], columns: Sequence[str], name: str
) -> AsyncIterator[bytes]:
    """A workbook is finished before any of it can be sent; rows wait on disk, not in memory.

    What is more than a sheet takes goes on in another.
    """
    with tempfile.TemporaryDirectory(prefix="yugum-export-") as folder:
        book = _Book(folder, columns, name)
        async for some in rows:
            await to_thread.run_sync(book.write, some)
        await to_thread.run_sync(book.close)
        async with await open_file(book.path, "rb") as file:
            while portion := await file.read(CHUNK):
                yield portion


class _Book:
    """A workbook as it is written, with as many sheets as its rows need."""

    def __init__(self, folder: str, columns: Sequence[str], name: str) -> None:
        self.path = f"{folder}/list.xlsx"
        self._columns, self._name, self._sheets = columns, name, 0
        settings = {
            "constant_memory": True,
            "tmpdir": folder,
            "strings_to_formulas": False,
            "strings_to_urls": False,
            "remove_timezone": True,
        }
        self._book = xlsxwriter.Workbook(self.path, settings)
        self._bold = self._book.add_format({"bold": True})
        self._dated = self._book.add_format({"num_format": "yyyy-mm-dd hh:mm"})
        self._begin()

    def _begin(self) -> None:
        self._sheets += 1
        self._row = 0
        self._sheet = self._book.add_worksheet(f"{self._name} {self._sheets}")
        self._sheet.freeze_panes(1, 0)
        self._sheet.write_row(0, 0, self._columns, self._bold)

    def write(self, rows: Sequence[BaseModel]) -> None:
        for row in rows:
            if self._row == MOST_IN_SHEET:
                self._begin()
            self._row += 1
            for n, column in enumerate(self._columns):
                self._cell(n, getattr(row, column))

    def _cell(self, column: int, value: object) -> None:
        if isinstance(value, bool) or not isinstance(value, (int, float, datetime)):
            self._sheet.write_string(self._row, column, _text(value))
        elif isinstance(value, datetime):
            self._sheet.write_datetime(self._row, column, value.astimezone(UTC), self._dated)
        else:
            self._sheet.write_number(self._row, column, value)

    def close(self) -> None:
        self._book.close()


def _text(value: object) -> str:
    """One cell: a moment in UTC (RFC 3339), several values with commas, what has parts as JSON."""
    if value is None:
        return ""
    if isinstance(value, datetime):
        return value.astimezone(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
    if isinstance(value, BaseModel):
        return value.model_dump_json()
    if isinstance(value, (list, tuple)):
        return ", ".join(_text(v) for v in value)
    return "yes" if value is True else "no" if value is False else str(value)
