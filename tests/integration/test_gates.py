"""What limits calls over all workers: shares, pauses, ceilings, the stop."""

from __future__ import annotations

from yugum.core.applications import Application
from yugum.ports.applications import Access
from yugum.storage.database import PostgresDatabase


async def test_workers_share_an_application_and_learn_of_a_pause(
    database: PostgresDatabase,
) -> None:
    async with database.unit() as unit:
        for name in ("crew", "mail"):
            await unit.applications.put(
                Application(id=name, name=name, kind="scim"), Access(), None
            )
        alone = await unit.gates.share("one", ["crew", "mail"], 5.0)
    assert {s.workers for s in alone.values()} == {1}
    async with database.unit() as unit:
        both = await unit.gates.share("two", ["crew"], 5.0)
        assert both["crew"].workers == 2
        await unit.gates.pause("crew", 30.0)
        await unit.gates.pause("crew", 5.0)  # a shorter one does not end a longer one
    async with database.unit() as unit:
        shares = await unit.gates.share("one", ["crew", "mail"], 5.0)
        assert shares["crew"].paused > 20
        assert shares["mail"].paused == 0
        await unit.gates.leave("two")
    async with database.unit() as unit:
        assert (await unit.gates.share("one", ["crew"], 5.0))["crew"].workers == 1
        rows = {a.id: a.paused_until for a in await unit.applications.lines()}
    assert rows["crew"] is not None
    assert rows["mail"] is None


async def test_a_ceiling_lets_so_many_pass_an_hour(database: PostgresDatabase) -> None:
    async with database.unit() as unit:
        taken = [await unit.gates.take_of_ceiling("crew", 3) for _ in range(5)]
        other = await unit.gates.take_of_ceiling("mail", 3)
    assert taken == [True, True, True, False, False]
    assert other


async def test_the_first_stop_stands_until_it_is_lifted(database: PostgresDatabase) -> None:
    async with database.unit() as unit:
        assert await unit.gates.stopped() is None
        await unit.gates.stop("ines", "a bad rule")
        await unit.gates.stop("bo", "me too")
        row = await unit.gates.stopped()
        assert row is not None
        assert (row.author, row.reason) == ("ines", "a bad rule")
        await unit.gates.go_on()
        assert await unit.gates.stopped() is None
