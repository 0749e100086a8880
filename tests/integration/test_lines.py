"""Who waits for a seat: the place is kept while a step needs it, given up after, and the next are served."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import UTC, datetime, timedelta

import psycopg
import pytest

from tests.builders import person
from tests.integration.seating import claim as claim_seat
from tests.integration.test_marks import rows, settle
from yugum.core.accounts import Account, AccountState, HoldingKind
from yugum.core.actions import NO_ARGUMENTS, Action, Phase
from yugum.core.applications import Application
from yugum.core.decisions import Origin, OriginKind
from yugum.core.dockets import Step, StepState
from yugum.core.seats import Pool
from yugum.engine.work.claims import Asking, claim_all
from yugum.ports.applications import Access
from yugum.storage.database import PostgresDatabase

NOW = datetime(2031, 3, 3, 8, 40, tzinfo=UTC)
RULED = """{"roles": {"Deck": {"when": "department eq \\"Deck\\"", "gives": [{"application": "crew",
 "seats": ["planner"]}]}}, "seats": {"absence": "freed"}}"""
DOCKETS = """INSERT INTO dockets (id, subject_id, verb, state, author, made_at, due_at, waiting_at)
SELECT 'd-' || id, id, 'joiner', 'running', 'ines', now(), now(), now() FROM people;
INSERT INTO steps (id, docket_id, subject_id, position, application_id, account_id, phase, action, item,
  state, problem) SELECT 's-' || id, 'd-' || id, id, 1, 'crew', 'a-' || id, 'access', 'take_seat',
  'planner', 'waiting', '{"code": "no-seat", "text": "None is free."}' FROM people;
