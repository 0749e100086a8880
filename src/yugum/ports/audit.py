"""The audit log: events inserted freely, sealed in order below the snapshot's horizon."""

from __future__ import annotations

from collections.abc import AsyncIterator, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol

from yugum.core.documents import Document
from yugum.core.merkle import Frontier
from yugum.ports.pages import ListPage


@dataclass(frozen=True, slots=True, kw_only=True)
class Event:
    """Something for the audit log; ``payload`` is None once it was erased."""

    id: str
    at: datetime
    actor: str
    action: str
    subject: str
    docket_id: str | None
    payload: Document | None
    salt: bytes
    digest: bytes


@dataclass(frozen=True, slots=True, kw_only=True)
class SealedEvent(Event):
    """An event with its place in the Merkle log."""

    leaf_index: int


@dataclass(frozen=True, slots=True, kw_only=True)
class EventLine:
    """An event in a list; without a place while it is not sealed.

    ``subject_name`` is of whoever it is about, where that is somebody who is known still.
    """

    id: str
    at: datetime
    machine_at: datetime
    actor: str
    action: str
    subject: str
    docket_id: str | None
    payload: Document | None
    leaf_index: int | None
    subject_name: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Head:
    """A signed head of the log: over the first ``size`` events."""

    size: int
    root: bytes
    frontier: Frontier
    signature: bytes


class AuditStore(Protocol):
    async def add(self, events: Sequence[Event]) -> None:
        """Insert events; they are sealed later."""
        ...

    async def unsealed(self, limit: int) -> Sequence[Event]:
        """Events no running transaction can come before any more; nothing while another seals."""
        ...

    async def head(self) -> Head | None:
        """The newest head."""
        ...

    async def seal(self, places: Sequence[tuple[str, int]], head: Head) -> None:
        """Give events their places, by id, and store the head over them."""
        ...

    async def page(
        self,
        *,
        subject: str = "",
        docket_id: str = "",
        action: str = "",
        cursor: str | None = None,
        limit: int = 50,
    ) -> ListPage[EventLine]:
        """Events, the newest first."""
        ...

    def export(self) -> AsyncIterator[SealedEvent]:
        """Sealed events in the order of the log, streamed."""
        ...
