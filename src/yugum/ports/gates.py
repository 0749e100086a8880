"""What limits calls to applications over all workers. Machine time throughout."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol


@dataclass(frozen=True, slots=True)
class Share:
    """Among how many workers an application's permits go, and the seconds it is paused for."""

    workers: int
    paused: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Stop:
    """Who stopped everything but cut-offs, why and since when."""

    author: str
    reason: str
    since_at: datetime


class GateStore(Protocol):
    async def share(
        self, worker: str, application_ids: Sequence[str], seconds: float
    ) -> Mapping[str, Share]:
        """Say that ``worker`` calls these applications for so long; with how many others it does."""
        ...

    async def leave(self, worker: str) -> None:
        """Give up a worker's shares."""
        ...

    async def cutting(self, worker: str, seconds: float) -> bool:
        """Say that ``worker`` has cut-offs in hand for so long; whether any other worker has."""
        ...

    async def pause(self, application_id: str, seconds: float) -> None:
        """Let no worker call an application for so long, but for cut-offs."""
        ...

    async def take_of_ceiling(self, application_id: str, ceiling: int) -> bool:
        """Count one step that takes something away; False when the hour's ceiling is reached."""
        ...

    async def stopped(self) -> Stop | None:
        """The stop that is in force, if there is one."""
        ...

    async def stop(self, author: str, reason: str) -> None:
        """Stop everything but cut-offs; a second stop changes nothing."""
        ...

    async def go_on(self) -> None:
        """Lift the stop."""
        ...