UPDATE subjects SET wake_at = NULL"""
LINE = """SELECT c.person_id FROM seat_claims c WHERE c.state = 'waiting' AND c.until_at IS NULL
ORDER BY c.place"""
AWAKE = "SELECT id FROM subjects WHERE wake_at IS NOT NULL ORDER BY 1"
STEPS = "SELECT id, state FROM steps WHERE state <> 'waiting' ORDER BY 1"


@pytest.fixture
async def waiting(database: PostgresDatabase, database_url: str) -> PostgresDatabase:
    """Three of Deck who wait for a seat, in the order of their names; none is bought."""
    names = ["ada", "bo", "cleo"]
    async with database.unit() as unit:
        made = Application(id="crew", name="Crew", kind="scim")
        await unit.applications.put(made, Access(), None)
        await unit.seats.put(Pool(id="x", application_id="crew", license="planner", bought=0))
        await unit.rules.adopt(RULED, "", NOW, "ines", "")
        await unit.people.insert([person(id=n, user_name=n) for n in names])
    async with database.unit() as unit:
        for n in names:
            account = Account(
                id=f"a-{n}",
                application_id="crew",
                person_id=n,
                login=n,
                external_id=n,
                state=AccountState.ACTIVE,
            )
            await unit.accounts.refresh([account], NOW)
            key = (account.id, HoldingKind.ACCOUNT, "")
            await unit.accounts.adopt([(key, Origin(OriginKind.ROLE, "Deck"))], NOW)
            await claim_seat(unit, account.id, n, NOW)
    with psycopg.connect(database_url) as connection:
        connection.execute(DOCKETS)
    await settle(database, NOW)
    assert rows(database_url, LINE) == [("ada",), ("bo",), ("cleo",)], (
        "who needs one keeps the place"
    )
    assert rows(database_url, AWAKE) == []
    return database


async def buy(database: PostgresDatabase, bought: int) -> int:
    async with database.unit() as unit:
        await unit.seats.put(Pool(id="x", application_id="crew", license="planner", bought=bought))
        return await unit.seats.serve()


@pytest.mark.parametrize(
    "change",
    [
        {"department": "'Shore'", "folded": "'{}'"},
        {"access_ends": f"'{NOW - timedelta(minutes=1)}'"},
        {"absent_from": f"'{NOW - timedelta(minutes=1)}'"},
    ],
    ids=["moved", "left", "absent"],
)
async def test_who_needs_none_any_more_gives_up_the_place(
    waiting: PostgresDatabase, database_url: str, change: Mapping[str, str]
) -> None:
    with psycopg.connect(database_url) as connection:
        said = ", ".join(f"{name} = {value}" for name, value in change.items())
        connection.execute(f"UPDATE people SET {said} WHERE id = 'ada'")
    await settle(waiting, NOW)
    assert rows(database_url, STEPS) == [("s-ada", "left_out")]
    assert rows(database_url, LINE) == [("bo",), ("cleo",)]
    assert await buy(waiting, 1) == 1
    assert ("bo",) in rows(database_url, AWAKE), "the first of those who still wait"
    assert ("cleo",) not in rows(database_url, AWAKE)


async def test_a_step_left_out_by_somebody_gives_up_the_place(
    waiting: PostgresDatabase, database_url: str
) -> None:
    assert await buy(waiting, 1) == 1
    assert rows(database_url, AWAKE) == [("ada",)]
    later = "UPDATE subjects SET wake_at = clock_timestamp() + interval '1 hour' WHERE id = 'ada'"
    with psycopg.connect(database_url) as connection:
        connection.execute(later)
    async with waiting.unit() as unit:
        assert await unit.seats.serve(asleep=True) == 0, "who tries again later is left alone"
        assert await unit.seats.serve() == 1
    with psycopg.connect(database_url) as connection:
        connection.execute("UPDATE steps SET state = 'left_out' WHERE id = 's-ada'")
        connection.execute("INSERT INTO marks (subject_id) VALUES ('ada')")
    await settle(waiting, NOW)
    assert rows(database_url, LINE) == [("bo",), ("cleo",)]
    assert rows(database_url, AWAKE) == [("ada",), ("bo",)], (
        "the seat nobody took is the next one's"
    )


async def test_a_seat_being_taken_is_not_reconciled_away(
    waiting: PostgresDatabase, database_url: str
) -> None:
    await buy(waiting, 2)
    async with waiting.unit() as unit:
        for n in ("ada", "bo"):
            assert await claim_seat(unit, f"a-{n}", n, NOW) is None
    with psycopg.connect(database_url) as connection:
        connection.execute("UPDATE steps SET state = 'intent' WHERE id = 's-ada'")
        connection.execute("UPDATE steps SET state = 'left_out' WHERE id = 's-bo'")
    async with waiting.unit() as unit:
        await unit.seats.reconcile("crew", NOW)
    held = "SELECT person_id FROM seat_claims WHERE state = 'held' AND until_at IS NULL"
    assert rows(database_url, held) == [("ada",)], "its step is under way; the other's is not shown"


async def test_who_comes_later_than_before_lets_the_next_one_be_served(
    waiting: PostgresDatabase, database_url: str
) -> None:
    """The first of the line is of another department by the time a seat is there: those of Deck come before."""
    first = """{"crew": {"planner": {"priority": ["department eq \\"Deck\\""]}}}"""
    ruled = RULED.replace('"seats": {"absence"', f'"licenses": {first}, "seats": {{"absence"', 1)
    step = Step(
        id="s-ada",
        docket_id="d-ada",
        subject_id="ada",
        account_id="a-ada",
        application_id="crew",
        action=Action.TAKE_SEAT,
        item="planner",
        position=1,
        phase=Phase.ACCESS,
        arguments=NO_ARGUMENTS,
        origin=None,
        state=StepState.WAITING,
    )
    with psycopg.connect(database_url) as connection:
        connection.execute("UPDATE people SET department = 'Shore' WHERE id = 'ada'")
        connection.execute("UPDATE subjects SET wake_at = clock_timestamp() + interval '1 hour'")
    async with waiting.unit() as unit:
        await unit.rules.adopt(ruled, "", NOW, "ines", "")
        await unit.seats.put(Pool(id="x", application_id="crew", license="planner", bought=1))
        (problem,) = await claim_all(unit, [Asking(step, frozenset())], NOW)
    assert problem is not None
    assert "number 3 in line" in problem.text
    soon = "SELECT id FROM subjects WHERE wake_at <= clock_timestamp()"
    assert rows(database_url, soon) == [("bo",)], "the seat that ada did not get is the next one's"
