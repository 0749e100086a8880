"""Permits: how many calls an application gets at once, cut-offs first."""

from __future__ import annotations

import asyncio
import heapq
import itertools


class Permits:
    """A semaphore whose waiters are served by priority (lower first), then in order."""

    def __init__(self, count: int) -> None:
        self._free = count
        self._line: list[tuple[int, int, asyncio.Future[None]]] = []
        self._number = itertools.count()

    def hold(self, priority: int) -> Held:
        """A permit for the length of an ``async with``."""
        return Held(self, priority)

    async def acquire(self, priority: int) -> None:
        if self._free > 0:
            self._free -= 1
            return
        future: asyncio.Future[None] = asyncio.get_running_loop().create_future()
        heapq.heappush(self._line, (priority, next(self._number), future))
        try:
            await future
        except asyncio.CancelledError:
            if future.done() and not future.cancelled():
                self.release()
            raise

    def release(self) -> None:
        while self._line:
            _, _, future = heapq.heappop(self._line)
            if not future.done():
                future.set_result(None)
                return
        self._free += 1


class Held:
    """One permit; a plain class, since this is passed at every call."""

    __slots__ = ("_permits", "_priority")

    def __init__(self, permits: Permits, priority: int) -> None:
        self._permits = permits
        self._priority = priority

    async def __aenter__(self) -> None:
        await self._permits.acquire(self._priority)

    async def __aexit__(self, *_: object) -> None:
        self._permits.release()
