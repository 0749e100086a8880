"""Dockets: plans being carried out, and the states their steps go through."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime
from enum import StrEnum
from typing import Any

from yugum.core.actions import Action, Phase
from yugum.core.decisions import Origin


class DocketState(StrEnum):
    AWAITING = "awaiting"
    SCHEDULED = "scheduled"
    RUNNING = "running"
    DONE = "done"
    CANCELLED = "cancelled"
    SUPERSEDED = "superseded"


class StepState(StrEnum):
    DUE = "due"
    INTENT = "intent"
    SETTLING = "settling"
    WAITING = "waiting"
    ATTENTION = "attention"
    DONE = "done"
    LEFT_OUT = "left_out"


FINISHED = frozenset({StepState.DONE, StepState.LEFT_OUT})


class Verb(StrEnum):
    """Why a docket runs."""

    JOINER = "joiner"
    MOVER = "mover"
    LEAVER = "leaver"
    RETURNER = "returner"
    ABSENCE = "absence"
    UNDO = "undo"
    CLOSE = "close"
    PURGE = "purge"
    RECHECK = "recheck"
    REVERT = "revert"
    RENAME = "rename"
    EXTENSION = "extension"
    CREDENTIAL = "credential"
    ACCOUNT = "account"


@dataclass(frozen=True, slots=True, kw_only=True)
class Step:
    """One step that is to be carried out, as far as that needs it."""

    id: str
    docket_id: str
    subject_id: str
    position: int
    application_id: str
    account_id: str
    phase: Phase
    action: Action
    item: str
    arguments: Mapping[str, Any]
    origin: Origin | None
    state: StepState
    attempts: int = 0
    urgent: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class DoneStep:
    """A step with its receipt: what undo starts from."""

    position: int
    application_id: str
    account_id: str
    action: Action
    item: str
    arguments: Mapping[str, Any]
    origin: Origin | None
    outcome: str
    found: Mapping[str, Any] = field(default_factory=dict)
    did: Mapping[str, Any] = field(default_factory=dict)
    at: datetime | None = None
