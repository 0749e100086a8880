"""Seats that could come back."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Protocol

from yugum.core.reclaim import Looked, ReclaimReason
from yugum.ports.pages import ListPage


@dataclass(frozen=True, slots=True, kw_only=True)
class SeatToReclaim:
    """A seat that could come back: whose it is, why, and when its account was last used."""

    id: str
    account_id: str
    login: str
    person_id: str | None
    person_name: str | None
    reason: ReclaimReason
    since_at: datetime
    last_used: datetime | None


class ReclaimStore(Protocol):
    async def page(
        self, looked: Looked, reason: ReclaimReason | None, cursor: str | None, limit: int
    ) -> ListPage[SeatToReclaim]:
        """Seats of a pool that could come back, by reason and name."""
        ...
