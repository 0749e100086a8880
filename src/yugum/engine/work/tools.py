"""What every lane of a worker shares."""

from __future__ import annotations

from collections.abc import Awaitable, Callable
from dataclasses import dataclass

from yugum.core.applications import Application
from yugum.engine.work.claims import SeatDesk
from yugum.engine.work.journal import Journal
from yugum.engine.work.permits import Permits
from yugum.engine.work.precedence import Lookback, Precedence
from yugum.ports.clock import Clock
from yugum.ports.connectors import Connectors
from yugum.ports.services import Vault
from yugum.ports.units import Database


@dataclass(frozen=True, slots=True, kw_only=True)
class LaneTools:
    """What every lane of a worker shares. ``check`` raises LeaseLost when too little time is left.

    ``stopped`` says why everything but cut-offs is stopped, "" while work goes on; ``pause`` tells
    all workers that an application asked to slow down for so many seconds; ``ceiling`` is whether one
    more thing may be taken away this hour.
    """

    database: Database
    connectors: Connectors
    clock: Clock
    vault: Vault
    journal: Journal
    desk: SeatDesk
    permits: Callable[[str], Permits]
    precedence: Precedence
    lookback: Lookback
    check: Callable[[str, int, float], None]
    retry_base: float
    on_intent: Callable[[], None]
    stopped: Callable[[], str]
    pause: Callable[[str, float], Awaitable[None]]
    ceiling: Callable[[Application], Awaitable[bool]]
