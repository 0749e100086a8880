"""Permits: how many calls an application gets at once, cut-offs first."""

from __future__ import annotations

import asyncio
import heapq
import itertools
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager


class Permits:
    """A semaphore whose waiters are served by priority (lower first), then in order."""

    def __init__(self, count: int) -> None:
        self._free = count
        self._line: list[tuple[int, int, asyncio.Future[None]]] = []
        self._number = itertools.count()

    @asynccontextmanager
    async def hold(self, priority: int) -> AsyncIterator[None]:
        await self._acquire(priority)
        try:
            yield
        finally:
            self._release()

    async def _acquire(self, priority: int) -> None:
        if self._free > 0:
            self._free -= 1
            return
        future: asyncio.Future[None] = asyncio.get_running_loop().create_future()
        heapq.heappush(self._line, (priority, next(self._number), future))
        try:
            await future
        except asyncio.CancelledError:
            if future.done() and not future.cancelled():
                self._release()
            raise

    def _release(self) -> None:
        while self._line:
            _, _, future = heapq.heappop(self._line)
            if not future.done():
                future.set_result(None)
                return
        self._free += 1
