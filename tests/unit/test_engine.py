"""The engine's small machines: group commit, permits, precedence, requests."""

from __future__ import annotations

import asyncio
from collections.abc import Sequence
from datetime import UTC, date, datetime

import pytest

from tests.builders import person
from yugum.core.people import Person
from yugum.core.requests import PlanRequest
from yugum.core.verbs import Verb
from yugum.engine.plans.meanings import meaning_of
from yugum.engine.work.batching import Batcher
from yugum.engine.work.permits import Permits
from yugum.engine.work.precedence import Precedence
from yugum.errors import Conflict, InvalidInput

NOW = datetime(2031, 3, 3, 8, 40, tzinfo=UTC)


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


def test_what_a_request_means_for_a_person() -> None:
    helsinki = person(time_zone="Europe/Helsinki")
    leaver = meaning_of(PlanRequest(verb=Verb.LEAVER, at="Fri 17:00"), helsinki, NOW)
    assert leaver.due == datetime(2031, 3, 7, 15, 0, tzinfo=UTC)
    assert leaver.after.last_working_day == date(2031, 3, 7)
    assert leaver.applied
    mover = PlanRequest(verb=Verb.MOVER, at="+3d", changes={"department": "Safety"})
    later = meaning_of(mover, helsinki, NOW)
    assert later.after.department == "Safety"
    assert not later.applied
    gone = person(access_ends=NOW)
    back = meaning_of(PlanRequest(verb=Verb.RETURNER), gone, NOW)
    assert back.after.access_ends is None


@pytest.mark.parametrize(
    ("request_", "who", "error"),
    [
        (PlanRequest(verb=Verb.MOVER), person(), InvalidInput),
        (PlanRequest(verb=Verb.RETURNER), person(), Conflict),
        (PlanRequest(verb=Verb.JOINER), person(access_ends=NOW), Conflict),
        (PlanRequest(verb=Verb.LEAVER, at="2031-03-01"), person(), InvalidInput),
        (PlanRequest(verb=Verb.LEAVER, at="+1d"), person(starts=date(2031, 3, 20)), InvalidInput),
        (PlanRequest(verb=Verb.ABSENCE, at="+3d", until="+2d"), person(), InvalidInput),
    ],
)
def test_requests_that_cannot_be(
    request_: PlanRequest, who: Person, error: type[Exception]
) -> None:
    with pytest.raises(error):
        meaning_of(request_, who, NOW)
