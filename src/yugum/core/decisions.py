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


@dataclass(frozen=True, slots=True, kw_only=True)
class Decision:
    """Something an operator settled for one subject.

    ``payload`` by kind: grant and deny ``{application, kind, item}``; successor ``{person}``;
    hold ``{}``.
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
