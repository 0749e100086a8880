"""For tests: a clock that stands still, and a connector that plays what it is told."""

from __future__ import annotations

from collections.abc import AsyncIterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from yugum.core.accounts import Observed, Unreadable
from yugum.core.actions import Action
from yugum.core.applications import Capability
from yugum.errors import ApplicationError
from yugum.ports import AccountRef, Discovery


@dataclass(slots=True)
class FixedClock:
    """Business time that only moves when it is set."""

    moment: datetime

    async def now(self) -> datetime:
        return self.moment


@dataclass(slots=True)
class ScriptedConnector:
    """Shows ``pages`` and fails with ``error`` after them, if there is one."""

    pages: Sequence[Sequence[Observed | Unreadable]] = ()
    error: ApplicationError | None = None
    can: frozenset[Capability] = frozenset(Capability)
    acted: list[tuple[Action, str]] = field(default_factory=list)
    call_timeout: float = 5.0

    async def discover(self) -> Discovery:
        return Discovery(self.can)

    async def read(
        self, since: datetime | None = None
    ) -> AsyncIterator[Sequence[Observed | Unreadable]]:
        for page in self.pages:
            yield page
        if self.error is not None:
            raise self.error

    async def observe(self, ref: AccountRef, *, assets: bool = False) -> Observed | None:
        rows = (r for page in self.pages for r in page if isinstance(r, Observed))
        return next((r for r in rows if r.external_id == ref.external_id), None)

    async def act(
        self,
        action: Action,
        ref: AccountRef,
        item: str,
        arguments: Mapping[str, Any],
        secret: str = "",
    ) -> Mapping[str, Any]:
        self.acted.append((action, item))
        return {}

    async def close(self) -> None:
        return None


@dataclass(slots=True)
class OneConnector:
    """The same connector for every application."""

    connector: ScriptedConnector

    async def of(self, application_id: str) -> ScriptedConnector:
        return self.connector
