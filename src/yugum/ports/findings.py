"""Findings, computed when asked for."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Protocol

from yugum.core.findings import Finding, FindingCount, FindingKind
from yugum.ports.pages import ListPage


class FindingStore(Protocol):
    async def page(
        self, now: datetime, *, kind: FindingKind | None, cursor: str | None, limit: int
    ) -> ListPage[Finding]:
        """Findings by kind and login."""
        ...

    async def counts(self, now: datetime) -> Sequence[FindingCount]:
        """How many there are of each kind that there are any of."""
        ...
