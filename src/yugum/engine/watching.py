"""Who watches dockets: one look for all of them, however many they are and whatever they watch."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncGenerator
from dataclasses import dataclass, field

import structlog

from yugum.engine.access import Operator
from yugum.ports.clock import Clock
from yugum.ports.units import Database

LOOK_SECONDS = 0.25
"""How often is looked for changes while anybody watches."""
RIGHT_SECONDS = 2.0
"""How long after its right has ended a watcher is let go at the latest."""
log = structlog.get_logger("yugum.watching")


@dataclass(eq=False, slots=True)
class _Watcher:
    """Somebody who watches; ``over`` once the session or token they came with is not good any more."""

    docket_id: str
    operator: Operator
    changed: asyncio.Event = field(default_factory=asyncio.Event)
    over: bool = False

    @property
    def key(self) -> str:
        return self.operator.csrf or self.operator.token_id


class Watching:
    def __init__(self, database: Database, clock: Clock) -> None:
        self._database = database
        self._clock = clock
        self._watchers: set[_Watcher] = set()
        self._looking: asyncio.Task[None] | None = None

    async def changes(self, docket_id: str, operator: Operator) -> AsyncGenerator[None, None]:
        """Now, and again whenever a docket has changed, until the operator may not see it any more."""
        watcher = _Watcher(docket_id, operator)
        watcher.changed.set()
        self._watchers.add(watcher)
        if self._looking is None or self._looking.done():
            self._looking = asyncio.create_task(self._look())
        try:
            while True:
                await watcher.changed.wait()
                watcher.changed.clear()
                if watcher.over:
                    return
                yield
        finally:
            self._watchers.discard(watcher)

    async def _look(self) -> None:
        """Look for changes as long as somebody watches."""
        known: dict[str, str] = {}
        checked = asyncio.get_running_loop().time()
        while self._watchers:
            try:
                known = await self._tell(known)
                if asyncio.get_running_loop().time() - checked > RIGHT_SECONDS:
                    await self._let_go()
                    checked = asyncio.get_running_loop().time()
            except Exception as error:  # noqa: BLE001 - a database away for a moment ends no stream
                log.warning("watching failed", error=str(error))
                await asyncio.sleep(4 * LOOK_SECONDS)
            await asyncio.sleep(LOOK_SECONDS)

    async def _tell(self, known: dict[str, str]) -> dict[str, str]:
        """Wake whoever watches something that is not as it was."""
        watched = sorted({w.docket_id for w in self._watchers})
        async with self._database.unit() as unit:
            now = await self._clock.now(unit)
            found = dict(await unit.dockets.versions(watched, now))
        # Of what was not watched before it may have changed since it was first shown.
        for watcher in self._watchers:
            if found.get(watcher.docket_id) != known.get(watcher.docket_id):
                watcher.changed.set()
        return found

    async def _let_go(self) -> None:
        """End the streams of those whose session or token is not good any more, or less than it was."""
        async with self._database.unit() as unit:
            roles = await unit.operators.roles(sorted({w.key for w in self._watchers}))
        for watcher in self._watchers:
            if roles.get(watcher.key) is not watcher.operator.role:
                watcher.over = True
                watcher.changed.set()
