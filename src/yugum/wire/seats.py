"""Seats: pools, who holds one, who waits."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from yugum.core.accounts import AccountState
from yugum.core.seats import SeatState
from yugum.wire.common import Model, Moment, Request, Seen, Slug, Words


class PoolRow(Model):
    """A license's seats; ``price_cents`` is per seat and month."""

    id: str
    application_id: str
    application_name: str
    license: str
    bought: int
    held: int
    waiting: int
    free: int
    price_cents: int
    currency: str


class PutPool(Request):
    application_id: Slug
    license: Words
    bought: Annotated[int, Field(ge=0, le=10_000_000, strict=True)]
    price_cents: Annotated[int, Field(ge=0, le=100_000_000, strict=True)] = 0


class SeatHolder(Model):
    id: str
    account_id: str
    login: str | None
    person_id: str | None
    person_name: str | None
    account_state: Seen[AccountState] | None
    state: Seen[SeatState]
    place: int | None
    since_at: Moment
