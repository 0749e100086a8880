"""The day sheet, the calendar, windows and handovers."""

from __future__ import annotations

from yugum.core.actions import Action
from yugum.core.dockets import DocketState, StepState
from yugum.core.obligations import ObligationKind
from yugum.core.verbs import Verb
from yugum.wire.common import AssetKind, Model, Moment, Seen
from yugum.wire.decisions import PrecautionRow
from yugum.wire.standing import StandingRow


class DayDocket(Model):
    id: str
    number: str
    verb: Seen[Verb]
    state: Seen[DocketState]
    due_at: Moment
    person_id: str
    display_name: str
    title: str
    department: str
    site: str
    note: str
    change: str
    steps_total: int
    steps_done: int


class OpenLate(Model):
    person_id: str
    display_name: str
    application_name: str
    contact: str
    access_ends: Moment
    problem: str


class Stuck(Model):
    step_id: str
    docket_id: str
    number: str
    person_id: str
    display_name: str
    application_name: str
    contact: str
    action: Seen[Action]
    item: str
    state: Seen[StepState]
    problem: str


class LastCall(Model):
    account_id: str
    person_id: str | None
    display_name: str | None
    application_name: str
    login: str
    recoverable_until: Moment
    held: bool = False


class HandoverRow(Model):
    """A thing and its new home, or a copy of it; ``from_name`` is None where it came back from a successor."""

    kind: AssetKind
    name: str
    copied: bool
    application_name: str
    number: str
    at: Moment
    from_name: str | None
    from_login: str | None
    to_person_id: str | None
    to_name: str | None
    to_login: str | None


class CalendarEntry(Model):
    """Something that has a date: a docket (then with its number) or a dated obligation.

    ``kind`` is the docket's verb, or close, purge, recheck, remind.
    """

    id: str
    at: Moment
    kind: Seen[Verb] | Seen[ObligationKind]
    number: str | None
    person_id: str
    display_name: str
    application_name: str | None
    text: str


class DaySheet(Model):
    """What is due and when, who is past their time, what is stuck, what is about to be lost."""

    now: Moment
    zone: str
    dockets: list[DayDocket]
    later: list[DayDocket]
    open_late: list[OpenLate]
    stuck: list[Stuck]
    last_call: list[LastCall]
    standing: list[StandingRow]
    reviews: list[PrecautionRow]
