"""Seats that could come back."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol

from yugum.core.reclaim import Looked, ReclaimReason
from yugum.ports.pages import ListPage


@dataclass(frozen=True, slots=True, kw_only=True)
class SeatToReclaim:
    """A seat that could come back: whose it is, why, when its account was last used and its holder asked."""

    id: str
    account_id: str
    login: str
    person_id: str | None
    person_name: str | None
    reason: ReclaimReason
    since_at: datetime
    last_used: datetime | None
    asked_at: datetime | None


@dataclass(frozen=True, slots=True, kw_only=True)
class SeatComingBack(SeatToReclaim):
    """A seat of any pool that could come back."""

    pool_id: str
    department: str


class ReclaimStore(Protocol):
    async def everywhere(
        self, looked: Sequence[Looked], reason: ReclaimReason | None, cursor: str | None, limit: int
    ) -> ListPage[SeatComingBack]:
        """Seats of some pools that could come back, by pool, reason and name."""
        ...

    async def page(
        self,
        looked: Looked,
        reason: ReclaimReason | None,
        cursor: str | None,
        limit: int,
        people: Collection[str] = (),
    ) -> ListPage[SeatToReclaim]:
        """Seats of a pool that could come back, by reason and name; only of some ``people``, if they are named."""
        ...
