"""Who watches a docket hears of every change, also of one between the first look and the next."""

from __future__ import annotations

import asyncio
from contextlib import aclosing

import psycopg
import pytest

from tests.integration.test_storage import NOW, docket
from yugum.core.operators import OperatorRole
from yugum.core.views import Noun
from yugum.engine.access import Operator
from yugum.engine.watching import Watching
from yugum.storage.database import PostgresDatabase
from yugum.testing import FixedClock


async def test_a_change_before_the_first_look_is_heard_of(database: PostgresDatabase) -> None:
    _, (step,) = await docket(database)
    watching = Watching(database, FixedClock(NOW))
    somebody = Operator(id="o", login="o", name="", role=OperatorRole.VIEWER, csrf="c")
    async with aclosing(watching.changes(step.docket_id, somebody)) as changes:
        await anext(changes)  # it is shown; nobody has looked at what it was then
        async with database.unit() as unit:
            await unit.dockets.leave_out([step.id], "not needed", NOW)
        await asyncio.wait_for(anext(changes), 2)


async def test_whose_right_has_ended_is_let_go(database: PostgresDatabase) -> None:
    _, (step,) = await docket(database)
    watching = Watching(database, FixedClock(NOW))
    nobody = Operator(id="o", login="o", name="", role=OperatorRole.VIEWER, csrf="gone")
    async with asyncio.timeout(8):
        assert len([0 async for _ in watching.changes(step.docket_id, nobody)]) >= 1


async def test_what_is_changed_is_told_again_once_everybody_can_see_it(
    database: PostgresDatabase, database_url: str
) -> None:
    """A sequence is ahead of its transaction: a page that asks at once finds what was."""
    watching = Watching(database, FixedClock(NOW))
    somebody = Operator(id="o", login="o", name="", role=OperatorRole.VIEWER, csrf="c")
    async with aclosing(watching.nouns(somebody)) as told:
        assert await anext(told) is None
        with psycopg.connect(database_url) as other:
            other.execute("UPDATE people SET title = 'None' WHERE id = 'nobody'")  # no row, no word
            other.execute("INSERT INTO declined (id, author, at) VALUES ('d', 'ines', now())")
            assert await asyncio.wait_for(anext(told), 2) == frozenset({Noun.PEOPLE})
            other.commit()
        assert await asyncio.wait_for(anext(told), 2) == frozenset({Noun.PEOPLE})
        with pytest.raises(TimeoutError):
            await asyncio.wait_for(anext(told), 1)
