"""Seats set aside."""

from __future__ import annotations

from datetime import date
from typing import Annotated

from pydantic import Field

from yugum.core.reservations import ReservationState
from yugum.wire.common import Line, Model, Moment, Request, Seen, Words


class NewReservation(Request):
    """Seats to be set aside, for a ``person`` (id, login, number or name) or ``count`` for those of a filter (``who``).

    With ``holder`` the seat of that person is passed on: it is set aside once it is given back. Without
    ``ends`` it lasts 90 days. ``ahead``: also before those who wait.
    """

    reason: Words
    person: Line = ""
    who: Annotated[str, Field(max_length=4000)] = ""
    count: Annotated[int, Field(ge=1, le=100_000, strict=True)] = 1
    holder: Line = ""
    begins: date | None = None
    ends: date | None = None
    ahead: bool = False


class ReservationRow(Model):
    """Seats set aside: ``taken`` of ``count`` are used up; ``from_login`` has the one that is passed on."""

    id: str
    person_id: str | None
    person_name: str | None
    who: str
    from_account_id: str | None
    from_login: str | None
    from_name: str | None
    count: int
    taken: int
    begins: date | None
    ends: date
    reason: str
    author: str
    made_at: Moment
    state: Seen[ReservationState]
