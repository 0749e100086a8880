"""Orders of more seats."""

from __future__ import annotations

from datetime import date
from typing import Annotated

from pydantic import Field

from yugum.core.orders import OrderState
from yugum.wire.common import Line, Model, Moment, Request, Seen, Words

Count = Annotated[int, Field(ge=1, le=10_000_000, strict=True)]


class NewOrder(Request):
    """Seats asked for: so many of a pool, by when they are needed, for which term if it ends, and why."""

    pool_id: Line
    count: Count
    reason: Words
    needed_by: date | None = None
    begins: date | None = None
    ends: date | None = None


class OrderDecision(Request):
    """Whether an order is agreed to; refused, with a reason."""

    agreed: bool
    answer: Line = ""


class OrderPromise(Request):
    """The day on which an order is expected, and the supplier's or purchasing's reference."""

    on: date
    reference: Line = ""


class OrderArrival(Request):
    """So many have arrived; all that are to come where no ``count`` is said."""

    count: Count | None = None
    reference: Line = ""


class OrderWithdrawal(Request):
    """Why what has not arrived will not."""

    answer: Words


class OrderRow(Model):
    """An order: ``arrived`` of ``count`` seats; ``overdue`` where the day it was expected on is past."""

    id: str
    name: str
    pool_id: str
    application_id: str
    application_name: str
    license: str
    count: int
    arrived: int
    needed_by: date | None
    begins: date | None
    ends: date | None
    reason: str
    state: Seen[OrderState]
    author: str
    made_at: Moment
    decided_by: str
    decided_at: Moment | None
    answer: str
    expected: date | None
    reference: str
    ended_at: Moment | None
    overdue: bool


class ServedRow(Model):
    """Somebody of the line whom an order would serve."""

    person_id: str | None
    person_name: str | None
    login: str | None


class OrderView(OrderRow):
    """An order, and whom of the line it serves. ``counted``: the application says so many as were bought; null where
    it does not tell, or nothing has arrived."""

    counted: bool | None
    serves: list[ServedRow]
