"""Findings, computed when asked for."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Protocol

from yugum.core.findings import Finding, FindingCount, FindingKind
from yugum.ports.pages import ListPage

Pair = tuple[str, str, str]
"""An application, a license, and a group that goes with a seat of it."""


class FindingStore(Protocol):
    async def page(
        self,
        now: datetime,
        *,
        kind: FindingKind | None,
        cursor: str | None,
        limit: int,
        pairs: Sequence[Pair] = (),
    ) -> ListPage[Finding]:
        """Findings by kind, each in its order."""
        ...

    async def counts(
        self, now: datetime, *, priced: bool = True, pairs: Sequence[Pair] = ()
    ) -> Sequence[FindingCount]:
        """How many there are of each kind that there are any of; what they cost, unless not asked for."""
        ...

    async def compare_names(self) -> None:
        """Note who is alike, in case it was missed."""
        ...

    async def put_aside(self, now: datetime) -> int:
        """Some of those who left and have nothing open are not looked at any more; how many."""
        ...
