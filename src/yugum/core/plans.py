"""Plans: the exact steps for one subject now, each with its reason; nothing has happened yet."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable
from dataclasses import dataclass

import msgspec

from yugum.core.actions import NO_ARGUMENTS, PHASE_ORDER, Action, Arguments, Phase
from yugum.core.actions.registry import ACTIONS
from yugum.core.decisions import Origin
from yugum.core.documents import Document
from yugum.core.verbs import Verb


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannedStep:
    """One thing to do to one account.

    ``account_id`` is "" for an account that does not exist yet; whoever starts the docket gives
    it one. ``origin`` is what the ledger will say (a grant) or said (a revocation).
    """

    application_id: str
    account_id: str
    action: Action
    item: str = ""
    arguments: Arguments = NO_ARGUMENTS
    before: str
    after: str
    reason: str
    origin: Origin | None = None
    phase: Phase | None = None

    def of(self, account_id: str) -> PlannedStep:
        """The step for an account; a batch says so of thousands, which `dataclasses.replace` is too slow for."""
        return PlannedStep(
            application_id=self.application_id,
            account_id=account_id,
            action=self.action,
            item=self.item,
            arguments=self.arguments,
            before=self.before,
            after=self.after,
            reason=self.reason,
            origin=self.origin,
            phase=self.phase,
        )

    @property
    def in_phase(self) -> Phase:
        return self.phase or ACTIONS[self.action].phase

    @property
    def irreversible(self) -> bool:
        """Whether there is no way back from it at all."""
        return ACTIONS[self.action].irreversible


@dataclass(frozen=True, slots=True)
class Caution:
    """Something to know before confirming; ``blocks`` names what will not happen because of it."""

    code: str
    text: str
    blocks: str = ""


@dataclass(frozen=True, slots=True)
class FidelityLine:
    """One thing an undo or a return brings back, or cannot and why."""

    what: str
    comes_back: bool
    why: str


@dataclass(frozen=True, slots=True)
class Stay:
    """One thing held that stays as it is, and why; ``application`` is an id."""

    application: str
    item: str
    reason: str


@dataclass(frozen=True, slots=True)
class FieldChange:
    """One field of the person that changes with the plan; a manager by name."""

    field: str
    before: str
    after: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanNotes:
    """What of a plan is kept beside its steps."""

    summary: tuple[str, ...] = ()
    cautions: tuple[Caution, ...] = ()
    stays: tuple[Stay, ...] = ()
    fidelity: tuple[FidelityLine, ...] = ()
    changed: tuple[FieldChange, ...] = ()


NO_NOTES = PlanNotes()


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """Steps in the order in which a lane runs them; lanes are parallel."""

    subject_id: str
    verb: Verb
    steps: tuple[PlannedStep, ...]
    cautions: tuple[Caution, ...] = ()
    summary: tuple[str, ...] = ()
    stays: tuple[Stay, ...] = ()
    fidelity: tuple[FidelityLine, ...] = ()
    changed: tuple[FieldChange, ...] = ()

    @property
    def digest(self) -> str:
        """What an approval binds to: SHA-256 over the steps, hex."""
        return digest_of(step_document(s) for s in self.steps)

    @property
    def notes(self) -> PlanNotes:
        return PlanNotes(
            summary=self.summary,
            cautions=self.cautions,
            stays=self.stays,
            fidelity=self.fidelity,
            changed=self.changed,
        )


def step_document(step: PlannedStep) -> Document:
    """The step as JSON can carry it."""
    return {
        "application_id": step.application_id,
        "account_id": step.account_id,
        "action": step.action.value,
        "item": step.item,
        "arguments": dict(step.arguments.document()),
        "before": step.before,
        "after": step.after,
        "reason": step.reason,
        "origin": msgspec.to_builtins(step.origin),
        "phase": step.in_phase.value,
    }


def step_from(document: Document) -> PlannedStep:
    """The step that `step_document` wrote."""
    return msgspec.convert(document, PlannedStep)


def notes_from(document: Document) -> PlanNotes:
    """What was kept beside a plan's steps."""
    return msgspec.convert(document, PlanNotes)


def digest_of(steps: Iterable[Document]) -> str:
    """The digest of steps as `step_document` writes them."""
    text = json.dumps(list(steps), sort_keys=True)
    return hashlib.sha256(text.encode()).hexdigest()


def in_order(steps: Iterable[PlannedStep]) -> tuple[PlannedStep, ...]:
    """Steps by phase, then application, then as planned (the sort is stable)."""
    return tuple(sorted(steps, key=lambda s: (PHASE_ORDER[s.in_phase], s.application_id)))
