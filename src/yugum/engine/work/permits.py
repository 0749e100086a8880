"""Permits: how many calls an application gets at once and a second, cut-offs first.

A worker's share of an application comes from the database in time slices (``storage.gates``). Part
of it is kept for cut-offs, which also pass while the application has asked everybody to pause.
"""

from __future__ import annotations

import asyncio
import heapq
import itertools
import time
from enum import IntEnum

from yugum.core.actions import PHASE_ORDER, Phase

SECURE = 0
"""Priorities up to this one are cut-offs."""
KEPT = 8
"""One of so many permits is kept for cut-offs, and one of so many calls a second."""


class Turn(IntEnum):
    """Which of the calls of one phase goes first: nobody looks back while an account waits."""

    ACT = 0
    LOOK = 1
    READ_BACK = 2


def priority(phase: Phase, turn: Turn, *, urgent: bool) -> int:
    """Where a step's call stands in line; lower goes first, cut-offs are at most ``SECURE``."""
    if phase is Phase.SECURE:
        return SECURE - len(Turn) * (2 if urgent else 1) + turn
    return (PHASE_ORDER[phase] + (0 if urgent else len(Phase))) * len(Turn) + turn


class Permits:
    """A semaphore with a rate, whose waiters are served by priority (lower first), then in order.

    ``rate`` is in calls a second; 0 sets no limit.
    """

    def __init__(self, count: int, rate: float = 0.0) -> None:
        self._free = self._count = count
        self._rate = rate
        self._tokens = rate
        self._filled = time.monotonic()
        self._paused_until = 0.0
        self._line: list[tuple[int, int, asyncio.Future[None]]] = []
        self._number = itertools.count()
        self._timer: asyncio.TimerHandle | None = None

    def share(self, count: int, rate: float) -> None:
        """From now on so many calls at once and a second; calls in flight go on."""
        if (count, rate) == (self._count, self._rate):
            return
        self._free += count - self._count
        self._count = count
        if rate != self._rate:
            self._tokens = min(self._tokens, rate) if self._rate else rate
            self._rate = rate
        self._serve()

    def pause(self, seconds: float) -> None:
        """Nothing but cut-offs for so long; a shorter pause does not end a longer one."""
        self._paused_until = max(self._paused_until, time.monotonic() + seconds)

    @property
    def paused(self) -> float:
        """Seconds the pause still lasts."""
        return max(0.0, self._paused_until - time.monotonic())

    def hold(self, priority: int) -> Held:
        """A permit for the length of an ``async with``."""
        return Held(self, priority)

    async def acquire(self, priority: int) -> None:
        if not self._line and self._wait_for(priority) == 0.0:
            self._take()
            return
        future: asyncio.Future[None] = asyncio.get_running_loop().create_future()
        heapq.heappush(self._line, (priority, next(self._number), future))
        self._serve()
        try:
            await future
        except asyncio.CancelledError:
            if future.done() and not future.cancelled():
                self.release()
            raise

    def release(self) -> None:
        self._free += 1
        if self._line:
            self._serve()

    def _take(self) -> None:
        self._free -= 1
        if self._rate:
            self._tokens -= 1

    def _wait_for(self, priority: int) -> float | None:
        """Seconds until a call may go: 0 now, None when a permit has to come back first."""
        secure = priority <= SECURE
        kept = 0 if secure or self._count < KEPT else max(1, self._count // KEPT)
        if self._free <= kept:
            return None
        if not secure and self._paused_until > time.monotonic():
            return self.paused
        if not self._rate:
            return 0.0
        now = time.monotonic()
        self._tokens = min(self._rate, self._tokens + (now - self._filled) * self._rate)
        self._filled = now
        needed = 1.0 if secure or self._rate < KEPT else 1.0 + self._rate / KEPT
        return max(0.0, (needed - self._tokens) / self._rate)

    def _serve(self) -> None:
        """Let through whoever may go; look again when time alone opens the way."""
        while self._line:
            priority, _, future = self._line[0]
            if future.done():
                heapq.heappop(self._line)
                continue
            wait = self._wait_for(priority)
            if wait is None:
                return
            if wait > 0.0:
                if self._timer is not None:
                    self._timer.cancel()
                self._timer = asyncio.get_running_loop().call_later(wait, self._serve)
                return
            heapq.heappop(self._line)
            self._take()
            future.set_result(None)


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
