"""Dockets, their steps and receipts."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence, Set
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol

from yugum.core.actions import Phase
from yugum.core.causes import Cause
from yugum.core.dockets import (
    Docket,
    DocketDetail,
    DocketLine,
    DocketState,
    DoneStep,
    Inputs,
    OpenStep,
    Settlement,
    Step,
    StepState,
)
from yugum.core.facts import Fact
from yugum.core.lists import DocketSort, Order
from yugum.core.plans import PlannedStep, PlanNotes
from yugum.core.verbs import Verb
from yugum.ports.obligations import Obligation
from yugum.ports.pages import ListPage


@dataclass(frozen=True, slots=True, kw_only=True)
class DueDocket:
    """A docket that is due, and whether it must be planned (again) before it begins."""

    docket: Docket
    stale: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class SettledStep:
    """A step that somebody settled."""

    id: str
    docket_id: str
    subject_id: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ChosenDockets:
    """Which dockets, and in what order: with ``stuck`` running ones with a step that is.

    ``author`` is who asked for it, ``reference`` a whole one in any case; ``since`` and ``before`` are about
    when it is due.
    """

    state: DocketState | None = None
    verb: Verb | None = None
    subject_id: str = ""
    batch_id: str = ""
    author: str = ""
    reference: str = ""
    since: datetime | None = None
    before: datetime | None = None
    stuck: bool = False
    sort: DocketSort = DocketSort.NUMBER
    order: Order = Order.DESCENDING


class DocketStore(Protocol):
    async def schedule(self, obligations: Sequence[Obligation], now: datetime, author: str) -> None:
        """Dockets without steps yet: they are planned when a worker takes them up."""
        ...

    async def schedule_updates(
        self, subject_ids: Sequence[str], now: datetime, author: str, basis: str
    ) -> None:
        """Dockets that bring attributes in step; whoever has one that is not planned gets no other."""
        ...

    async def due(self, subject_ids: Sequence[str], now: datetime) -> Sequence[DueDocket]:
        """The earliest due docket of each subject."""
        ...

    async def begin(self, docket_ids: Sequence[str], now: datetime) -> None:
        """Let scheduled dockets run."""
        ...

    async def replace_steps(
        self,
        docket_id: str,
        steps: Sequence[PlannedStep],
        notes: PlanNotes,
        inputs: Inputs,
        digest: str,
    ) -> None:
        """Put the steps of a plan that was made again in the place of those before."""
        ...

    async def earlier(self, docket_ids: Sequence[str]) -> Sequence[str]:
        """The dockets of the same subjects that have begun before and have not ended."""
        ...

    async def take_over(self, docket_ids: Sequence[str], now: datetime) -> Collection[str]:
        """Let dockets that begin do what earlier ones left open, as far as it is theirs.

        A docket about all of somebody takes over from others such, one about an account what is open
        there, an undo what it undoes, each a step that is the same. What is in doubt is settled first by
        the docket it belongs to. One that is left with nothing open ends, others wait.

        Returns whose account was to come back and is purged instead.
        """
        ...

    async def open_steps(
        self, subject_ids: Sequence[str], heads: Phase | None = None
    ) -> Sequence[Step]:
        """The unfinished steps of dockets that have begun, cut-offs first, then in lane order.

        With ``heads`` only the first of each account, and only where it is of that phase.
        """
        ...

    async def trials(self, subject_ids: Sequence[str]) -> Mapping[str, StepState]:
        """How the last trial sign-in of each account stands that one was planned for."""
        ...

    async def let_wait(self, subject_ids: Sequence[str], now: datetime) -> Sequence[str]:
        """Running dockets that are let go of with open steps wait; a later one can begin beside.

        Returns whose still run.
        """
        ...

    async def begun(self, subject_ids: Sequence[str]) -> Sequence[OpenStep]:
        """The steps that dockets which have begun have left to do, by docket and position."""
        ...

    async def let_go_on(self, step_ids: Sequence[str]) -> None:
        """Steps that waited, with nothing begun, are tried again at once."""
        ...

    async def leave_out(self, step_ids: Sequence[str], text: str, now: datetime) -> None:
        """Leave steps out that are not due any more; open tasks for them are withdrawn."""
        ...

    async def numbers(self, docket_ids: Collection[str]) -> Mapping[str, int]:
        """The numbers of dockets by id; ids of anything else are left out."""
        ...

    async def finish(self, subject_ids: Sequence[str], now: datetime) -> Sequence[Docket]:
        """End the running dockets that have no open step left, and return them."""
        ...

    async def done_steps(self, docket_id: str) -> Sequence[DoneStep]:
        """The steps of a docket that have a receipt, in order."""
        ...

    async def given_later(self, docket_id: str, undo: str) -> Sequence[DoneStep]:
        """What later looks and closings of the same leaving gave to others, but for what was undone by another docket than ``undo``."""
        ...

    async def receivers(self, docket_ids: Collection[str]) -> Sequence[tuple[str, str, bool]]:
        """To whom dockets hand something over, each with whether the account that receives it is open."""
        ...

    async def reborn(self, docket_id: str) -> Set[str]:
        """Accounts that a docket made or restored, and that were deleted or parked after that."""
        ...

    async def leaving_steps(self, subject_id: str, but: str) -> Sequence[DoneStep]:
        """What the last leaving of somebody did, its closings and what ended later among it, in order.

        Since they last came, came back or stayed on, other than by the docket ``but``.
        """
        ...

    async def by_name(self, name: str) -> Docket:
        """The docket of an id, or of a number as it is shown (MS-0321, 321).

        Raises:
            NotFound: there is none.
        """
        ...

    async def page(
        self,
        chosen: ChosenDockets,
        cursor: str | None = None,
        limit: int = 50,
    ) -> ListPage[DocketLine]:
        """Dockets as chosen."""
        ...

    async def ahead(self, subject_id: str) -> Sequence[DocketLine]:
        """A subject's dockets that have not begun, at most a hundred."""
        ...

    async def versions(self, docket_ids: Sequence[str], now: datetime) -> Mapping[str, str]:
        """A text for each docket that is another one whenever it, or a step of it, has changed."""
        ...

    async def one(self, docket_id: str) -> DocketDetail:
        """A docket with its steps and receipts.

        Raises:
            NotFound: there is none of that id.
        """
        ...

    async def moved(self, step_id: str, left: int) -> None:
        """So many of the things that a step moves are left."""
        ...

    async def settle_step(
        self, step_id: str, how: Settlement, note: str, at: datetime
    ) -> SettledStep:
        """Retry a step, leave it out, or note that it was done by hand.

        Raises:
            Conflict: it does not wait for anybody.
        """
        ...

    async def cancel(self, docket_id: str, now: datetime) -> None:
        """Cancel a docket that has not begun.

        Raises:
            Conflict: it has begun, or has ended.
        """
        ...

    async def put_off(self, docket_id: str, verb: Verb, *, applied: bool) -> None:
        """A docket is planned when it may begin; ``applied`` if what it says of the person holds already."""
        ...

    async def cancel_all(self, subject_id: str, now: datetime) -> Sequence[str]:
        """Cancel whatever of somebody has not begun; the dockets."""
        ...

    async def not_begun(self, subject_ids: Sequence[str], verb: Verb) -> Mapping[str, Docket]:
        """The last docket of a verb that has not begun, by subject."""
        ...

    async def inherit(self, said: Mapping[str, tuple[str, str]]) -> None:
        """References and reasons, by docket, for those that were given none."""
        ...

    async def drop(self, docket_ids: Sequence[str], now: datetime) -> None:
        """Cancel dockets that turned out to have nothing to do."""
        ...

    async def note_cause(self, docket_id: str, cause: Cause, verb: Verb) -> None:
        """Store what a docket's cause, or its verb, turned out to be."""
        ...

    async def facts(self, docket_id: str) -> Sequence[Fact]:
        """The changes of its person that came with a docket, last first."""
        ...

    async def facts_of_others(self, docket_id: str) -> Sequence[Fact]:
        """The changes of other people that came with it."""
        ...
