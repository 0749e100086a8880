"""Dockets: plans being carried out, and the states their steps go through."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import datetime
from enum import StrEnum

from yugum.core.accounts import Asset
from yugum.core.actions import (
    NO_ARGUMENTS,
    NOT_SHOWN,
    NOTHING_DONE,
    Action,
    Arguments,
    Done,
    Facet,
    Phase,
)
from yugum.core.causes import Cause
from yugum.core.decisions import Origin
from yugum.core.plans import PlannedStep, PlanNotes
from yugum.core.references import is_as
from yugum.core.verbs import Verb as Verb
from yugum.core.verbs import title_of


class DocketState(StrEnum):
    AWAITING = "awaiting"
    SCHEDULED = "scheduled"
    RUNNING = "running"
    DONE = "done"
    CANCELLED = "cancelled"
    SUPERSEDED = "superseded"


class DocketOutcome(StrEnum):
    """How a docket stands, in words: what has ended is called done only if it did something."""

    AWAITING = "awaiting"
    SCHEDULED = "scheduled"
    RUNNING = "running"
    DONE = "done"
    IN_PART = "done in part"
    LEFT_OUT = "left out"
    NOTHING = "nothing to do"
    BROUGHT_BACK = "brought back"
    CANCELLED = "cancelled"
    TAKEN_OVER = "taken over"


class StepState(StrEnum):
    DUE = "due"
    INTENT = "intent"
    SETTLING = "settling"
    WAITING = "waiting"
    ATTENTION = "attention"
    DONE = "done"
    LEFT_OUT = "left_out"


FINISHED = frozenset({StepState.DONE, StepState.LEFT_OUT})


ENDED = frozenset({DocketState.DONE, DocketState.CANCELLED, DocketState.SUPERSEDED})
ASKING = frozenset({StepState.WAITING, StepState.ATTENTION})
"""A step in one of these goes on only when somebody or something else does its part."""


class Outcome(StrEnum):
    """What a receipt says: done by us, so already, or done by somebody's hand."""

    DONE = "done"
    ALREADY = "already"
    BY_HAND = "by_hand"


class Settlement(StrEnum):
    """How somebody settles a step that does not go on by itself."""

    RETRY = "retry"
    LEFT_OUT = "left_out"
    BY_HAND = "by_hand"


@dataclass(frozen=True, slots=True, kw_only=True)
class StepProblem:
    """Why a step does not go on, and what to do about it; ``code`` is stable."""

    code: str
    text: str
    remedy: str = ""


def is_stuck(state: StepState, problem: StepProblem | None) -> bool:
    """Whether a step does not go on by itself as it should: the one definition of *stuck*.

    It asks for somebody, or something went wrong with it and it is not finished. Lists, the day sheet
    and the client follow it; its twin in SQL is ``storage.dockets.STUCK``.
    """
    return state in ASKING or (state not in FINISHED and problem is not None)


