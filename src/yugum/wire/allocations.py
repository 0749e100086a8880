"""Seats given and taken by hand, or as a file says; and who has what, side by side."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from yugum.core.decisions import OriginKind
from yugum.core.seats import SeatState
from yugum.wire.common import Line, Model, Moment, Request, Seen, When, Words
from yugum.wire.seats import PoolRow


class SeatTurn(Request):
    """Somebody (id, login, number or name) is to have a seat of a pool (``give``), or none."""

    person: Words
    pool_id: Line
    give: bool


class SeatTurns(Request):
    """Who is to have which seats, and who none, for a reason, and until when."""

    turns: Annotated[list[SeatTurn], Field(min_length=1, max_length=5000)]
    reason: Words
    ends: When = ""


class SeatCell(Model):
    """A seat that is held or waited for, and why: the role's name, or the reason of the exception."""

    pool_id: str
    state: Seen[SeatState]
    place: int | None
    since_at: Moment
    origin: Seen[OriginKind]
    because: str


class MatrixRow(Model):
    """Somebody with their seats."""

    person_id: str
    person_name: str
    login: str
    department: str
    title: str
    cells: list[SeatCell]


class MatrixColumn(Model):
    """A license; how many seats are free is told where pools are listed."""

    id: str
    application_id: str
    application_name: str
    license: str


class MatrixView(Model):
    """People by licenses: the columns, a page of rows, and how many there are."""

    pools: list[MatrixColumn]
    items: list[MatrixRow]
    next: str | None
    total: int | None
    over: bool


class CheckedRow(Model):
    """A row of a file: whom and which pool it means, or what is wrong with it."""

    line: int
    person: str
    application: str
    license: str
    give: bool | None
    person_id: str
    pool_id: str
    place: str
    problem: str
    remedy: str


class DemandRow(Model):
    """What a file asks of a pool; ``short`` are more than come back and are free."""

    pool: PoolRow
    asked: int
    returned: int
    short: int


class CheckedSeats(Model):
    """A file looked at, row by row, and what its good rows ask of pools."""

    rows: list[CheckedRow]
    demand: list[DemandRow]
