"""Plans: what a verb would do, and its confirmation."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from yugum.core.dockets import Verb
from yugum.wire.common import Line, Model, Moment, Request


class NewPlan(Request):
    """A verb for some people.

    ``at`` is a moment as typed (``Fri 17:00``, ``2031-03-07``, ``now``) in each person's zone.
    ``changes`` are fields of a mover; ``docket`` is what an undo takes back; ``account`` is what a
    restore brings back.
    """

    verb: Verb
    who: Annotated[list[Line], Field(max_length=500)] = []
    at: Line = ""
    until: Line = ""
    changes: dict[str, str | None] = {}
    successor: Line = ""
    docket: Line = ""
    account: Line = ""
    urgent: bool = False


class PlanStep(Model):
    application_id: str
    account_id: str
    phase: str
    action: str
    item: str
    before: str
    after: str
    reason: str
    irreversible: bool


class Caution(Model):
    code: str
    text: str
    blocks: str


class Stays(Model):
    application: str
    item: str
    reason: str


class Fidelity(Model):
    what: str
    comes_back: bool
    why: str


class PlanView(Model):
    """The exact steps for one person, each with its reason."""

    id: str
    person_id: str
    person_name: str
    user_name: str
    employee_number: str
    verb: str
    due_at: Moment
    digest: str
    stale: bool
    changes: dict[str, str | None]
    summary: list[str]
    cautions: list[Caution]
    steps: list[PlanStep]
    stays: list[Stays]
    fidelity: list[Fidelity]


class BatchView(Model):
    """Plans made together; a confirmation binds to ``digest``."""

    id: str
    digest: str
    verb: str
    confirmed: bool
    applications: dict[str, str]
    plans: list[PlanView]


class Confirm(Request):
    digest: Annotated[str, Field(min_length=64, max_length=64)]
    reference: Line = ""
    reason: Line = ""


class ConfirmedDocket(Model):
    id: str
    number: str
    subject_id: str
    verb: str
    state: str
    due_at: Moment


class Confirmed(Model):
    dockets: list[ConfirmedDocket]
