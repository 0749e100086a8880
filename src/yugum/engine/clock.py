"""Business time: the machine's, or a demo's simulated one that stops at every due moment."""

from __future__ import annotations

import asyncio
import time
from dataclasses import dataclass
from datetime import UTC, datetime
from datetime import time as day_time

from yugum.core.dates import parse_moment
from yugum.core.offsets import SHIFT_ENDS
from yugum.engine.context import zone_of
from yugum.engine.finding_days import count_today
from yugum.engine.schedule import Remind, tick
from yugum.errors import Conflict
from yugum.ports.units import Database, UnitOfWork

# Before and after the move, together well below what a client waits for an answer.
DRAIN_SECONDS = 30.0


class BusinessClock:
    """Reads the clock's row; a simulated moment is asked for anew each time."""

    def __init__(self, database: Database) -> None:
        self._database = database
        self._real: bool | None = None

    async def now(self, unit: UnitOfWork | None = None) -> datetime:
        if self._real:
            return datetime.now(UTC)
        if unit is None:
            async with self._database.unit() as own:
                return await self.now(own)
        simulated, moment = await unit.clock.read()
        if self._real is None:
            installation = await unit.views.installation()
            # Only a demo can ever simulate, so anybody else need not ask again.
            self._real = installation is not None and not installation.demo
        return moment if simulated and moment else datetime.now(UTC)


@dataclass(frozen=True, slots=True, kw_only=True)
class ClockReading:
    """Business time, and the installation's zone."""

    now: datetime
    simulated: bool
    zone: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Advance:
    """How far simulated time was moved: ``reached`` its target, ``due`` so much by it.

    ``drained``: all that was due was worked off.
    """

    now: datetime
    target: datetime
    reached: bool
    drained: bool
    due: int


class Clock:
    """The clock for operators of a demo."""

    def __init__(self, database: Database, clock: BusinessClock, remind: Remind) -> None:
        self._database = database
        self._clock = clock
        self._remind = remind

    async def read(self) -> ClockReading:
        async with self._database.unit() as unit:
            simulated, moment = await unit.clock.read()
            zone = await zone_of(unit)
        now = moment if simulated and moment else datetime.now(UTC)
        return ClockReading(now=now, simulated=simulated, zone=zone)

    async def moment(self, said: str, who: str, *, day_begins: bool) -> tuple[datetime, str]:
        """The moment that words name for somebody, and in which zone; without anybody, for the installation.

        ``day_begins``: a day alone is its beginning, else the end of the shift.

        Raises:
            InvalidInput: the words are unclear.
        """
        state = await self.read()
        zone = state.zone
        if who:
            async with self._database.unit() as unit:
                zone = (await unit.people.resolve(who)).time_zone
        default = day_time(0) if day_begins else SHIFT_ENDS
        return parse_moment(said, state.now, zone, default=default), zone

    async def advance(self, to: str) -> Advance:
        """Move to the next due moment on the way to ``to``, and wait until its work has drained.

        Call again until ``reached``; between two calls it can be left off at any time.
        """
        state = await self.read()
        if not state.simulated:
            raise Conflict(
                "Time is real here and cannot be advanced.",
                remedy="Start a demo: scripts/demo --fresh.",
            )
        target = parse_moment(to, state.now, state.zone)
        await self._drain()
        async with self._database.unit() as unit:
            following = await unit.obligations.next_moment(state.now)
            stop = min(target, following) if following else target
            if stop > state.now:
                await unit.clock.set(stop)
        due = await tick(self._database, stop, self._remind)
        if due:
            async with self._database.unit() as unit:
                await unit.hint()
        drained = await self._drain()
        await count_today(self._database, stop)
        return Advance(now=stop, target=target, reached=stop >= target, drained=drained, due=due)

    async def _drain(self) -> bool:
        """Wait until no subject is leased or due (those waiting for a retry do not count)."""
        until = time.monotonic() + DRAIN_SECONDS
        while time.monotonic() < until:
            async with self._database.unit() as unit:
                working = await unit.leases.working()
            if not working:
                return True
            await asyncio.sleep(0.05)
        return False
