"""Cut-offs first: other phases wait while anything of this worker is still to be cut off."""

from __future__ import annotations

import asyncio
from collections.abc import Iterator
from contextlib import contextmanager

PATIENCE = 2.0
"""Seconds without any cut-off coming through after which the others go on: an application that
does not answer must not hold up everything else."""


class Precedence:
    """Counts what has to go first; the rest waits until there is none of it, or it comes to rest.

    While cut-offs keep coming through, however many there are, nothing else starts.
    """

    def __init__(self) -> None:
        self._ahead = 0
        self._passed = 0
        self._open = asyncio.Event()
        self._open.set()
        self._watch: asyncio.TimerHandle | None = None

    @property
    def count(self) -> int:
        """How much has to go first now."""
        return self._ahead

    def enter(self) -> None:
        self._ahead += 1
        if self._open.is_set():
            self._open.clear()
            self._look_again()

    def leave(self) -> None:
        self._ahead -= 1
        self._passed += 1
        if self._ahead == 0:
            self._go_on()

    @contextmanager
    def ahead(self) -> Iterator[None]:
        self.enter()
        try:
            yield
        finally:
            self.leave()

    async def wait(self) -> None:
        """Let cut-offs pass."""
        await self._open.wait()

    def _look_again(self) -> None:
        loop = asyncio.get_running_loop()
        self._watch = loop.call_later(PATIENCE, self._progress, self._passed)

    def _progress(self, passed: int) -> None:
        if self._passed == passed:
            self._go_on()
        else:
            self._look_again()

    def _go_on(self) -> None:
        self._open.set()
        if self._watch is not None:
            self._watch.cancel()
            self._watch = None
