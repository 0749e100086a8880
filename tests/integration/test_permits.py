"""The worker's small machines in real time: permits, group commit, precedence."""

from __future__ import annotations

import asyncio
import time
from collections.abc import Sequence

from yugum.engine.work.batching import Batcher
from yugum.engine.work.permits import Permits
from yugum.engine.work.precedence import Precedence


async def test_a_cut_off_passes_a_line_and_takes_what_is_kept() -> None:
    permits = Permits(8)
    order: list[str] = []

    async def call(name: str, priority: int) -> None:
        async with permits.hold(priority):
            order.append(name)
            await asyncio.sleep(0.01)

    bulk = [asyncio.create_task(call(f"bulk{n}", 12)) for n in range(20)]
    await asyncio.sleep(0)
    assert len(order) == 0 or len(order) <= 7
    await asyncio.sleep(0.001)
    assert len(order) == 7  # the eighth is kept
    await call("cut-off", 0)
    assert order.index("cut-off") == 7
    await asyncio.gather(*bulk)


async def test_a_pause_holds_all_but_cut_offs_and_ends_by_itself() -> None:
    permits = Permits(4)
    permits.pause(0.15)
    began = time.monotonic()
    async with permits.hold(0):
        secure = time.monotonic() - began
    async with permits.hold(12):
        other = time.monotonic() - began
    assert secure < 0.1 < other
    assert permits.paused == 0.0


async def test_a_rate_is_kept_and_a_cut_off_does_not_wait_for_the_bulk() -> None:
    permits = Permits(50, rate=40)
    done: list[tuple[str, float]] = []
    began = time.monotonic()

    async def call(name: str, priority: int) -> None:
        async with permits.hold(priority):
            done.append((name, time.monotonic() - began))

    bulk = [asyncio.create_task(call("bulk", 12)) for _ in range(60)]
    await asyncio.sleep(0.05)
    await call("cut-off", 0)
    place = [name for name, _ in done].index("cut-off")
    await asyncio.gather(*bulk)
    assert place < 45  # those that went before it was asked for, no more
    assert done[-1][1] > 0.3  # 61 calls are not made in less than the rate allows


async def test_a_smaller_share_lets_calls_in_flight_end() -> None:
    permits = Permits(2)
    await permits.acquire(12)
    await permits.acquire(12)
    permits.share(1, 0.0)
    waiting = asyncio.create_task(permits.acquire(12))
    permits.release()
    await asyncio.sleep(0)
    assert not waiting.done()
    permits.release()
    await asyncio.wait_for(waiting, 1)


async def test_many_callers_share_a_flush_and_each_gets_its_own_result() -> None:
    flushes: list[int] = []

    async def flush(items: Sequence[int]) -> Sequence[int]:
        flushes.append(len(items))
        await asyncio.sleep(0.01)
        return [i * 2 for i in items]

    batcher: Batcher[int, int] = Batcher(flush, limit=10)
    assert await asyncio.gather(*(batcher.submit(n) for n in range(25))) == [
        n * 2 for n in range(25)
    ]
    assert len(flushes) <= 4
    assert max(flushes) <= 10


async def test_a_bad_item_fails_nobody_else() -> None:
    async def flush(items: Sequence[int]) -> Sequence[int]:
        if 3 in items:
            raise ValueError("three")
        return list(items)

    batcher: Batcher[int, int] = Batcher(flush)
    results = await asyncio.gather(*(batcher.submit(n) for n in range(6)), return_exceptions=True)
    assert [isinstance(r, ValueError) for r in results] == [n == 3 for n in range(6)]


async def test_permits_go_to_the_most_urgent_and_a_cancelled_one_is_not_lost() -> None:
    permits = Permits(1)
    order: list[str] = []

    async def take(name: str, priority: int) -> None:
        async with permits.hold(priority):
            order.append(name)
            await asyncio.sleep(0.01)

    first = asyncio.create_task(take("first", 5))
    await asyncio.sleep(0)
    tasks = [asyncio.create_task(take(n, p)) for n, p in (("late", 9), ("gone", 1), ("cut", 0))]
    await asyncio.sleep(0)
    tasks[1].cancel()
    await asyncio.gather(first, *tasks, return_exceptions=True)
    assert order == ["first", "cut", "late"]
    async with permits.hold(0):
        pass


async def test_others_wait_for_cut_offs() -> None:
    precedence = Precedence()
    await precedence.wait()
    precedence.enter()
    waiting = asyncio.create_task(precedence.wait())
    await asyncio.sleep(0.02)
    assert not waiting.done()
    assert precedence.count == 1
    precedence.leave()
    await asyncio.wait_for(waiting, 1)
