"""Rules as numbered versions; the newest is in force."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol

from yugum.ports.pages import ListPage


@dataclass(frozen=True, slots=True, kw_only=True)
class RulesVersion:
    """One version: as written, and as read (``document``, JSON text)."""

    version: int
    document: str
    text: str
    adopted_at: datetime
    adopted_by: str
    note: str


class RuleStore(Protocol):
    async def current(self) -> RulesVersion | None:
        """The version in force; None while there are no rules."""
        ...

    async def adopt(self, document: str, text: str, at: datetime, by: str, note: str) -> int:
        """Store the next version and return its number; two adoptions at once get two numbers."""
        ...

    async def version(self, number: int) -> RulesVersion:
        """One version.

        Raises:
            NotFound: there is no such version.
        """
        ...

    async def before(self, version: int) -> Sequence[RulesVersion]:
        """Every version before one, the first one first."""
        ...

    async def page(self, cursor: str | None, limit: int) -> ListPage[RulesVersion]:
        """The versions there have been, the newest first."""
        ...
