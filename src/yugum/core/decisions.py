"""Decisions operators made and the ledger of why something is held."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from datetime import datetime
from enum import StrEnum
from typing import Any


class DecisionKind(StrEnum):
    GRANT = "grant"
    DENY = "deny"
    SUCCESSOR = "successor"
    HOLD = "hold"
    ROLE = "role"
    SUSPEND = "suspend"
    VEIL = "veil"


@dataclass(frozen=True, slots=True, kw_only=True)
class Decision:
    """Something an operator settled for one subject.

    ``payload`` by kind: grant and deny ``{application, kind, item}`` (of a setting with
    ``value``); suspend ``{application}``, closed whatever the rules give; role ``{role}``, held whatever its condition says; successor ``{person}``; hold
    ``{}``; veil ``{names}``, former names that only administrators see.
    """

    id: str
    subject_id: str
    kind: DecisionKind
    payload: Mapping[str, Any] = field(default_factory=dict)
    author: str = ""
    reason: str = ""
    starts: datetime | None = None
    ends: datetime | None = None


def in_force(decisions: Iterable[Decision], at: datetime) -> list[Decision]:
    return [
        d
        for d in decisions
        if (d.starts is None or d.starts <= at) and (d.ends is None or at < d.ends)
    ]


def decision_document(decision: Decision) -> dict[str, Any]:
    """The decision as JSON can carry it."""
    return {
        "id": decision.id,
        "subject_id": decision.subject_id,
        "kind": decision.kind.value,
        "payload": dict(decision.payload),
        "author": decision.author,
        "reason": decision.reason,
        "starts": decision.starts.isoformat() if decision.starts else None,
        "ends": decision.ends.isoformat() if decision.ends else None,
    }


def decision_from(document: Mapping[str, Any]) -> Decision:
    """The decision that `decision_document` wrote."""
    moments = {
        k: datetime.fromisoformat(document[k]) if document[k] else None for k in ("starts", "ends")
    }
    return Decision(**{**document, **moments, "kind": DecisionKind(document["kind"])})


class OriginKind(StrEnum):
    ROLE = "role"
    DECISION = "decision"
    FOUND = "found"


@dataclass(frozen=True, slots=True)
class Origin:
    """Why something is held: a role's name, a decision's id, or it was found there."""

    kind: OriginKind
    name: str = ""


FOUND = Origin(OriginKind.FOUND)

LedgerKey = tuple[str, str, str]
"""account id, holding kind, item"""

Ledger = Mapping[LedgerKey, Origin]
