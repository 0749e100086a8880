"""Cut-offs first: other phases wait while anything of this worker is still to be cut off."""

from __future__ import annotations

import asyncio
from collections.abc import Iterator
from contextlib import contextmanager

PATIENCE = 2.0
"""Seconds a lane waits at most: an application that does not answer must not hold up the others."""


class Precedence:
    """Counts what has to go first; the rest waits until there is none of it, or for its patience."""

    def __init__(self) -> None:
        self._ahead = 0
        self._clear = asyncio.Event()
        self._clear.set()

    @property
    def count(self) -> int:
        """How much has to go first now."""
        return self._ahead

    def enter(self) -> None:
        self._ahead += 1
        self._clear.clear()

    def leave(self) -> None:
        self._ahead -= 1
        if self._ahead == 0:
            self._clear.set()

    @contextmanager
    def ahead(self) -> Iterator[None]:
        self.enter()
        try:
            yield
        finally:
            self.leave()

    async def wait(self) -> None:
        """Let cut-offs pass."""
        if self._clear.is_set():
            return
        try:
            await asyncio.wait_for(self._clear.wait(), PATIENCE)
        except TimeoutError:
            return
