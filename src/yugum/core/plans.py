"""Plans: the exact steps for one subject now, each with its reason; nothing has happened yet."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable, Mapping
from dataclasses import asdict, dataclass, field
from typing import Any

from yugum.core.actions import ACTIONS, PHASE_ORDER, Action, Phase
from yugum.core.decisions import Origin, OriginKind


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
    arguments: Mapping[str, Any] = field(default_factory=dict)
    before: str
    after: str
    reason: str
    origin: Origin | None = None
    phase: Phase | None = None

    @property
    def in_phase(self) -> Phase:
        return self.phase or ACTIONS[self.action].phase


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


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """Steps in the order in which a lane runs them; lanes are parallel."""

    subject_id: str
    verb: str
    steps: tuple[PlannedStep, ...]
    cautions: tuple[Caution, ...] = ()
    summary: tuple[str, ...] = ()
    stays: tuple[Mapping[str, str], ...] = ()
    fidelity: tuple[FidelityLine, ...] = ()

    @property
    def digest(self) -> str:
        """What an approval binds to: SHA-256 over the steps, hex."""
        return digest_of(self.steps)


def step_document(step: PlannedStep) -> dict[str, Any]:
    """The step as JSON can carry it."""
    document = asdict(step)
    document["phase"] = step.in_phase.value
    document["action"] = step.action.value
    document["origin"] = (
        {"kind": step.origin.kind.value, "name": step.origin.name} if step.origin else None
    )
    document["arguments"] = dict(step.arguments)
    return document


def step_from(document: Mapping[str, Any]) -> PlannedStep:
    """The step that `step_document` wrote."""
    origin = document.get("origin")
    return PlannedStep(
        application_id=document["application_id"],
        account_id=document["account_id"],
        action=Action(document["action"]),
        item=document["item"],
        arguments=document["arguments"],
        before=document["before"],
        after=document["after"],
        reason=document["reason"],
        origin=Origin(OriginKind(origin["kind"]), origin["name"]) if origin else None,
        phase=Phase(document["phase"]),
    )


def digest_of(steps: Iterable[PlannedStep]) -> str:
    text = json.dumps([step_document(s) for s in steps], sort_keys=True, default=str)
    return hashlib.sha256(text.encode()).hexdigest()


def in_order(steps: Iterable[PlannedStep]) -> tuple[PlannedStep, ...]:
    """Steps by phase, then application, then as planned (the sort is stable)."""
    return tuple(sorted(steps, key=lambda s: (PHASE_ORDER[s.in_phase], s.application_id)))
