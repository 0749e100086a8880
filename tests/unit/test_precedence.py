"""Cut-offs first: who waits for whom, and for how long."""

from __future__ import annotations

import asyncio

import pytest

from yugum.core.actions import Phase
from yugum.engine import precedence
from yugum.engine.permits import Permits, Turn, priority
from yugum.engine.precedence import Precedence


@pytest.fixture
def _short(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(precedence, "PATIENCE", 0.05)


@pytest.mark.usefixtures("_short")
def test_others_wait_as_long_as_cut_offs_keep_coming_through() -> None:
    async def scene() -> tuple[int, int]:
        first = Precedence()
        for _ in range(10):
            first.enter()
        waiting = asyncio.create_task(first.wait())
        waited_for = 0
        for _ in range(10):  # together far longer than the patience
            await asyncio.sleep(0.02)
            waited_for += not waiting.done()
            first.leave()
        await waiting
        return waited_for, first.count

    assert asyncio.run(scene()) == (10, 0)


@pytest.mark.usefixtures("_short")
def test_an_application_that_does_not_answer_holds_nobody_up_for_long() -> None:
    async def scene() -> bool:
        first = Precedence()
        first.enter()
        await asyncio.wait_for(first.wait(), 5)
        first.enter()  # somebody new to be cut off: again the others wait, again not for ever
        again = asyncio.create_task(first.wait())
        await asyncio.sleep(0)
        waits = not again.done()
        await asyncio.wait_for(again, 5)
        return waits

    assert asyncio.run(scene())


def test_an_account_is_cut_off_before_another_is_read_back() -> None:
    async def scene() -> list[str]:
        permits = Permits(1)
        order: list[str] = []

        async def call(name: str, phase: Phase, turn: Turn, urgent: bool = False) -> None:
            async with permits.hold(priority(phase, turn, urgent=urgent)):
                order.append(name)
                await asyncio.sleep(0)

        await permits.acquire(0)
        calls = [
            asyncio.create_task(call("grant", Phase.HAND_OVER, Turn.ACT)),
            asyncio.create_task(call("read back", Phase.SECURE, Turn.READ_BACK)),
            asyncio.create_task(call("look", Phase.SECURE, Turn.LOOK)),
            asyncio.create_task(call("cut off", Phase.SECURE, Turn.ACT)),
            asyncio.create_task(
                call("urgent read back", Phase.SECURE, Turn.READ_BACK, urgent=True)
            ),
        ]
        await asyncio.sleep(0)
        permits.release()
        await asyncio.gather(*calls)
        return order

    assert asyncio.run(scene()) == ["urgent read back", "cut off", "look", "read back", "grant"]


def test_nothing_else_starts_while_another_worker_cuts_off() -> None:
    async def scene() -> list[bool]:
        mine = Precedence()
        with mine.ahead():
            assert mine.coming_through
            mine.elsewhere(cutting=True)
        waiting = asyncio.create_task(mine.wait())
        await asyncio.sleep(0.01)
        seen = [mine.coming_through, mine.holds_back, waiting.done()]
        mine.elsewhere(cutting=False)
        await asyncio.wait_for(waiting, 1)
        return [*seen, mine.holds_back]

    assert asyncio.run(scene()) == [False, True, False, False]
