"""Reports about leavers."""

from __future__ import annotations

from datetime import date

from pydantic import Field

from yugum.core.cut_offs import Lateness
from yugum.wire.common import Model, Moment, Seen


class CutOffRow(Model):
    """One account of somebody who left: when access was to end, when that was known, when it was shut."""

    id: str
    person_id: str
    display_name: str
    user_name: str
    department: str
    application_name: str
    login: str
    number: str
    ended_at: Moment
    known_at: Moment
    cut_at: Moment | None = Field(description="Null while it is open or was left out.")
    seconds: float | None = Field(
        description="From when it was to end, or was known where that was later, until it was shut."
    )
    lateness: Seen[Lateness]
    problem: str


class LatenessCount(Model):
    lateness: Seen[Lateness]
    count: int


class CutOffTimes(Model):
    """How long cut-offs took, from the quickest to those still open; both days inside."""

    begin: date
    end: date
    counts: list[LatenessCount]
