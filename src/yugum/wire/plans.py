"""Plans: what a verb would do, and its confirmation."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from yugum.core.actions import Action, Phase
from yugum.core.applications import Duty
from yugum.core.dockets import DocketState
from yugum.core.requests import MOST_AT_ONCE
from yugum.core.verbs import Measure, Quick, Verb
from yugum.wire.common import BlankIsNone, Changes, Digest, Line, Model, Moment, Request, Seen, When
from yugum.wire.people import Right

TYPED = "For what cannot be put back: the login, or 'purge N' for N accounts."
OVERRIDE = "Why a guard is overridden, where the rules allow it."


class NewPlan(Request):
    """A verb for some people.

    ``at`` is a moment as typed (``Fri 17:00``, ``2031-03-07``, ``now``) in each person's zone.
    ``matching`` instead of ``who`` are filters of the list of people: whoever fits them now, at most 500;
    none of them is everybody.
    Whoever fits later is not among them: the plan's digest is of these.
    ``since`` is when a change known late came true; ``overlap_days`` how long a mover keeps the roles
    that no longer apply. ``changes`` are fields of a mover or a rename; ``docket`` is what an undo
    takes back; ``accounts`` with an ``action`` are for verb ``account`` (``require`` with ``duties`` of the next sign-in), or people with a
    ``measure``, its ``ground`` and the day of ``review``: a precaution. ``left_out`` maps steps
    (``application/action/item``) to why they are not to be done. ``confidential`` shows the plan to its author only until it is
    confirmed. A ``sensitive`` rename hides the former names from everybody but administrators;
    mail to the old address arrives unseen ``until`` then, or bounces. ``last_day`` and ``contract_ends`` are a leaver's other two dates.
    A ``group`` of an ``application``, by name, is made (``new``) or changed with verb ``group`` as ``values`` say: owner, address,
    outside_senders, description, name.
    ``reference``, ``reason`` and ``override`` are for what is confidential, which keeps them until it
    is fired; of other plans they are given when these are confirmed.
    """

    verb: Verb
    who: Annotated[list[Line], Field(max_length=MOST_AT_ONCE)] = []
    matching: Annotated[dict[Line, Line], Field(max_length=20)] | None = None
    at: When = ""
    until: When = ""
    since: When = ""
    overlap_days: Annotated[int, Field(ge=0, le=365, strict=True)] | None = None
    changes: Changes = {}
    right: Right = []
    successor: Line = ""
    docket: Line = ""
    accounts: Annotated[list[Line], Field(max_length=MOST_AT_ONCE)] = []
    action: Annotated[Quick | None, BlankIsNone] = None
    duties: list[Duty] = []
    measure: Annotated[Measure | None, BlankIsNone] = None
    ground: Line = ""
    review: When = ""
    urgent: bool = False
    confidential: bool = False
    sensitive: bool = False
    left_out: dict[Line, Line] = {}
    last_day: When = ""
    contract_ends: When = ""
    reference: Line = ""
    reason: Line = ""
    override: Line = ""
    application: Line = ""
    group: Line = ""
    values: dict[Line, Line] = {}
    new: bool = False


class PlanStep(Model):
    application_id: str
    account_id: str
    phase: Seen[Phase]
    action: Seen[Action]
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


class FieldChange(Model):
    """A field of the person that changes with the plan; a manager by name."""

    field: str
    before: str
    after: str


class PlanView(Model):
    """The exact steps for one person, each with its reason."""

    id: str
    person_id: str
    person_name: str
    user_name: str
    employee_number: str
    verb: Seen[Verb]
    title: str
    due_at: Moment
    digest: str
    stale: bool
    changes: dict[str, str | None]
    changed: list[FieldChange]
    summary: list[str]
    cautions: list[Caution]
    steps: list[PlanStep]
    stays: list[Stays]
    fidelity: list[Fidelity]


class BatchView(Model):
    """Plans made together; a confirmation binds to ``digest``."""

    id: str
    digest: str
    verb: Seen[Verb]
    confirmed: bool
    applications: dict[str, str]
    plans: list[PlanView]


class Confirm(Request):
    digest: Digest
    reference: Line = ""
    reason: Line = ""
    typed: Line = Field("", description=TYPED)
    override: Line = Field("", description=OVERRIDE)


class Fire(Request):
    """What is left out is as it was when the plan was prepared."""

    reference: Line = ""
    reason: Line = ""
    typed: Line = Field("", description=TYPED)
    override: Line = Field("", description=OVERRIDE)


class Prepared(Model):
    """A plan its author keeps in confidence."""

    batch_id: str
    verb: Seen[Verb]
    made_at: Moment
    due_at: Moment
    names: list[str]


class ConfirmedDocket(Model):
    id: str
    number: str
    subject_id: str
    verb: Seen[Verb]
    state: Seen[DocketState]
    due_at: Moment


class Confirmed(Model):
    dockets: list[ConfirmedDocket]
