"""Who watches: one look for all of them, however many they are and whatever they watch.

Some watch a docket; an open page watches which nouns have changed.
"""

from __future__ import annotations

import asyncio
from collections.abc import AsyncGenerator
from dataclasses import dataclass, field

import structlog

from yugum.core.views import Noun
from yugum.engine.access import Operator
from yugum.ports.clock import Clock
from yugum.ports.units import Database
from yugum.ports.views import Turns

LOOK_SECONDS = 0.25
"""How often is looked for changes while anybody watches."""
RIGHT_SECONDS = 2.0
"""How long after its right has ended a watcher is let go at the latest."""
log = structlog.get_logger("yugum.watching")


@dataclass(eq=False, slots=True)
class _Watcher:
    """Somebody who watches; ``over`` once the session or token they came with is not good any more.

    ``docket_id`` is "" of who watches everything, to whom ``nouns`` are still to be told.
    """

    docket_id: str
    operator: Operator
    changed: asyncio.Event = field(default_factory=asyncio.Event)
    nouns: set[Noun] = field(default_factory=set)
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
        self._turns: Turns | None = None
        self._unseen: dict[Noun, frozenset[str]] = {}

    async def changes(self, docket_id: str, operator: Operator) -> AsyncGenerator[None, None]:
        """Now, and again whenever a docket has changed, until the operator may not see it any more."""
        watcher = _Watcher(docket_id, operator)
        watcher.changed.set()
        self._begin(watcher)
        try:
            while True:
                await watcher.changed.wait()
                watcher.changed.clear()
                if watcher.over:
                    return
                yield
        finally:
            self._watchers.discard(watcher)

    async def nouns(self, operator: Operator) -> AsyncGenerator[frozenset[Noun] | None, None]:
        """None once it is looked; then what has changed, until the operator may not see it any more.

        What was changed is told again when everybody who was at work then has ended: a change can be
        noticed before others can see it.
        """
        watcher = _Watcher("", operator)
        if self._turns is None:
            async with self._database.unit() as unit:
                self._turns = await unit.views.turns()
        self._begin(watcher)
        try:
            yield None
            while True:
                await watcher.changed.wait()
                watcher.changed.clear()
                if watcher.over:
                    return
                told = frozenset(watcher.nouns)
                watcher.nouns.clear()
                yield told
        finally:
            self._watchers.discard(watcher)

    def _begin(self, watcher: _Watcher) -> None:
        self._watchers.add(watcher)
        if self._looking is None or self._looking.done():
            self._looking = asyncio.create_task(self._look())

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
        self._turns = None
        self._unseen.clear()

    async def _tell(self, known: dict[str, str]) -> dict[str, str]:
        """Wake whoever watches something that is not as it was."""
        watched = sorted({w.docket_id for w in self._watchers} - {""})
        some = [w for w in self._watchers if not w.docket_id]
        found: dict[str, str] = {}
        async with self._database.unit() as unit:
            if watched:
                now = await self._clock.now(unit)
                found = dict(await unit.dockets.versions(watched, now))
            changed = self._changed(await unit.views.turns()) if some else set()
        for watcher in some if changed else ():
            watcher.nouns |= changed
            watcher.changed.set()
        # Of what was not watched before it may have changed since it was first shown.
        for watcher in self._watchers:
            if watcher.docket_id and found.get(watcher.docket_id) != known.get(watcher.docket_id):
                watcher.changed.set()
        return found

    def _changed(self, turns: Turns) -> set[Noun]:
        """What is not as at the last look, or could not be seen by everybody then."""
        before = self._turns.last if self._turns else {}
        changed = {noun for noun, last in turns.last.items() if before.get(noun) != last}
        seen = {noun for noun, then in self._unseen.items() if not then & turns.running}
        for noun in seen:
            del self._unseen[noun]
        if turns.running:
            self._unseen |= dict.fromkeys(changed, turns.running)
        self._turns = turns
        return changed | seen

    async def _let_go(self) -> None:
        """End the streams of those whose session or token is not good any more, or less than it was."""
        async with self._database.unit() as unit:
            roles = await unit.operators.roles(sorted({w.key for w in self._watchers}))
        for watcher in self._watchers:
            if roles.get(watcher.key) is not watcher.operator.role:
                watcher.over = True
                watcher.changed.set()
