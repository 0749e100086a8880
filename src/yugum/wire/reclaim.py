"""Seats that could come back."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from yugum.core.reclaim import ReclaimReason
from yugum.wire.common import Model, Moment, Money, Request, Seen, When, Words


class SeatToReclaim(Model):
    """A seat that could come back, why, and what it costs a month, by currency.

    ``asked_at`` is when its holder was last asked whether it is still needed.
    """

    id: str
    account_id: str
    login: str
    person_id: str | None
    person_name: str | None
    reason: Seen[ReclaimReason]
    since_at: Moment
    last_used: Moment | None
    asked_at: Moment | None
    cost: Money


class TakeSeatsBack(Request):
    """Who is not to have a seat of a pool any more, by their ids, and until when."""

    people: Annotated[list[Words], Field(min_length=1, max_length=500)]
    reason: Words
    ends: When = ""
