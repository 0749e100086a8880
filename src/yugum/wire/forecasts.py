"""The forecast of a pool."""

from __future__ import annotations

from datetime import date
from typing import Annotated

from pydantic import ConfigDict, Field

from yugum.core.orders import OrderState
from yugum.wire.common import Line, Model, Request, Seen
from yugum.wire.seats import PoolRow, PurchaseRow
from yugum.wire.texts import written


class WhatIf(Request):
    """``bought``: 5@2031-04-01, so many more from a day on; ``joining``: so many begin on a day and take one.

    ``joiners`` is a CSV file of people as the service takes them in, each with a first day; they get what the
    rules give. ``rules`` is the text of rules that would be in force from tomorrow.
    """

    model_config = ConfigDict(extra="forbid", str_strip_whitespace=False)

    bought: Annotated[list[Line], Field(max_length=20)] = []
    joining: Annotated[list[Line], Field(max_length=20)] = []
    joiners: Annotated[str, Field(max_length=2_000_000)] = ""
    rules: Annotated[str, Field(max_length=1_000_000), written("rules-file")] = ""


class PeriodRow(Model):
    """A week or a month, both days inside: the fewest seats bought, the most taken.

    ``moving``: by how many moves, absences and changed rules raise what is taken, less than 0 if they lower it.
    """

    begins: date
    ends: date
    bought: int
    taken: int
    lacking: int
    joining: int
    leaving: int
    moving: int


class RenewalRow(Model):
    """A term that ends, until when it can be decided about, and how many seats are lacking after it."""

    purchase: PurchaseRow
    ends: date
    decide_by: date
    lacking: int


class PastRow(Model):
    """A day that is over, by the terms that are entered."""

    day: date
    bought: int
    taken: int


class ComingRow(Model):
    """An order that is on its way: so many are still to come, on a day if it is expected."""

    name: str
    left: int
    state: Seen[OrderState]
    expected: date | None
    overdue: bool


class KeptRow(Model):
    """What was forecast on a day before."""

    made_on: date
    short_on: date | None
    lacking: int


class ForecastView(Model):
    """``short_on`` is the first day with more seats taken than bought, ``lacking`` the most that are."""

    pool: PoolRow
    today: date
    short_on: date | None
    lacking: int
    periods: list[PeriodRow]
    renewals: list[RenewalRow]
    past: list[PastRow]
    orders: list[ComingRow]
    before: KeptRow | None
    assumes: list[str]
