"""Lists as somebody wants them: filters, order and columns under a name, and what open pages are about."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

from yugum.core.operators import OperatorRole


class ListName(StrEnum):
    """The lists that views are kept of."""

    PEOPLE = "people"
    ACCOUNTS = "accounts"
    DOCKETS = "dockets"
    FINDINGS = "findings"
    LAST_CALL = "last-call"
    MAILS = "mails"
    HANDOVER = "handover"
    JOINERS = "joiners"
    GROUPS = "groups"
    OPERATORS = "operators"
    INTEGRATIONS = "integrations"
    TOKENS = "tokens"
    SHARED = "shared"
    AUDIT = "audit"


class ReportName(StrEnum):
    """What is told as a report: of seats, and of leavers."""

    COSTS = "seats-costs"
    RECLAIMABLE = "seats-reclaimable"
    OVER = "seats-over"
    HELD = "seats-held"
    STARTING = "seats-starting"
    LEAVERS = "leavers"


class ExportForm(StrEnum):
    """What a list is taken along as: RFC 4180, ECMA-376, or a JSON text (RFC 8259) a line."""

    CSV = "csv"
    XLSX = "xlsx"
    JSON_LINES = "jsonl"


class Noun(StrEnum):
    """What pages show; each has a sequence that goes on when something of it changes."""

    PEOPLE = "people"
    ACCOUNTS = "accounts"
    DOCKETS = "dockets"
    DECISIONS = "decisions"
    WAITING = "waiting"
    APPLICATIONS = "applications"
    FINDINGS = "findings"
    SEATS = "seats"
    RULES = "rules"
    DATES = "dates"
    MAILS = "mails"
    SHARED = "shared"
    ACCESS = "access"
    VIEWS = "views"
    CLOCK = "clock"


FOR_ADMINISTRATORS = frozenset({Noun.ACCESS})
"""Whoever cannot see these is not told either that they changed."""


def told(role: OperatorRole) -> frozenset[Noun]:
    """What somebody of a role is told about."""
    everything = frozenset(Noun)
    return everything if role is OperatorRole.ADMINISTRATOR else everything - FOR_ADMINISTRATORS


@dataclass(frozen=True, slots=True, kw_only=True)
class SavedView:
    """A list's filters, order and columns under a name, of one operator; ``shared`` with all others."""

    id: str
    operator_id: str
    page: ListName
    name: str
    query: Mapping[str, str]
    columns: Sequence[str]
    shared: bool
    changed_at: datetime
