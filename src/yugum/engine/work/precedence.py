"""Cut-offs first: other phases wait while anything is still to be cut off, by whichever worker."""

from __future__ import annotations

import asyncio
from collections.abc import Iterator
from contextlib import contextmanager

PATIENCE = 2.0
"""Seconds without any cut-off coming through after which the others go on: an application that
does not answer must not hold up everything else."""


STILL = 0.25
"""Seconds without a cut-off made after which nobody waits any longer to look back."""
LONGEST = 15.0
"""Seconds after which somebody looks back all the same."""


class Lookback:
    """Cut-offs are all made before any is looked back at: reading back takes what others need.

    Who waits goes on when none is left to be made, when none was made for a quarter of a second, as
    when an application does not answer, and at the latest after fifteen seconds.
    """

    def __init__(self) -> None:
        self._left = 0
        self._made = 0
        self._open = asyncio.Event()
        self._watch: asyncio.TimerHandle | None = None
        self._since = 0.0

    @property
    def left(self) -> int:
        """How many are still to be made."""
        return self._left

    def enter(self) -> None:
        """One more is to be made."""
        self._left += 1
        if self._watch is None:
            loop = asyncio.get_running_loop()
            self._open = asyncio.Event()
            self._since = loop.time()
            self._watch = loop.call_later(STILL, self._look, self._made)

    def leave(self) -> None:
        """One is made, or is not to be had now."""
        self._left -= 1
        self._made += 1
        if self._left == 0 and self._watch is not None:
            self._watch.cancel()
            self._watch = None
            self._open.set()

    async def wait(self) -> None:
        if self._left:
            await self._open.wait()

    def _look(self, made: int) -> None:
        loop = asyncio.get_running_loop()
        if self._made == made or loop.time() - self._since >= LONGEST:
            self._open.set()
            self._open = asyncio.Event()
            self._since = loop.time()
        self._watch = loop.call_later(STILL, self._look, self._made)


class Precedence:
    """Counts what has to go first; the rest waits until there is none of it, or it comes to rest.

    While cut-offs keep coming through, however many there are, nothing else starts.
    """

    def __init__(self) -> None:
        self._ahead = 0
        self._passed = 0
        self._elsewhere = False
        self._open = asyncio.Event()
        self._open.set()
        self._watch: asyncio.TimerHandle | None = None

    @property
    def count(self) -> int:
        """How much has to go first now."""
        return self._ahead

    @property
    def coming_through(self) -> bool:
        """Whether cut-offs of this worker are in hand and none of them has come to rest."""
        return self._watch is not None

    @property
    def holds_back(self) -> bool:
        """Whether anybody who asks has to wait."""
        return not self._open.is_set()

    def elsewhere(self, cutting: bool) -> None:
        """Other workers have cut-offs in hand, or have no more; with none of our own, this counts."""
        self._elsewhere = cutting
        if not cutting and self._watch is None:
            self._open.set()

    def enter(self) -> None:
        self._ahead += 1
        self._open.clear()
        if self._watch is None:
            self._look_again()

    def progress(self) -> None:
        """A cut-off was made: they keep coming through, though none is finished yet."""
        self._passed += 1

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
        if self._watch is not None:
            self._watch.cancel()
            self._watch = None
        if not self._elsewhere:
            self._open.set()
