"""How far a step that moves many things has come, written down while it is at it."""

from __future__ import annotations

import asyncio
from collections import deque
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager

import structlog

from yugum.ports.telling import told_to
from yugum.ports.units import Database

log = structlog.get_logger("yugum.work")
EVERY = 2.0
"""Seconds between two notes: a step that is through sooner writes none."""


@asynccontextmanager
async def counted(database: Database, step_id: str) -> AsyncIterator[None]:
    """What runs inside is noted as it tells how many things are left; what keeps a note from being written keeps nothing else."""
    told: deque[int] = deque(maxlen=1)

    async def write() -> None:
        while True:
            await asyncio.sleep(EVERY)
            if not told:
                continue
            try:
                async with database.unit(alone=True) as unit:
                    await unit.dockets.moved(step_id, told.pop())
            except Exception as error:  # noqa: BLE001 - it is only told
                log.warning("progress not noted", step=step_id, error=str(error))

    writing = asyncio.create_task(write())
    try:
        with told_to(told.append):
            yield
    finally:
        writing.cancel()
        await asyncio.gather(writing, return_exceptions=True)
