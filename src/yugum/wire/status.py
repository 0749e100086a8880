"""Health, the stop, and business time."""

from __future__ import annotations

from typing import Annotated

from yugum.core.people import PersonState
from yugum.wire.applications import ApplicationRow
from yugum.wire.common import Model, Moment, Request, Seen, Words
from yugum.wire.texts import written


class _Counted(Model):
    """Counted to 10,000: of those in ``over`` there are more. ``dockets`` have not ended; ``findings`` are
    what the list of findings has; ``failed_mails`` were tried in vain; who is ``asked`` whether they take
    something over has not answered; ``rules`` is the version in force."""

    dockets: int
    waiting_seats: int
    tasks: int
    late_tasks: int
    approvals: int
    failed_mails: int
    asked: int
    findings: int
    applications: int
    rules: int
    over: list[str] = []


class Figures(_Counted):
    """Numbers for navigation."""

    people: int


class Counts(_Counted):
    """Numbers for health: people by state, and every account."""

    people: dict[Seen[PersonState], int]
    accounts: int


class Status(Model):
    version: str
    organisation: str
    demo: bool
    database_ms: float
    counts: Counts
    applications: list[ApplicationRow]


class StopView(Model):
    """Whether everything but cut-offs is stopped."""

    stopped: bool
    author: str = ""
    reason: str = ""
    since_at: Moment | None = None


class StopRequest(Request):
    reason: Words


class ClockView(Model):
    now: Moment
    simulated: bool
    zone: str


class MomentView(Model):
    """A moment as it was understood, in the zone it was said for."""

    at: Moment
    zone: str


class Advance(Request):
    to: Annotated[Words, written("moment")]


class Advanced(Model):
    """``reached`` False: stopped at a due moment on the way; call again to go on."""

    now: Moment
    target: Moment
    reached: bool
    drained: bool
    due: int
