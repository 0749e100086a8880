"""Leases: the only truth about which worker works on which subject. Machine time throughout."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol


@dataclass(frozen=True, slots=True)
class Lease:
    """A worker's claim on a subject, good while nobody holds a later ``epoch``."""

    subject_id: str
    epoch: int


class LeaseStore(Protocol):
    async def make_subjects(self, subject_ids: Iterable[str]) -> None:
        """Let accounts with nobody behind be subjects, when something is to be done about them."""
        ...

    async def wake(self, subject_ids: Iterable[str], *, priority: int) -> None:
        """Make subjects due for a worker now; a lower number goes first."""
        ...

    async def wake_free(self, subject_ids: Iterable[str]) -> None:
        """Wake subjects that nobody has in hand this moment; others are woken when they are due."""
        ...

    async def wake_due(self, now: datetime) -> int:
        """Wake the subjects of scheduled dockets that are due at a business moment; how many."""
        ...

    async def claim(
        self, worker: str, limit: int, seconds: float, *, most_urgent: bool = False
    ) -> Sequence[Lease]:
        """Take up to ``limit`` due subjects for ``seconds``; each gets a new epoch.

        With ``most_urgent`` only those who are leaving or were called urgent.
        """
        ...

    async def renew(
        self, worker: str, subject_ids: Iterable[str], seconds: float
    ) -> Sequence[Lease]:
        """Prolong the worker's leases on these subjects that have not run out; returns those.

        One that the worker has let go of after a failure runs out and is taken up by `recover`.
        """
        ...

    async def release(self, leases: Sequence[Lease]) -> None:
        """Give subjects back; they wake again when one of their steps is to be retried."""
        ...

    async def recover(self) -> int:
        """Wake subjects whose worker has not renewed its lease; how many."""
        ...

    async def due_now(self) -> int:
        """How many subjects could be claimed this moment."""
        ...

    async def working(self) -> int:
        """How many subjects are leased, due or marked now (those waiting for a retry are not)."""
        ...
