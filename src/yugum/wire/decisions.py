"""Decisions: exceptions, successors, roles, holds."""

from __future__ import annotations

from datetime import date
from typing import Literal

from pydantic import Field

from yugum.core.accounts import HoldingKind
from yugum.core.decisions import DecisionKind
from yugum.core.verbs import Measure
from yugum.wire.common import Filled, Line, Model, Moment, Request, Said, Seen, When, Words


class DecisionPayload(Request):
    """What a decision is about, by its kind.

    Grant and deny: ``application``, ``kind`` and ``item``, of a setting its ``value``. Suspend:
    ``application``. Role: ``role``. Successor: ``person``. Hold: nothing.
    """

    application: Line = ""
    kind: HoldingKind | None = None
    item: Line = ""
    value: Line = ""
    role: Line = ""
    person: Line = ""


class NewDecision(Request):
    """A decision for one person."""

    who: Words
    kind: Literal[
        DecisionKind.GRANT,
        DecisionKind.DENY,
        DecisionKind.SUCCESSOR,
        DecisionKind.HOLD,
        DecisionKind.ROLE,
        DecisionKind.SUSPEND,
    ]
    payload: DecisionPayload = DecisionPayload()
    reason: Words
    ends: When = ""
    new: bool = Field(default=False, description="It may name what nobody holds or gives yet.")


class PayloadView(Model):
    """What a decision is about; what its kind does not say is left out. See DecisionPayload."""

    application: Filled[str] = ""
    kind: Said[Seen[HoldingKind]] = None
    item: Filled[str] = ""
    value: Filled[str] = ""
    matching: Filled[str] = ""
    role: Filled[str] = ""
    person: Filled[str] = ""
    names: Filled[list[str]] = []
    measure: Filled[str] = ""
    review: Filled[str] = ""


class DecisionView(Model):
    id: str
    subject_id: str
    kind: Seen[DecisionKind]
    payload: PayloadView
    author: str
    reason: str
    ends_at: Moment | None = None


class HoldRow(Model):
    """A hold on a person or on an application that is not over; it is ended like any decision."""

    id: str
    person_id: str | None
    application_id: str | None
    name: str
    author: str
    reason: str
    made_at: Moment
    starts_at: Moment | None
    ends_at: Moment | None


class PrecautionRow(Model):
    """A precaution in force; its ground is read by administrators only."""

    id: str
    person_id: str
    name: str
    user_name: str
    measure: Seen[Measure]
    ground: str
    author: str
    made_at: Moment
    review: date
    number: str | None


class DecisionLine(Model):
    """A decision in a list, with when it was made and by which docket."""

    docket_id: str | None

    id: str
    kind: Seen[DecisionKind]
    payload: PayloadView
    author: str
    reason: str
    made_at: Moment
    ends_at: Moment | None