@dataclass(frozen=True, slots=True, kw_only=True)
class Inputs:
    """The revisions that a plan was made from: the person's, each account's, and the rules' version."""

    person: int
    accounts: Mapping[str, int]
    rules: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Docket:
    """A plan being carried out. ``inputs`` is None while it has not been planned."""

    id: str
    number: int
    subject_id: str
    verb: Verb
    state: DocketState
    cause: Cause
    reference: str
    reason: str
    author: str
    inputs: Inputs | None
    undoes: str | None
    due_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class Step:
    """One step that is to be carried out, as far as that needs it.

    ``moving`` is what a handover that has begun hands over, however often it is interrupted.
    """

    id: str
    docket_id: str
    subject_id: str
    position: int
    application_id: str
    account_id: str
    phase: Phase
    action: Action
    item: str
    arguments: Arguments
    origin: Origin | None
    state: StepState
    attempts: int = 0
    urgent: bool = False
    moving: tuple[Asset, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenStep:
    """A step of a docket that has begun which is not finished, with its docket's number and verb.

    ``held_at`` is since when it waits for what its problem says; ``waiting`` that its docket was let go
    of with open steps.
    """

    id: str
    docket_id: str
    number: int
    verb: Verb
    subject_id: str
    application_id: str
    account_id: str
    action: Action
    item: str
    arguments: Arguments
    state: StepState
    problem: StepProblem | None
    origin: Origin | None = None
    held_at: datetime | None = None
    waiting: bool = False

    @property
    def in_doubt(self) -> bool:
        """Nobody knows yet whether it was done: it is settled by looking first.

        Its twin in SQL is ``storage.beside.IN_DOUBT``.
        """
        tasked = self.problem is not None and self.problem.code == "task"
        return self.state is StepState.SETTLING or (self.state is StepState.INTENT and not tasked)

    def does(self, step: PlannedStep) -> bool:
        """Whether it does what a planned step would; an account is made once whatever its id."""
        if self.action is not step.action or self.application_id != step.application_id:
            return False
        if self.action is Action.CREATE:
            return True
        same = (self.account_id, self.item) == (step.account_id, step.item)
        mine, wanted = self.arguments, step.arguments
        if is_as(mine.value, wanted.value):
            mine = replace(mine, value=wanted.value)
        if mine.only is not None and wanted.only is not None and {*wanted.only} <= {*mine.only}:
            mine = replace(mine, only=wanted.only)  # the rest of them has gone already
        return same and mine.document() == wanted.document()


@dataclass(frozen=True, slots=True, kw_only=True)
class DoneStep:
    """A step with its receipt: what undo starts from."""

    position: int
    application_id: str
    account_id: str
    action: Action
    item: str
    arguments: Arguments = NO_ARGUMENTS
    origin: Origin | None = None
    outcome: Outcome = Outcome.DONE
    found: Facet = NOT_SHOWN
    did: Done = NOTHING_DONE
    at: datetime | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Receipt:
    """What a step found, did and saw afterwards; ``at`` is business time, ``took_ms`` machine time."""

    outcome: Outcome
    found: Facet
    did: Done
    seen: Facet
    at: datetime
    machine_at: datetime
    took_ms: float


@dataclass(frozen=True, slots=True, kw_only=True)
class StepDetail:
    """A step with everything people read of it; ``contact`` is whom to call about its application.

    One that moves things has ``moved`` so many ``of`` them.
    """

    id: str
    position: int
    application_id: str
    application_name: str
    contact: str
    account_id: str
    phase: Phase
    action: Action
    item: str
    before: str
    after: str
    reason: str
    state: StepState
    attempts: int
    retry_at: datetime | None
    problem: StepProblem | None
    receipt: Receipt | None
    moved: int = 0
    of: int = 0

    @property
    def stuck(self) -> bool:
        return is_stuck(self.state, self.problem)


@dataclass(frozen=True, slots=True, kw_only=True)
class DocketLine:
    """A docket in a list, with how many of its steps are done and stuck."""

    id: str
    number: int
    subject_id: str
    subject_name: str
    subject_login: str
    verb: Verb
    state: DocketState
    reference: str
    reason: str
    author: str
    due_at: datetime
    made_at: datetime
    started_at: datetime | None
    ended_at: datetime | None
    machine_started: datetime | None
    machine_ended: datetime | None
    steps_total: int
    steps_done: int
    steps_stuck: int
    steps_left_out: int
    steps_so_already: int
    brought_back: bool
    action: str | None
    measure: str | None
    basis: str | None

    @property
    def title(self) -> str:
        """What it is called."""
        return title_of(self.verb, self.action or "", self.measure or "", self.basis or "")

    @property
    def outcome(self) -> DocketOutcome:
        """How it stands, in words."""
        if self.state is DocketState.SUPERSEDED:
            return DocketOutcome.TAKEN_OVER
        if self.state is not DocketState.DONE:
            return DocketOutcome(self.state.value)
        if self.brought_back:  # what a purge was to do, under a hold
            return DocketOutcome.BROUGHT_BACK
        did = self.steps_done - self.steps_left_out - self.steps_so_already
        if did <= 0:
            return DocketOutcome.LEFT_OUT if self.steps_left_out else DocketOutcome.NOTHING
        return DocketOutcome.IN_PART if self.steps_left_out else DocketOutcome.DONE


@dataclass(frozen=True, slots=True, kw_only=True)
class DocketDetail(DocketLine):
    """A docket with its steps, its notes, and the other dockets it belongs with.

    It was prepared in confidence, and its notices are still ``withheld``.
    """

    notes: PlanNotes
    batch_id: str | None
    undoes: str | None
    digest: str
    steps: tuple[StepDetail, ...]
    withheld: bool = False

    @property
    def cut_off_ms(self) -> float | None:
        """From its start to the last cut-off, machine time; None until all are done."""
        cuts = [s for s in self.steps if s.action in (Action.CUT_OFF, Action.LOCK)]
        times = [s.receipt.machine_at for s in cuts if s.receipt]
        if not cuts or len(times) < len(cuts) or self.machine_started is None:
            return None
        return round((max(times) - self.machine_started).total_seconds() * 1000, 1)
