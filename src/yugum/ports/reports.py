"""What reports about people are made of."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Protocol

from yugum.core.cut_offs import BatchTimes, CutOff, Lateness
from yugum.ports.pages import ListPage


class ReportStore(Protocol):
    async def cut_offs(
        self, begin: datetime, until: datetime, cursor: str | None, limit: int
    ) -> ListPage[CutOff]:
        """Every account that a leaver docket was to shut whose person's access ended between two moments."""
        ...

    async def lateness(self, begin: datetime, until: datetime) -> Sequence[tuple[Lateness, int]]:
        """How many of these there are by how long they took; each word once."""
        ...

    async def batch(self, batch_id: str) -> BatchTimes:
        """How the dockets stand that were confirmed together; of none all is nought."""
        ...
