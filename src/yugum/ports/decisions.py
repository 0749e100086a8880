"""Decisions operators made; ended ones stay as a record."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Protocol

from yugum.core.decisions import Decision, DecisionKind, Payload
from yugum.core.verbs import Measure
from yugum.ports.pages import ListPage


@dataclass(frozen=True, slots=True, kw_only=True)
class DecisionLine:
    """A decision in a list, with when it was made and by which docket."""

    id: str
    subject_id: str
    kind: DecisionKind
    payload: Payload
    author: str
    reason: str
    starts_at: datetime | None
    ends_at: datetime | None
    made_at: datetime
    docket_id: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class HoldLine:
    """A hold in force, with the name of the person or the application it is on."""

    id: str
    person_id: str | None
    application_id: str | None
    name: str
    author: str
    reason: str
    starts_at: datetime | None
    ends_at: datetime | None
    made_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class PrecautionLine:
    """A precaution in force: on whom, what, why, and the day it is looked at again.

    ``number`` is the docket's that took it.
    """

    id: str
    person_id: str
    name: str
    user_name: str
    measure: Measure
    ground: str
    author: str
    made_at: datetime
    review: date
    number: int | None


class DecisionStore(Protocol):
    async def holds(self, at: datetime, cursor: str | None, limit: int) -> ListPage[HoldLine]:
        """Holds on people and applications that are not over, the newest first."""
        ...

    async def grounds(self, subject_ids: Collection[str]) -> dict[str, list[str]]:
        """The grounds of precautions, ended ones too, by subject."""
        ...

    async def former_names(
        self, subject_ids: Collection[str], at: datetime
    ) -> dict[str, list[str]]:
        """The former names that are hidden, by subject; the longest first."""
        ...

    async def put(self, decision: Decision, at: datetime, docket_id: str | None) -> None:
        """Store a decision; one of the same id stays. Plans made before are stale by it."""
        ...

    async def put_all(
        self, decisions: Sequence[Decision], at: datetime, docket_id: str | None = None
    ) -> None:
        """Store several decisions."""
        ...

    async def end(self, decision_id: str, at: datetime) -> DecisionLine:
        """End a decision.

        Raises:
            NotFound: none of that id is in force.
        """
        ...

    async def in_force(self, subject_id: str, at: datetime) -> Sequence[Decision]:
        """What is settled for a subject and not over at a moment; what begins later as well."""
        ...

    async def naming(self, person_id: str, at: datetime) -> Sequence[Decision]:
        """What names somebody to take over from others and is not over at a moment."""
        ...

    async def end_some(self, decision_ids: Sequence[str], at: datetime) -> None:
        """End decisions; those that have ended stay as they are."""
        ...

    async def precautions(
        self, at: datetime, cursor: str | None, limit: int, until: date | None = None
    ) -> ListPage[PrecautionLine]:
        """Precautions in force, the first to be looked at again first; with ``until`` those by that day."""
        ...

    async def end_of_docket(self, docket_id: str, at: datetime) -> None:
        """End every decision that came with a docket."""
        ...

    async def of_docket(self, subject_id: str, docket_id: str) -> Sequence[Decision]:
        """Every decision about somebody that came with a docket, ended or not."""
        ...

    async def giving(
        self, entitlements: Sequence[tuple[str, str]], at: datetime
    ) -> Mapping[tuple[str, str], int]:
        """How many exceptions in force, or to come, give entitlements: an application and an item each."""
        ...

    async def hold_on(self, subject_id: str, application_id: str, at: datetime) -> Decision | None:
        """The hold in force on a subject or on an application as a whole, if there is one."""
        ...

    async def end_of(
        self, subject_id: str, application_id: str, kinds: Sequence[DecisionKind], at: datetime
    ) -> None:
        """End the decisions of some kinds about somebody's account in an application."""
        ...

    async def page(self, subject_id: str, cursor: str | None, limit: int) -> ListPage[DecisionLine]:
        """The decisions about a subject, the newest first."""
        ...
