"""Approvals: what a docket waits for, who was asked, and what they answered."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol

from yugum.core.approvals import Answer, ApprovalState, Asked, AskedPerson
from yugum.core.plans import PlanNotes
from yugum.core.verbs import Verb
from yugum.ports.pages import ListPage


@dataclass(frozen=True, slots=True, kw_only=True)
class Approval:
    """Something that must be agreed to: by ``everyone`` who was asked, or by one of them.

    ``covers`` is what of the plan it is about; agreed to is that and nothing else.
    """

    id: str
    docket_id: str
    subject_id: str
    name: str
    digest: str
    asked: tuple[AskedPerson, ...]
    everyone: bool
    made_at: datetime
    remind_at: datetime
    expires_at: datetime
    state: ApprovalState = ApprovalState.OPEN
    answers: tuple[Answer, ...] = ()
    covers: tuple[Asked, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class ApprovalLine(Approval):
    """An approval in a list, with its docket."""

    number: int
    verb: Verb
    author: str
    reason: str
    due_at: datetime
    notes: PlanNotes
    subject_name: str
    employee_number: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ApprovalLink:
    """What a link from a mail opens: the approval, and who (``who`` is the key) was asked by it."""

    approval_id: str
    who: str
    name: str


class ApprovalStore(Protocol):
    async def ask(self, approvals: Sequence[Approval], *, wait: bool) -> None:
        """Store new approvals, and with ``wait`` let their dockets wait for them."""
        ...

    async def one(self, approval_id: str) -> Approval:
        """One approval, locked until the end of the transaction.

        Raises:
            NotFound: there is none of that id.
        """
        ...

    async def answer(
        self, approval_id: str, answers: Sequence[Answer], state: ApprovalState, at: datetime
    ) -> None:
        """Store all answers there are, and what they come to."""
        ...

    async def also_ask(self, approval_id: str, who: AskedPerson) -> None:
        """Ask somebody else as well."""
        ...

    async def open_for(self, docket_id: str) -> int:
        """How many approvals a docket still waits for."""
        ...

    async def given_for(self, subject_id: str) -> Mapping[str, frozenset[Asked]]:
        """What was agreed to for somebody and not taken away since, by the approval's name."""
        ...

    async def release(self, docket_id: str) -> None:
        """All have agreed: the docket is due on its day."""
        ...

    async def drop(self, docket_id: str, state: ApprovalState, at: datetime) -> bool:
        """Somebody refused, or nobody answered in time: the docket is cancelled if it has waited.

        Returns whether it has; one that has begun before goes on.
        """
        ...

    async def withdraw(self, docket_ids: Sequence[str], by: str, reason: str, at: datetime) -> None:
        """End the open approvals of dockets that are not wanted any more, and say who did."""
        ...

    async def page(
        self, state: ApprovalState | None, docket_id: str, cursor: str | None, limit: int
    ) -> ListPage[ApprovalLine]:
        """Approvals, the one that expires first at the top."""
        ...

    async def remind_or_expire(self, now: datetime) -> Sequence[Approval]:
        """Approvals to remind of or that have expired, marked as such in the same statement."""
        ...

    async def link(self, link_hash: str, approval_id: str, who: str, name: str, days: int) -> None:
        """A link for one who was asked, good for so many days of machine time."""
        ...

    async def behind(self, link_hash: str) -> ApprovalLink:
        """What a link from a mail opens.

        Raises:
            NotFound: it was used, or has expired.
        """
        ...

    async def used(self, link_hash: str) -> None:
        """Use a link up."""
        ...
