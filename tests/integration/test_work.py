"""What a worker does with a claim, on real PostgreSQL."""

from __future__ import annotations

import asyncio
from collections.abc import Sequence
from types import SimpleNamespace
from typing import Any

from tests.builders import person
from yugum.engine.standing import look, sweep
from yugum.engine.work.worker import Worker
from yugum.ports.units import UnitOfWork
from yugum.settings import Settings
from yugum.storage.database import PostgresDatabase
from yugum.testing import FixedClock

from .test_storage import NOW


class SlowPlanning:
    """Stands for a beginner of whose dockets ``p1``'s must be planned again, which takes long."""

    def __init__(self) -> None:
        self.planned = asyncio.Event()

    async def begin(self, unit: UnitOfWork, subject_ids: Sequence[str]) -> Sequence[Any]:
        return [SimpleNamespace(subject_id=i) for i in subject_ids if i == "p1"]

    async def plan_again(self, rows: Sequence[Any]) -> None:
        await self.planned.wait()


async def test_whose_docket_is_planned_again_holds_up_nobody_else(
    database: PostgresDatabase,
) -> None:
    async with database.unit() as unit:
        await unit.people.insert(
            [person(), person(id="p2", user_name="bo"), person(id="p3", user_name="cy")]
        )
        await unit.leases.wake(["p1", "p2"], priority=5)
    while await look(database, FixedClock(NOW)) or await sweep(database):
        continue
    nothing: Any = None
    worker = Worker(
        database, nothing, FixedClock(NOW), nothing, nothing, Settings(), "w", *6 * (nothing,)
    )
    slow: Any = SlowPlanning()
    worker._subjects._beginner = slow

    async def until(done: int) -> set[str]:
        async with asyncio.timeout(10):
            while worker.subjects_done < done:
                await asyncio.sleep(0.02)
        return {subject_id for subject_id, _ in worker._held._good_until}

    async with asyncio.timeout(10):
        await worker._claim()
    assert await until(1) == {"p1"}
    async with database.unit() as unit:
        await unit.leases.wake(["p3"], priority=1)
    async with asyncio.timeout(10):  # the next claim is made, too
        await worker._claim()
    assert await until(2) == {"p1"}
    slow.planned.set()
    assert await until(3) == set()
    async with database.unit() as unit:
        assert await unit.leases.working() == 0
