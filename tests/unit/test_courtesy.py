"""Long work gives way to people, and goes on all the same."""

from __future__ import annotations

import asyncio

from yugum.engine.courtesy import Courtesy


async def test_whoever_asks_again_soon_goes_first() -> None:
    courtesy, order = Courtesy(), []

    async def person() -> None:
        for number in range(3):
            courtesy.answered()
            await asyncio.sleep(0.02)
            order.append(number)

    asking = asyncio.create_task(person())
    await asyncio.sleep(0)
    await courtesy.give_way()
    order.append(9)
    await asking
    assert order == [0, 1, 2, 9]


async def test_it_goes_on_however_much_is_asked() -> None:
    courtesy = Courtesy()

    async def everybody() -> None:
        while True:
            courtesy.answered()
            await asyncio.sleep(0.01)

    asking = asyncio.create_task(everybody())
    async with asyncio.timeout(10):
        for _ in range(3):
            await courtesy.give_way()
    asking.cancel()


async def test_nobody_is_waited_for_where_nobody_asks() -> None:
    async with asyncio.timeout(0):
        await Courtesy().give_way()
