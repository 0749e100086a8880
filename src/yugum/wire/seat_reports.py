"""Reports about seats."""

from __future__ import annotations

from datetime import date

from yugum.core.reclaim import ReclaimReason
from yugum.core.starting import Readiness
from yugum.wire.common import Model, Moment, Price, Seen


class SeatHeldRow(Model):
    """A seat somebody held, from when until when; null while they have it."""

    id: str
    person_id: str | None
    person_name: str | None
    login: str | None
    application_name: str
    license: str
    since_at: Moment
    until_at: Moment | None


class SeatCostRow(Model):
    """Seats held at a month's end and what they cost that month at the price of today; null where there is none."""

    month: date
    department: str
    application_name: str
    license: str
    seats: int
    amount: Price | None
    currency: str


class ReclaimableRow(Model):
    """A seat that could come back, why, and what it costs a month; null where nobody has said a price."""

    id: str
    application_name: str
    license: str
    login: str
    person_id: str | None
    person_name: str | None
    department: str
    reason: Seen[ReclaimReason]
    since_at: Moment
    last_used: Moment | None
    asked_at: Moment | None
    amount: Price | None
    currency: str


class OverRow(Model):
    """A pool of which more seats are held than were bought: ``over`` of them."""

    id: str
    application_name: str
    license: str
    bought: int
    held: int
    over: int
    waiting: int
    reported: int | None


class StartingRow(Model):
    """Somebody who begins, a seat that is theirs by the rules, whether it is there, or the order that brings it."""

    person_id: str
    person_name: str
    department: str
    starts: date
    application_name: str
    license: str
    readiness: Seen[Readiness]
    order: str


class StartingView(Model):
    """Everybody who begins until a day, with their seats."""

    until: date
    rows: list[StartingRow]
