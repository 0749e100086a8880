"""Readings against real PostgreSQL: links, changes made outside, falls, bad records, what is gone."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator, Sequence
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from decimal import Decimal
from typing import Any

import psycopg
import pytest

from tests.builders import person
from yugum.core.accounts import AccountKind, AccountState, Asset, Observed, Unreadable
from yugum.core.applications import Application, Profile
from yugum.core.deviations import DeviationState
from yugum.core.findings import FindingKind
from yugum.core.people import Person
from yugum.core.readings import ReadingState
from yugum.core.seats import Pool
from yugum.engine.links import Links
from yugum.engine.readings import Readings
from yugum.errors import ApplicationUnavailable, Conflict, NotFound
from yugum.ports.applications import Access
from yugum.ports.findings import ChosenFindings
from yugum.storage.database import PostgresDatabase
from yugum.testing import FixedClock, OneConnector, ScriptedConnector

NOW = datetime(2031, 3, 3, 8, 40, tzinfo=UTC)


def seen(number: int, **more: Any) -> Observed:
    values: dict[str, Any] = {
        "external_id": f"x{number}",
        "login": f"person{number}",
        "state": AccountState.ACTIVE,
        "seats": frozenset(),
    }
    return Observed(**{**values, **more})


async def made(
    database: PostgresDatabase, pages: Sequence[Sequence[Observed | Unreadable]]
) -> tuple[Readings, ScriptedConnector]:
    async with database.unit() as unit:
        await unit.applications.put(
            Application(id="crew", name="Crew", kind="scim"), Access(), None
        )
        await unit.seats.put(Pool(id="x", application_id="crew", license="planner", bought=3))
        await unit.people.insert(
            [
                Person(
                    id=f"p{n}",
                    user_name=f"person{n}",
                    display_name=f"Person {n}",
                    employee_number=f"40{n}",
                )
                for n in range(3)
            ]
        )
    connector = ScriptedConnector(pages)
    return Readings(database, OneConnector(connector), FixedClock(NOW)), connector


async def outside(database: PostgresDatabase) -> list[tuple[str, str, str, str]]:
    page = await Links(database, FixedClock(NOW)).deviations("", DeviationState.OPEN, None, 50)
    return [(d.kind.value, d.item, d.was, d.now_is) for d in page.items]


async def test_an_unchanged_account_is_not_written_again(database: PostgresDatabase) -> None:
    readings, _ = await made(database, [[seen(0, seats=frozenset({"planner"}))], [seen(7)]])
    first = await readings.read("crew", "ines")
    assert (first.new, first.linked, first.nobody) == (2, 1, 1)
    async with database.unit() as unit:
        before = (await unit.accounts.known(["p0"])).accounts["p0"][0]
        assert [s.license for s in await unit.seats.held_by(["p0"])] == ["planner"]
    again = await readings.read("crew", "ines")
    assert (again.new, again.changed, again.outside, again.gone) == (0, 0, 0, 0)
    async with database.unit() as unit:
        after = (await unit.accounts.known(["p0"])).accounts["p0"][0]
    assert after == before


async def test_who_is_behind_an_account_is_found_or_proposed(database: PostgresDatabase) -> None:
    readings, _ = await made(
        database,
        [
            [
                seen(10, login="other", employee_number="401"),
                seen(11, login="p.two", display_name="Person 2"),
                seen(12, login="svc-x", display_name="Person 0", kind=AccountKind.SERVICE),
            ]
        ],
    )
    counts = await readings.read("crew", "ines")
    assert counts.linked == 1
    links = Links(database, FixedClock(NOW))
    (proposal,) = (await links.proposals(None, 10)).items
    assert (proposal.person_id, proposal.rule) == ("p2", "display name")
    await links.link(proposal.account_id, "p2", None, "ines")
    assert (await links.proposals(None, 10)).items == []
    async with database.unit() as unit:
        assert len((await unit.accounts.known(["p2"])).accounts["p2"]) == 1


async def test_what_was_changed_outside_is_told_line_by_line(database: PostgresDatabase) -> None:
    night = frozenset({"Night duty", "Deck"})
    readings, connector = await made(database, [[seen(0, entitlements=frozenset({"Deck"}))]])
    await readings.read("crew", "ines")
    assert await outside(database) == []  # what was there at first is nobody's doing
    connector.pages = [[seen(0, entitlements=night, state=AccountState.SUSPENDED), seen(1)]]
    await readings.read("crew", "ines")
    assert set(await outside(database)) == {
        ("state", "", "active", "suspended"),
        ("entitlement", "Night duty", "not held", "held"),
        ("account", "", "not there", "active"),
    }
    await readings.read("crew", "ines")
    assert len(await outside(database)) == 3  # told once


async def test_a_list_that_shifts_while_it_is_paged_counts_nobody_twice(
    database: PostgresDatabase,
) -> None:
    later = seen(0, state=AccountState.DELETED, recoverable_until=NOW + timedelta(days=9))
    readings, connector = await made(database, [[seen(0), seen(1)], [seen(1)], [later]])
    counts = await readings.read("crew", "ines")
    assert counts.accounts == 2
    async with database.unit() as unit:
        known = await unit.accounts.known(["p0", "p1"])
    assert [a.state for p in ("p0", "p1") for a in known.accounts[p]] == ["deleted", "active"]
    connector.pages = [[later, seen(1)], [seen(1, entitlements=frozenset({"Deck"}))]]
    await readings.read("crew", "ines")
    assert await outside(database) == [("entitlement", "Deck", "not held", "held")]


async def test_an_account_that_is_gone_is_purged_and_told(database: PostgresDatabase) -> None:
    readings, connector = await made(database, [[seen(0), seen(1)]])
    await readings.read("crew", "ines")
    connector.pages = [[seen(0)]]
    assert (await readings.read("crew", "ines")).gone == 1
    assert await outside(database) == [("account", "", "there", "gone")]
    async with database.unit() as unit:
        assert (await unit.accounts.known(["p1"])).accounts["p1"][0].state is AccountState.PURGED


async def test_a_sudden_fall_is_not_believed_until_somebody_says_so(
    database: PostgresDatabase,
) -> None:
    readings, connector = await made(database, [[seen(n) for n in range(40)]])
    await readings.read("crew", "ines")
    connector.pages = [[seen(n) for n in range(20)]]
    with pytest.raises(Conflict) as caught:
        await readings.read("crew", "ines")
    assert "--believe" in caught.value.remedy
    async with database.unit() as unit:
        assert await unit.readings.in_use("crew") == 40
    assert (await readings.read("crew", "ines", believe=True)).gone == 20


async def test_a_site_that_is_gone_is_asked_about_and_deleted_accounts_are_not(
    database: PostgresDatabase,
) -> None:
    over = {"state": AccountState.DELETED, "recoverable_until": NOW}
    pages = [[*(seen(n) for n in range(9)), *(seen(n, **over) for n in range(100, 140))]]
    readings, connector = await made(database, pages)
    async with database.unit() as unit:
        await unit.people.insert(
            [person(id=f"q{n}", user_name=f"person{n}", site="Skarra") for n in range(3, 9)]
        )
    await readings.read("crew", "ines")
    connector.pages = [[seen(n) for n in range(9)]]
    assert (await readings.read("crew", "ines")).gone == 40, "they were deleted already"
    connector.pages = [[seen(n) for n in range(3)]]
    with pytest.raises(Conflict, match=r"no account of Skarra any more \(6 were in use\)"):
        await readings.read("crew", "ines")
    assert (await readings.read("crew", "ines", believe=True)).gone == 6


async def test_an_interrupted_reading_takes_nothing_as_gone(database: PostgresDatabase) -> None:
    readings, connector = await made(database, [[seen(0)], [seen(1)]])
    await readings.read("crew", "ines")
    connector.pages, connector.error = [[seen(0)]], ApplicationUnavailable("Crew is down.")
    with pytest.raises(ApplicationUnavailable):
        await readings.read("crew", "ines")
    async with database.unit() as unit:
        assert await unit.readings.in_use("crew") == 2
        assert (await unit.readings.page("crew", None, 5)).items[0].state is ReadingState.FAILED


async def test_a_bad_record_is_listed_and_retried_alone(database: PostgresDatabase) -> None:
    bad = Unreadable("x9", "person9", "has no userName")
    readings, connector = await made(database, [[seen(0), bad]])
    counts = await readings.read("crew", "ines")
    assert (counts.accounts, counts.unreadable) == (1, 1)
    (problem,) = (await readings.unreadable("crew", None, 10)).items
    assert problem.reason == "has no userName"
    connector.pages = [[seen(0), seen(9)]]
    assert (await readings.retry("crew", "x9")).new == 1
    assert (await readings.unreadable("crew", None, 10)).items == []


async def hourly(database: PostgresDatabase, *names: str) -> None:
    """Applications that are read every hour, the last time a day ago."""
    profile = Profile(read_every_hours=1)
    async with database.unit() as unit:
        for name in names:
            one = Application(id=name, name=name, kind="scim", profile=profile)
            await unit.applications.put(one, Access(), None)
            await unit.applications.read_at(name, NOW - timedelta(days=1), 0)


async def test_what_is_disconnected_is_read_no_more_and_holds_up_no_other(
    database: PostgresDatabase,
) -> None:
    readings, _ = await made(database, [[seen(0)]])
    await hourly(database, "crew", "other", "third")
    async with database.unit() as unit:
        await unit.applications.disconnect("other", NOW, erase=False)
    assert await readings.read_due("worker") == 2
    for name in ("crew", "third"):
        (line,) = (await readings.page(name, None, 9)).items
        assert line.state is ReadingState.DONE, name
    async with database.unit() as unit:
        assert await unit.readings.due(NOW + timedelta(hours=2)) != []
        assert "other" not in await unit.readings.due(NOW + timedelta(hours=9))


async def test_a_page_that_comes_after_the_disconnection_is_not_taken_in(
    database: PostgresDatabase,
) -> None:
    class Disconnected(ScriptedConnector):
        async def read(self, since: datetime | None = None) -> AsyncIterator[Sequence[Observed]]:
            yield [seen(0)]
            await asyncio.sleep(0.3)
            async with database.unit() as unit:
                await unit.applications.disconnect("crew", NOW, erase=False)
            yield [seen(1)]

    await made(database, [])
    readings = Readings(database, OneConnector(Disconnected()), FixedClock(NOW))
    with pytest.raises(NotFound, match="not connected"):
        await readings.read("crew", "ines")
    async with database.unit() as unit:
        assert not await unit.readings.any_known("crew")
        kept = await unit.applications.archived("crew", None, 9)
    assert [a.login for a in kept.items] == ["person0"]


async def test_a_reading_whose_process_died_is_ended(
    database: PostgresDatabase, database_url: str
) -> None:
    readings, _ = await made(database, [[seen(0)]])
    await readings.read("crew", "ines")
    with psycopg.connect(database_url) as connection:
        connection.execute(
            "UPDATE readings SET state = 'running', ended_at = NULL,"
            " alive = now() - interval '3 minutes'"
        )
    await readings.read_due("worker")
    (line,) = (await readings.page("crew", None, 9)).items
    assert (line.state, "died" in line.problem) == (ReadingState.FAILED, True)


async def test_findings_name_sleepers_owners_and_what_seats_cost(
    database: PostgresDatabase,
) -> None:
    long_ago = NOW - timedelta(days=200)
    readings, _ = await made(
        database,
        [
            [
                seen(0, last_used=long_ago, seats=frozenset({"planner"})),
                seen(1, last_used=NOW - timedelta(days=3)),
                seen(8, login="desk", kind=AccountKind.SHARED),
                seen(9, login="ghost"),
            ]
        ],
    )
    async with database.unit() as unit:
        pool = Pool(id="x", application_id="crew", license="planner", bought=3, price=Decimal(9))
        await unit.seats.put(pool)
        left = replace(
            (await unit.people.many(["p1"]))["p1"][0], access_ends=NOW - timedelta(days=1)
        )
        await unit.people.change([left])
    await readings.read("crew", "ines")
    async with database.unit() as unit:
        found = await unit.findings.page(NOW, cursor=None, limit=20)
        found_counts = await unit.findings.counts(NOW)
    assert {(f.kind.value, f.login) for f in found.items} == {
        ("sleeper", "person0"),
        ("leaver-open", "person1"),
        ("without-owner", "desk"),
        ("nobody-behind", "ghost"),
    }
    assert [(c.count, c.cost) for c in found_counts if c.kind is FindingKind.SLEEPER] == [
        (1, {"EUR": Decimal(9)})
    ]


async def test_findings_name_what_is_owned_by_whom_nobody_can_reach(
    database: PostgresDatabase, database_url: str
) -> None:
    owned = {
        n: (Asset("board", f"b{n}", f"Board {n}"), Asset("roster", f"r{n}", "R")) for n in "0129"
    }
    robot = {"login": "robot", "kind": AccountKind.SERVICE, "keys": 2}
    active = [seen(n, assets=owned[str(n)]) for n in (0, 1, 2)]
    others = [seen(9, login="ghost", assets=owned["9"]), seen(8, assets=(), **robot)]
    suspended = [replace(a, state=AccountState.SUSPENDED) for a in active]
    given_up = [replace(a, assets=()) for a in suspended]
    readings, connector = await made(database, [[*active, *others]])

    async def owned_still() -> set[tuple[str, str]]:
        async with database.unit() as unit:
            page = await unit.findings.page(
                NOW, ChosenFindings(kind=FindingKind.OWNED_STILL), cursor=None, limit=9
            )
            (count,) = [c for c in await unit.findings.counts(NOW) if c.kind is page.items[0].kind]
            assert count.count == len(page.items)
        return {(f.login, f.text) for f in page.items}

    ghost = ("ghost", "has nobody behind it and owns still: board 1, roster 1")
    await readings.read("crew", "ines")
    assert await owned_still() == {ghost}
    async with database.unit() as unit:
        known = {i: p for i, (p, _) in (await unit.people.many(["p1", "p2"])).items()}
        left = replace(known["p1"], access_ends=NOW - timedelta(days=1))
        away = replace(known["p2"], absent_from=NOW - timedelta(days=1))
        await unit.people.change([left, away])
    with psycopg.connect(database_url) as connection:
        connection.execute("UPDATE accounts SET person_id = 'p1' WHERE login = 'robot'")
    connector.pages = [[*suspended, *others]]
    await readings.read("crew", "ines")
    assert await owned_still() == {
        ghost,
        ("person0", "is suspended and owns still: board 1, roster 1"),
        ("person1", "has left and owns still: board 1, roster 1"),
    }
    async with database.unit() as unit:
        (robots,) = (
            await unit.findings.page(
                NOW, ChosenFindings(kind=FindingKind.OWNER_LEFT), cursor=None, limit=9
            )
        ).items
    assert (robots.login, robots.text) == (
        "robot",
        "a service account whose owner has left; it has 2 keys",
    )
    connector.pages = [[*given_up, *others]]
    await readings.read("crew", "ines")
    assert await owned_still() == {ghost}, "nothing is owned any more"
