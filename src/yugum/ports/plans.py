"""Plans kept until they are confirmed, and the one transaction that makes dockets of them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol

from yugum.core.causes import Cause
from yugum.core.dockets import DocketState, Inputs
from yugum.core.documents import Document
from yugum.core.plans import NO_NOTES, Caution, PlannedStep, PlanNotes
from yugum.core.verbs import Verb


@dataclass(frozen=True, slots=True, kw_only=True)
class NewPlan:
    """A plan to be kept until it is confirmed, its steps as documents."""

    id: str
    batch_id: str
    subject_id: str
    verb: Verb
    cause: Cause
    steps: Sequence[Document]
    notes: PlanNotes
    inputs: Inputs
    digest: str
    due_at: datetime
    made_at: datetime
    author: str


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptPlan:
    """A plan of a batch as it is kept; ``stale`` says whether its inputs have changed.

    ``confirmed`` is machine time. Without the whole, ``steps`` and ``notes`` are empty.
    """

    id: str
    batch_id: str
    subject_id: str
    verb: Verb
    cause: Cause
    digest: str
    due_at: datetime
    confirmed: datetime | None
    author: str
    display_name: str
    user_name: str
    employee_number: str
    stale: bool
    steps: tuple[PlannedStep, ...] = ()
    notes: PlanNotes = NO_NOTES


@dataclass(frozen=True, slots=True, kw_only=True)
class PreparedBatch:
    """Plans an operator keeps in confidence and has not carried out."""

    batch_id: str
    verb: Verb
    made_at: datetime
    due_at: datetime
    names: Sequence[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class ConfirmedDocket:
    """A docket that a confirmation has made."""

    id: str
    number: int
    subject_id: str
    verb: Verb
    state: DocketState
    due_at: datetime


class PlanStore(Protocol):
    async def keep(self, plans: Sequence[NewPlan]) -> None:
        """Store plans until they are confirmed."""
        ...

    async def forget(self, batch_id: str) -> None:
        """Take away plans that others have taken the place of."""
        ...

    async def leave_out(self, batch_id: str, subject_ids: Sequence[str]) -> None:
        """Take the plans about some subjects out of a batch that nobody has confirmed."""
        ...

    async def lock(self, batch_id: str) -> None:
        """Lock the subjects of a batch, in the order of their ids.

        Of two confirmations about the same subject the second then sees what the first has changed.
        """
        ...

    async def prepared(self, author: str) -> Sequence[PreparedBatch]:
        """What an operator keeps in confidence, the newest first."""
        ...

    async def batch(self, batch_id: str, *, whole: bool = True) -> Sequence[KeptPlan]:
        """The batch's plans, locked, in the order of their ids; none when there is no such batch.

        Without the ``whole`` the steps stay in the database, which is all a confirmation needs.
        """
        ...

    async def blocked_by(self, batch_id: str) -> Sequence[Caution]:
        """The cautions of a batch that forbid it, or must be overridden; no step is loaded."""
        ...

    async def steps_of(self, plan_id: str) -> Sequence[PlannedStep]:
        """The steps of one plan; none when it was never kept."""
        ...

    async def keep_steps(self, plan_id: str, steps: Sequence[PlannedStep], digest: str) -> None:
        """Store the steps of a plan that was made again, for whoever is asked about it."""
        ...

    async def confirmed(self, batch_id: str) -> Sequence[ConfirmedDocket]:
        """The dockets that a batch has become, as they are now, in the order of its plans."""
        ...

    async def confirm(
        self, batch_id: str, *, now: datetime, reference: str, reason: str, undoes: str | None
    ) -> Sequence[ConfirmedDocket]:
        """Dockets for all plans of a batch, with their steps where they are due now.

        A docket has its plan's id. The person's revision in its inputs is the one after the
        cause was recorded, so that our own change does not make it stale.
        """
        ...
