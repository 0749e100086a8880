"""Cut-offs first: who waits for whom, and for how long."""

from __future__ import annotations

import asyncio

import pytest

from yugum.core.actions import Phase
from yugum.engine.work import precedence
from yugum.engine.work.permits import Permits, Turn, priority
from yugum.engine.work.precedence import Lookback, Precedence


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


@pytest.mark.usefixtures("_short")
def test_cut_offs_made_and_not_looked_at_yet_count_as_coming_through() -> None:
    async def scene() -> bool:
        first = Precedence()
        first.enter()
        waiting = asyncio.create_task(first.wait())
        for _ in range(10):
            await asyncio.sleep(0.02)
            first.progress()
        return waiting.done()

    assert not asyncio.run(scene())


def test_nobody_looks_back_while_others_are_cut_off(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(precedence, "STILL", 0.1)

    async def scene() -> list[bool]:
        back = Lookback()
        await asyncio.wait_for(back.wait(), 1)  # nothing to be cut off: nobody waits
        for _ in range(8):
            back.enter()
        back.leave()
        waiting = asyncio.create_task(back.wait())
        seen = []
        for _ in range(7):
            await asyncio.sleep(0.05)
            seen.append(waiting.done())
            back.leave()
        await asyncio.wait_for(waiting, 0.05)
        return seen

    assert asyncio.run(scene()) == [False] * 7


@pytest.mark.parametrize(("still", "longest"), [(0.05, 60.0), (0.02, 0.1)])
def test_looking_back_does_not_wait_for_ever(
    monkeypatch: pytest.MonkeyPatch, still: float, longest: float
) -> None:
    """For an application that does not answer, or for a batch that takes very long."""
    monkeypatch.setattr(precedence, "STILL", still)
    monkeypatch.setattr(precedence, "LONGEST", longest)

    async def scene() -> list[bool]:
        back = Lookback()
        for _ in range(200):
            back.enter()
        seen = []
        for _ in range(2):  # one after the other: also who comes later
            waiting = asyncio.create_task(back.wait())
            for _ in range(40):
                await asyncio.sleep(0.01)
                if longest < 1:
                    back.leave()
            seen.append(waiting.done())
            waiting.cancel()
        return seen

    assert asyncio.run(scene()) == [True, True]


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
