"""Dockets with their steps and receipts."""

from __future__ import annotations

from pydantic import ConfigDict, Field

from yugum.core.actions import Action, Phase
from yugum.core.dockets import DocketOutcome, DocketState, Outcome, Settlement, StepState
from yugum.core.verbs import Verb
from yugum.wire.common import AssetKind, Filled, Line, Model, Moment, Request, Said, Seen, Words
from yugum.wire.plans import Caution, Fidelity, Stays
from yugum.wire.texts import asks


class DocketRow(Model):
    id: str
    number: str
    subject_id: str
    subject_name: str
    subject_login: str
    verb: Seen[Verb]
    title: str
    state: Seen[DocketState]
    outcome: Seen[DocketOutcome]
    reference: str
    reason: str
    author: str
    due_at: Moment
    made_at: Moment
    started_at: Moment | None
    ended_at: Moment | None
    steps_total: int
    steps_done: int
    steps_stuck: int


class BatchTimes(Model):
    """Dockets confirmed together: how they stand, and how long cutting off took (machine time, milliseconds).

    ``cut_offs`` are those of which every account that was to be shut is; ``half_ms`` is what half of them
    took at most. ``otherwise`` were cancelled or taken over.
    """

    id: str
    dockets: int
    scheduled: int
    running: int
    done: int
    otherwise: int
    stuck: int
    cut_offs: int
    half_ms: float | None
    longest_ms: float | None


class StepProblem(Model):
    code: str
    text: str
    remedy: str = ""


class Facet(Model):
    """The part of an observation that a step is about; what is not part of it is left out.

    ``account`` is a state, or ``none``.
    """

    account: Said[str] = None
    sessions: Said[int] = None
    keys: Said[int] = None
    devices: Said[int] = None
    back_until: Said[Moment] = None
    entitlement: Said[str] = None
    seat: Said[str] = None
    held: Said[bool] = None
    setting: Said[str] = None
    value: Said[str] = None
    login: Said[str] = None
    step: Said[str] = None
    run: Said[str] = None
    kind: Said[AssetKind] = None
    owned: Said[int] = None


class Asset(Model):
    kind: AssetKind
    external_id: str
    name: str
    container: str = ""


class Done(Model):
    """What an application was made to do; what does not apply is left out. Never a secret.

    Of many ``assets`` the first twenty: the step has how many, the list of handovers every one.
    """

    external_id: Filled[str] = ""
    login: Filled[str] = ""
    task: Filled[str] = ""
    until: Filled[str] = ""
    note: Filled[str] = ""
    to: Filled[str] = ""
    kept_by: Filled[str] = ""
    license: Filled[str] = ""
    assets: Filled[list[Asset]] = []
    suspended: Filled[bool] = False
    password_replaced: Filled[bool] = False
    ended: Filled[dict[str, int]] = {}
    values: Filled[dict[str, str]] = {}


class Receipt(Model):
    """What a step found, did and saw afterwards. ``took_ms`` is machine time."""

    outcome: Seen[Outcome]
    found: Facet
    did: Done
    seen: Facet
    at: Moment
    took_ms: float


class StepView(Model):
    """A step; one that moves things has ``moved`` so many ``of`` them, of many written down every other second."""

    id: str
    position: int
    application_id: str
    application_name: str
    contact: str
    account_id: str
    phase: Seen[Phase]
    action: Seen[Action]
    item: str
    before: str
    after: str
    reason: str
    state: Seen[StepState]
    attempts: int
    retry_at: Moment | None
    problem: StepProblem | None
    stuck: bool
    moved: int
    of: int
    receipt: Receipt | None


class NextIrreversible(Model):
    """The first moment after which something of this cannot come back."""

    at: Moment
    text: str


class DocketView(DocketRow):
    """``begins_now``: it is due and a worker is about to take it up."""

    begins_now: bool = False
    summary: list[str]
    cautions: list[Caution]
    stays: list[Stays]
    fidelity: list[Fidelity]
    undoes: str | None
    batch_id: str | None
    cut_off_ms: float | None
    irreversible: NextIrreversible | None
    withheld: bool = Field(
        False,
        description="It was prepared in confidence: its notices are not sent until it is told.",
    )
    steps: list[StepView]


class SettleStep(Request):
    """What is done about a step; all but a retry says why in ``note``."""

    model_config = ConfigDict(
        json_schema_extra={
            "allOf": [
                asks("how", how.value, "note") for how in Settlement if how is not Settlement.RETRY
            ]
        }
    )

    how: Settlement
    note: Line = ""


class EndDocket(Request):
    reason: Words


class Cancel(Request):
    reason: Line = ""
