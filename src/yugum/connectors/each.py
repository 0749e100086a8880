"""Many calls of one step, some at a time."""

from __future__ import annotations

import asyncio
from collections.abc import Awaitable, Callable, Sequence
from typing import TypeVar

from yugum.ports.telling import tell

T = TypeVar("T")
AT_A_TIME = 8
"""Calls of one step that are under way at once."""


async def each(things: Sequence[T], do: Callable[[T], Awaitable[None]]) -> None:
    """Do something with each thing, telling how many are left; the first error ends all of it, with what is under way."""
    waiting, left = iter(things), len(things)

    async def some() -> None:
        nonlocal left
        for thing in waiting:  # whoever is free takes the next one
            await do(thing)
            left -= 1
            tell(left)

    tasks = [asyncio.create_task(some()) for _ in range(AT_A_TIME)]
    try:
        await asyncio.gather(*tasks)
    finally:
        for task in tasks:
            task.cancel()
        await asyncio.gather(*tasks, return_exceptions=True)
