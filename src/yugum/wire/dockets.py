"""Dockets with their steps and receipts."""

from __future__ import annotations

from typing import Literal

from yugum.wire.common import Document, Line, Model, Moment, Request
from yugum.wire.plans import Caution, Fidelity, Stays


class DocketRow(Model):
    id: str
    number: str
    subject_id: str
    subject_name: str
    subject_login: str
    verb: str
    state: str
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


class StepProblem(Model):
    code: str
    text: str
    remedy: str = ""


class Receipt(Model):
    """What a step found, did and saw afterwards. ``took_ms`` is machine time."""

    outcome: str
    found: Document
    did: Document
    seen: Document
    at: Moment
    took_ms: float


class StepView(Model):
    id: str
    position: int
    application_id: str
    application_name: str
    contact: str
    account_id: str
    phase: str
    action: str
    item: str
    before: str
    after: str
    reason: str
    state: str
    attempts: int
    retry_at: Moment | None
    problem: StepProblem | None
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
    steps: list[StepView]


class SettleStep(Request):
    how: Literal["retry", "left_out", "by_hand"]
    note: Line = ""


class Cancel(Request):
    reason: Line = ""
