"""Permits: cut-offs first, a share kept for them, pauses and rates."""

from __future__ import annotations

import asyncio
import time

from yugum.engine.work.permits import Permits


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
