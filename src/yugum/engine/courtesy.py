"""What lasts gives way to people: long work in the service's process pauses while they are answered.

The service has one event loop. A reading keeps it busy page after page, and whoever opens a page of
the console waits for its turn between two of them.
"""

from __future__ import annotations

import asyncio
import time

QUIET = 0.1
"""Seconds after an answer in which the next question is expected."""
MOST = 0.25
"""Seconds for which one page of a reading gives way at most: it goes on, however much is asked."""


class Courtesy:
    def __init__(self) -> None:
        self._answered = float("-inf")

    def answered(self) -> None:
        """Somebody was answered just now."""
        self._answered = time.monotonic()

    async def give_way(self) -> None:
        """Wait until nobody was answered for ``QUIET`` seconds, at most ``MOST`` of them."""
        began = time.monotonic()
        while (left := self._answered + QUIET - (now := time.monotonic())) > 0:
            if now - began >= MOST:
                return
            await asyncio.sleep(min(left, began + MOST - now))
