"""What a worker may call, in step with all the others: shares, pauses, ceilings, stops, cut-offs."""

from __future__ import annotations

from collections.abc import Mapping

from yugum.core.applications import Application
from yugum.engine.work.permits import Permits
from yugum.engine.work.precedence import Precedence
from yugum.ports.gates import Stop
from yugum.ports.units import Database, UnitOfWork

CUTTING_SECONDS = 0.25
"""How often workers tell each other of cut-offs in hand; what they said is good for four times that."""
SLICE_SECONDS = 3.0
"""How long a worker's share of an application's permits is good for."""


class Sharing:
    """A worker's part of what applications allow to all workers together."""

    def __init__(
        self, database: Database, worker: str, concurrency: int, precedence: Precedence
    ) -> None:
        self._database = database
        self._worker = worker
        self._concurrency = concurrency
        self._precedence = precedence
        self._permits: dict[str, Permits] = {}
        self._applications: dict[str, Application] = {}
        self._stop: Stop | None = None

    def permits_of(self, application_id: str) -> Permits:
        """The permits of an application that `share` was called for."""
        return self._permits[application_id]

    def is_new(self, application: Application) -> bool:
        """Whether an application, as it is now, still needs its share."""
        return self._applications.get(application.id) != application

    async def share(self, unit: UnitOfWork, applications: Mapping[str, Application]) -> None:
        """Take shares of these applications too."""
        self._applications |= applications
        await self._renew(unit, busy=True)

    async def renew(self, busy: bool) -> None:
        """See who has stopped what, and while ``busy`` renew the shares."""
        async with self._database.unit() as unit:
            await self._renew(unit, busy=busy)

    async def _renew(self, unit: UnitOfWork, *, busy: bool) -> None:
        self._stop = await unit.gates.stopped()
        if not busy:
            return
        shares = await unit.gates.share(self._worker, list(self._applications), SLICE_SECONDS)
        for application_id, share in shares.items():
            profile = self._applications[application_id].profile
            count = max(1, self._concurrency // share.workers)
            rate = profile.calls_per_second / share.workers
            permits = self._permits.get(application_id)
            if permits is None:
                permits = self._permits[application_id] = Permits(count, rate)
            permits.share(count, rate)
            if share.paused:
                permits.pause(share.paused)

    def stopped(self) -> str:
        """Why everything but cut-offs is stopped; empty while work goes on."""
        if self._stop is None:
            return ""
        return f"{self._stop.author} stopped everything but cut-offs: {self._stop.reason}"

    async def pause(self, application_id: str, seconds: float) -> None:
        """Tell all workers that an application asked to slow down."""
        permits = self._permits[application_id]
        if permits.paused >= seconds - 0.5:
            return  # told already
        permits.pause(seconds)
        async with self._database.unit() as unit:
            await unit.gates.pause(application_id, seconds)

    async def ceiling(self, application: Application) -> bool:
        """Whether one more thing may be taken away in an application this hour; it is counted."""
        ceiling = application.profile.ceiling_per_hour
        if not ceiling:
            return True
        async with self._database.unit() as unit:
            return await unit.gates.take_of_ceiling(application.id, ceiling)

    async def give_way(self) -> None:
        """Tell the others of cut-offs in hand, and hear of theirs: nothing else starts meanwhile."""
        mine = self._precedence.coming_through
        if not (mine or self._precedence.holds_back):
            return
        async with self._database.unit() as unit:
            seconds = 4 * CUTTING_SECONDS if mine else 0.0
            theirs = await unit.gates.cutting(self._worker, seconds)
        self._precedence.elsewhere(theirs)

    async def leave(self) -> None:
        """Give all shares up."""
        async with self._database.unit() as unit:
            await unit.gates.leave(self._worker)
