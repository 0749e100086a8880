"""Dockets in flight when the code changes: a database of the version before ends as it would have.

`tests/data/before_0012.sql` was dumped by the version before the records were typed: one manual
application, a joiner with open tasks (YG-101), one that awaits an approval (102), a mover (103) and a
leaver (104) with dates, a leaver fired in confidence (105) and one kept in confidence.
"""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator, Awaitable, Callable
from pathlib import Path

import psycopg
import pytest

from yugum.bootstrap import House, open_house
from yugum.core.approvals import ApprovalState
from yugum.core.dockets import DocketState
from yugum.core.people import PersonState
from yugum.core.tasks import TaskState
from yugum.engine.plans.safeguards import Actor
from yugum.settings import Settings

DUMP = Path(__file__).parents[1] / "data" / "before_0012.sql"
INES = Actor("ines", None)
AGAIN = 0.05


@pytest.fixture
async def house(database_url: str, tmp_path: Path) -> AsyncIterator[House]:
    """The house of the version before, opened by this one, with a worker inside."""
    with psycopg.connect(database_url, autocommit=True) as connection:
        connection.execute(DUMP.read_bytes())
    settings = Settings(
        state=tmp_path, database_url=database_url, retry_base_seconds=0.05, tick_seconds=0.05
    )
    async with open_house(settings) as opened:
        stop = asyncio.Event()
        working = asyncio.create_task(opened.worker().run(stop))
        yield opened
        stop.set()
        await working


async def until(holds: Callable[[], Awaitable[bool]]) -> None:
    async with asyncio.timeout(30):
        while not await holds():
            await asyncio.sleep(AGAIN)


async def owner_does(house: House, login: str, number: str) -> None:
    """The owner reports every task about somebody done, as they come, until the docket is done."""
    subject = (await house.services.people.show(login)).person.id
    async with asyncio.timeout(30):
        while await state(house, number) is not DocketState.DONE:
            page = await house.services.tasks.page(TaskState.OPEN, "", None, 50)
            for task in page.items:
                if task.subject_id == subject:
                    await house.services.tasks.done(task.id, "seen to", "ines")
            await asyncio.sleep(AGAIN)


async def state(house: House, number: str) -> DocketState:
    docket, _ = await house.services.dockets.show(number)
    return docket.state


async def held(house: House, login: str) -> set[str]:
    shown = await house.services.people.show(login)
    return {h.item for a in shown.accounts for h in a.holdings}


async def test_who_begins_gets_what_was_planned(house: House) -> None:
    await owner_does(house, "ada", "101")
    assert await held(house, "ada") == {"VHF"}


async def test_what_awaits_an_approval_goes_on_once_it_is_given(house: House) -> None:
    assert await state(house, "102") is DocketState.AWAITING
    (approval,) = (await house.services.approvals.page(ApprovalState.OPEN, "102", None, 5)).items
    assert (approval.name, [a.key for a in approval.asked]) == ("board", ["operator:bo"])
    await house.services.approvals.answer(approval.id, "bo", None, agrees=True, note="")

    async def running() -> bool:
        return await state(house, "102") is DocketState.RUNNING

    await until(running)
    await owner_does(house, "bea", "102")
    assert await held(house, "bea") == {"Pilotage"}


async def test_what_is_dated_happens_on_its_day(house: House) -> None:
    """The mover's change of department came with the docket; the leaver's successor too."""
    before = await house.services.people.show("cleo")
    assert (before.person.department, before.state) == ("Deck", PersonState.ACTIVE)
    for number in ("103", "104"):
        assert await state(house, number) is DocketState.SCHEDULED
    clock = house.services.clock
    for moment in ("2031-03-06T09:00:00+00:00", "2031-03-07T17:00:00+00:00"):
        while not (await clock.advance(moment)).reached:
            pass
    moved = await house.services.people.show("cleo")
    assert moved.person.department == "Safety"
    await asyncio.gather(owner_does(house, "cleo", "103"), owner_does(house, "dag", "104"))
    assert await held(house, "cleo") == {"Radar", "VHF"}, "what was found there stays"
    assert (await house.services.people.show("dag")).state is PersonState.LEFT
    assert (await house.services.people.show("gro")).state is PersonState.LEFT, "the term is over"


async def test_what_was_fired_in_confidence_ends_and_is_told_once(house: House) -> None:
    await owner_does(house, "finn", "105")
    assert await held(house, "finn") == set()
    async with house.database.unit() as unit:
        assert (await unit.dockets.by_name("105")).cause.confidential
    await house.services.dockets.tell("105", "ines")
    async with house.database.unit() as unit:
        assert not (await unit.dockets.by_name("105")).cause.confidential


async def test_what_is_kept_in_confidence_is_its_authors_and_is_fired(house: House) -> None:
    plans = house.services.plans
    assert list(await plans.prepared(Actor("bo", None))) == []
    (kept,) = await plans.prepared(INES)
    (docket,) = await plans.fire(kept.batch_id, INES, reference="", reason="conduct")
    await owner_does(house, "eli", str(docket.number))
    assert (await house.services.people.show("eli")).state is PersonState.LEFT
    assert list(await plans.prepared(INES)) == []
