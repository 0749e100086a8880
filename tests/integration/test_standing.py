"""Workers that stand still or were too slow: what they hold is not lost, and holds up nobody."""

from __future__ import annotations

import asyncio
from dataclasses import replace
from datetime import timedelta
from typing import Any

import psycopg
import pytest

from tests.builders import NOW, person
from yugum.core.decisions import Right
from yugum.engine.work.held import HeldLeases
from yugum.storage import database as module
from yugum.storage.database import PostgresDatabase


async def leased(database: PostgresDatabase, count: int, seconds: float) -> list[Any]:
    people = [person(id=f"p{n}", user_name=f"u{n}") for n in range(count)]
    async with database.unit() as unit:
        await unit.people.insert(people)
        await unit.leases.wake([p.id for p in people], priority=5)
    async with database.unit() as unit:
        return list(await unit.leases.claim("w1", count, seconds))


async def due(database: PostgresDatabase) -> int:
    async with database.unit() as unit:
        return await unit.leases.due_now()


async def test_recovery_goes_past_what_a_standing_worker_has_locked(
    database: PostgresDatabase, database_url: str
) -> None:
    await leased(database, 3, 0.1)
    await asyncio.sleep(0.2)
    with psycopg.connect(database_url) as standing:
        standing.execute("SELECT id FROM subjects WHERE id = 'p1' FOR SHARE")
        async with asyncio.timeout(5):
            async with database.unit() as unit:
                assert await unit.leases.recover() == 2
    assert await due(database) == 2
    async with database.unit() as unit:
        assert await unit.leases.recover() == 1, "once it lets go, that one too"


async def test_a_process_that_stands_still_in_a_transaction_loses_it(
    database_url: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(module, "IDLE_MS", 300)
    slow = PostgresDatabase(database_url)
    await leased(slow, 1, 30)

    async def stand() -> None:
        async with slow.unit() as unit:
            await unit.leases.wake(["p0"], priority=3)
            await asyncio.sleep(1.0)
            await unit.leases.wake(["p0"], priority=2)

    standing = asyncio.create_task(stand())
    await asyncio.sleep(0.1)
    with psycopg.connect(database_url) as other:
        other.execute("SET lock_timeout = '5s'")
        other.execute("UPDATE subjects SET priority = 9 WHERE id = 'p0'")
    with pytest.raises(Exception, match=r"(?i)idle|terminat|closed|cannot be reached"):
        await standing
    with psycopg.connect(database_url) as other:
        row = other.execute("SELECT priority FROM subjects WHERE id = 'p0'").fetchone()
    assert row == (9,), "nothing of the one that stood still is kept"
    await slow.close()


async def test_a_lease_that_was_too_short_leaves_its_subject_due(
    database: PostgresDatabase,
) -> None:
    (lease,) = await leased(database, 1, 30)
    assert await due(database) == 0
    held = HeldLeases(database, "w1", 30)
    await held.hand_back(lease)
    assert await due(database) == 1
    async with database.unit() as unit:
        (again,) = await unit.leases.claim("w2", 5, 30)
    assert again.epoch == lease.epoch + 1
    await held.hand_back(lease)  # late: somebody else has it by now
    async with database.unit() as unit:
        renewed = await unit.leases.renew("w2", ["p0"], 30)
    assert [r.epoch for r in renewed] == [again.epoch]


async def test_a_right_that_lasted_no_time_goes_on_and_no_other_end_moves(
    database: PostgresDatabase,
) -> None:
    """Somebody leaves at the moment they came, and is back at once: it is one right."""
    ended, none = NOW - timedelta(days=2), timedelta(0)
    for since, lasted, kept in (
        (NOW, none, None),
        (NOW - timedelta(days=9), timedelta(days=7), ended),
    ):
        first = Right(account_id=f"a{lasted.days}", since=since, until=since + lasted)
        async with database.unit() as unit:
            await unit.standing.put_rights([first])
            await unit.standing.put_rights([replace(first, until=None)])
            found, _ = await unit.standing.entitled([], [first.account_id])
        assert found[first.account_id].until == kept
