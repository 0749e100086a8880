"""A deletion that has become final since somebody asked for it, on a database with one application."""

from __future__ import annotations

import asyncio
from collections.abc import Sequence
from pathlib import Path

import psycopg

from yugum.bootstrap import House, open_house
from yugum.core.actions import Action
from yugum.core.applications import Deletion, ProfileChange
from yugum.core.approvals import PURGE, ApprovalState
from yugum.core.decisions import DecisionKind, Payload
from yugum.core.dockets import DocketState
from yugum.core.requests import PlanRequest
from yugum.core.tasks import TaskState
from yugum.core.verbs import Quick, Verb
from yugum.ports.tasks import TaskLine
from yugum.settings import Settings

from .test_earlier import DUMP, INES, state, until


async def test_what_has_become_final_is_agreed_to_before_it_begins(
    database_url: str, tmp_path: Path
) -> None:
    with psycopg.connect(database_url, autocommit=True) as connection:
        connection.execute(DUMP.read_bytes())
    settings = Settings(state=tmp_path, database_url=database_url, tick_seconds=0.05)
    async with open_house(settings) as house:
        number = await _deleted(house)
        stop = asyncio.Event()
        working = asyncio.create_task(house.worker().run(stop))

        async def awaits() -> bool:
            return await state(house, number) is DocketState.AWAITING

        await until(awaits)
        assert await _open_tasks(house, number) == []
        (row,) = (await house.services.approvals.page(ApprovalState.OPEN, number, None, 5)).items
        assert row.name == PURGE
        await house.services.approvals.answer(row.id, "bo", None, agrees=True, note="")

        async def final() -> bool:
            """The owner does what comes before it; nobody is asked a second time."""
            for task in await _open_tasks(house, number):
                if task.action is Action.PURGE:
                    return True
                await house.services.tasks.done(task.id, "seen to", "ines")
            return False

        await until(final)
        assert await state(house, number) is DocketState.RUNNING, "it is asked about once"
        stop.set()
        await working


async def _deleted(house: House) -> str:
    """A deletion was confirmed; before a worker saw it its application became final."""
    services = house.services
    (shown,) = (await services.people.show("dag")).accounts
    assert shown.account is not None
    account = shown.account
    request = PlanRequest(verb=Verb.ACCOUNT, accounts=(account.id,), action=Quick.DELETE)
    batch = await services.plans.prepare(request, INES)
    (plan,) = batch.plans
    assert not any(s.irreversible for s in plan.steps)
    (docket,) = await services.plans.confirm(
        batch.id, batch.digest, INES, reference="", reason="gone"
    )
    final = ProfileChange(deletion=Deletion.FINAL)
    await services.applications.change_profile(account.application_id, final, "ines")
    await services.decisions.make(
        "dag", DecisionKind.SUCCESSOR, Payload(person="bea"), "so that it is stale", "", "ines"
    )
    return str(docket.number)


async def _open_tasks(house: House, number: str) -> Sequence[TaskLine]:
    page = await house.services.tasks.page(TaskState.OPEN, "", None, 50)
    return [t for t in page.items if str(t.number) == number]
