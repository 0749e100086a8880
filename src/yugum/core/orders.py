"""Orders of more seats: from being asked for to having arrived."""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import date, datetime
from enum import StrEnum

from yugum.core.records import csv_cell
from yugum.core.seats import PricePeriod
from yugum.errors import Conflict, InvalidInput


class OrderState(StrEnum):
    """How far an order is. One that is expected has been promised for a day."""

    ASKED = "asked"
    AGREED = "agreed"
    EXPECTED = "expected"
    ARRIVED = "arrived"
    REFUSED = "refused"
    WITHDRAWN = "withdrawn"


OPEN = frozenset({OrderState.ASKED, OrderState.AGREED, OrderState.EXPECTED})
COMING = frozenset({OrderState.AGREED, OrderState.EXPECTED})


@dataclass(frozen=True, slots=True, kw_only=True)
class Order:
    """``count`` seats of a pool, of which so many have ``arrived``; ``begins`` and ``ends`` are the term wanted.

    ``expected`` is the day on which they are promised, ``reference`` the supplier's or purchasing's.
    """

    id: str
    pool_id: str
    count: int
    reason: str
    author: str
    made_at: datetime
    number: int = 0
    arrived: int = 0
    needed_by: date | None = None
    begins: date | None = None
    ends: date | None = None
    state: OrderState = OrderState.ASKED
    decided_by: str = ""
    decided_at: datetime | None = None
    answer: str = ""
    expected: date | None = None
    reference: str = ""
    ended_at: datetime | None = None

    @property
    def name(self) -> str:
        return f"SO-{self.number:04}"

    @property
    def left(self) -> int:
        """How many are still to come."""
        return self.count - self.arrived if self.state in OPEN else 0

    def overdue(self, today: date) -> bool:
        """Whether it was promised for a day that is over."""
        return (
            self.state is OrderState.EXPECTED
            and self.expected is not None
            and (self.expected < today)
        )

    def _must_be(self, states: frozenset[OrderState], what: str) -> None:
        if self.state not in states:
            raise Conflict(
                f"{self.name} is {self.state.value}; it cannot be {what}.",
                remedy="See: yugum orders list.",
            )

    def decided(self, by: str, at: datetime, answer: str, *, agreed: bool) -> Order:
        """Somebody agrees to it, or refuses it.

        Raises:
            Conflict: that is over.
            InvalidInput: it is refused without a reason.
        """
        self._must_be(frozenset({OrderState.ASKED}), "decided about")
        if not agreed and not answer.strip():
            raise InvalidInput("An order is refused for a reason.", place="answer")
        return replace(
            self,
            state=OrderState.AGREED if agreed else OrderState.REFUSED,
            decided_by=by,
            decided_at=at,
            answer=answer,
            ended_at=None if agreed else at,
        )

    def promised(self, on: date, reference: str, today: date) -> Order:
        """It is expected on a day, or on another than before.

        Raises:
            Conflict: nobody has agreed to it, or it is over.
            InvalidInput: the day is past.
        """
        self._must_be(COMING, "expected")
        if on < today:
            raise InvalidInput(f"{on} is past.", place="on", remedy="Name today or a later day.")
        return replace(
            self,
            state=OrderState.EXPECTED,
            expected=on,
            reference=reference or self.reference,
        )

    def received(self, count: int | None, reference: str, at: datetime) -> tuple[Order, int]:
        """Some or all of it have arrived; how many.

        Raises:
            Conflict: nobody has agreed to it, or it is over.
            InvalidInput: more than are to come.
        """
        self._must_be(COMING, "received")
        came = self.left if count is None else count
        if not 0 < came <= self.left:
            raise InvalidInput(
                f"{self.left} of {self.name} are still to come.",
                place="count",
                remedy="Seats beyond it are bought: yugum seats buy.",
            )
        whole = came == self.left
        after = replace(
            self,
            arrived=self.arrived + came,
            reference=reference or self.reference,
            state=OrderState.ARRIVED if whole else self.state,
            ended_at=at if whole else None,
        )
        return after, came

    def withdrawn(self, answer: str, at: datetime) -> Order:
        """What has not arrived will not.

        Raises:
            Conflict: it is over.
            InvalidInput: it is withdrawn without a reason.
        """
        self._must_be(OPEN, "withdrawn")
        if not answer.strip():
            raise InvalidInput("An order is withdrawn for a reason.", place="answer")
        return replace(self, state=OrderState.WITHDRAWN, answer=answer, ended_at=at)


@dataclass(frozen=True, slots=True, kw_only=True)
class Ordered:
    """What an order is of; the price of a seat as it is written, "" where nobody has said it."""

    application: str
    license: str
    price: str
    currency: str
    period: PricePeriod


def request_row(order: Order, of: Ordered) -> Mapping[str, str]:
    """An order as whoever buys reads it."""
    return {
        "order": order.name,
        "application": of.application,
        "license": of.license,
        "seats": str(order.left or order.count),
        "needed by": str(order.needed_by or ""),
        "term begins": str(order.begins or ""),
        "term ends": str(order.ends or ""),
        "price of a seat": of.price,
        "currency": of.currency if of.price else "",
        "for a": of.period.value if of.price else "",
        "reason": order.reason,
        "asked by": order.author,
        "agreed by": order.decided_by,
    }


def request_csv(order: Order, of: Ordered) -> str:
    """The request as CSV (RFC 4180); a cell that a spreadsheet would run as a formula is led by an apostrophe."""
    row = request_row(order, of)
    buffer = io.StringIO()
    writer = csv.writer(buffer, lineterminator="\r\n")
    writer.writerow(row)
    writer.writerow([csv_cell(v) for v in row.values()])
    return buffer.getvalue()
