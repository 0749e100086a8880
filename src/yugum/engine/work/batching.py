"""Group commit: many callers, one flush; a flush starts as soon as the one before has ended."""

from __future__ import annotations

import asyncio
from collections.abc import Awaitable, Callable, Sequence
from typing import Generic, TypeVar

Item = TypeVar("Item")
Result = TypeVar("Result")


class Batcher(Generic[Item, Result]):
    """Collects items and hands them to ``flush`` together, at most ``limit`` at once.

    ``flush`` returns one result an item. If it fails for a batch, each item is tried alone, so
    that a bad one fails its own caller and nobody else's. ``linger`` tells how many seconds a
    flush waits for more; 0 takes who is ready now.
    """

    def __init__(
        self,
        flush: Callable[[Sequence[Item]], Awaitable[Sequence[Result]]],
        *,
        limit: int = 256,
        linger: Callable[[], float] = lambda: 0.0,
    ) -> None:
        self._flush = flush
        self._limit = limit
        self._linger = linger
        self._waiting: list[tuple[Item, asyncio.Future[Result]]] = []
        self._running: asyncio.Task[None] | None = None

    async def submit(self, item: Item) -> Result:
        """Hand in one item; returns when its batch is durable."""
        future: asyncio.Future[Result] = asyncio.get_running_loop().create_future()
        self._waiting.append((item, future))
        if self._running is None:
            self._running = asyncio.create_task(self._run())
        return await future

    async def _run(self) -> None:
        try:
            while self._waiting:
                # One turn of the loop lets callers that are ready now join this flush.
                await asyncio.sleep(self._linger())
                batch, self._waiting = self._waiting[: self._limit], self._waiting[self._limit :]
                await self._deliver(batch)
        finally:
            self._running = None

    async def _deliver(self, batch: list[tuple[Item, asyncio.Future[Result]]]) -> None:
        try:
            results = await self._flush([item for item, _ in batch])
        except Exception as error:  # noqa: BLE001 - whoever waits for the item gets it
            if len(batch) == 1:
                _resolve(batch[0][1], error=error)
                return
            for pair in batch:
                await self._deliver([pair])
            return
        for (_, future), result in zip(batch, results, strict=True):
            _resolve(future, result)


def _resolve(
    future: asyncio.Future[Result], result: Result | None = None, error: Exception | None = None
) -> None:
    if future.done():
        return
    if error is not None:
        future.set_exception(error)
    else:
        future.set_result(result)  # type: ignore[arg-type]
