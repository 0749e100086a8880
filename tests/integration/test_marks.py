"""Marks, and what follows from them: whoever changes something, what is owed and what differs follow."""

from __future__ import annotations

import asyncio
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from typing import Any

import psycopg
import pytest

from tests.builders import acceptance, person
from yugum.core.accounts import Account, AccountState, HoldingKind
from yugum.core.applications import Application, Profile
from yugum.core.decisions import Decision, DecisionKind, Origin, OriginKind
from yugum.core.facts import Fact
from yugum.core.lines import Line, LineKind, Side
from yugum.core.obligations import ObligationKind, ObligationState
from yugum.engine.standing import look, sweep
from yugum.ports.applications import Access
from yugum.storage import tables as t
from yugum.storage.database import PostgresDatabase
from yugum.testing import FixedClock

NOW = datetime(2031, 3, 3, 8, 40, tzinfo=UTC)
DAY = timedelta(days=1)
LEFT = NOW - 2 * DAY
RULED = """{"roles": {"Deck": {"when": "department eq \\"Deck\\"", "gives": [{"application": "crew",
 "entitlements": ["deck"]}]}}}"""

READ = {
    "people": set(t.people.c.keys()) - {"search", "folded", "rev", "open_end", "alike"},
    "accounts": set(t.accounts.c.keys())
    - {
        "display_name",
        "last_used",
        "employee_number",
        "digest",
        "seen_at",
        "restored_at",
        "rev",
        "owns",
    },
}
"""The columns that what is owed and what differs follow from; any other must be named here."""


async def world(database: PostgresDatabase) -> None:
    """Somebody of Deck, and a leaver whose account is suspended."""
    async with database.unit() as unit:
        await unit.applications.put(
            Application(id="crew", name="Crew", kind="scim", profile=Profile(close_after_days=7)),
            Access(),
            None,
        )
        await unit.rules.adopt(RULED, "", NOW, "ines", "")
        await unit.people.insert(
            [person(), person(id="p2", user_name="bo", access_ends=LEFT, department="Deck")]
        )
        await unit.accounts.refresh([], NOW)
    async with database.unit() as unit:
        for who, state in (("p1", AccountState.ACTIVE), ("p2", AccountState.SUSPENDED)):
            await _account(unit, who, state)
        key = ("a-p1", HoldingKind.ACCOUNT, "")
        await unit.accounts.adopt([(key, Origin(OriginKind.ROLE, "Deck"))], NOW)
    await settle(database)


async def _account(unit: Any, who: str, state: AccountState, at: datetime = NOW) -> None:
    await unit.accounts.refresh(
        [
            Account(
                id=f"a-{who}",
                application_id="crew",
                person_id=who,
                login=who,
                external_id=who,
                state=state,
            )
        ],
        at,
    )


async def settle(database: PostgresDatabase, at: datetime = NOW) -> int:
    """Work all marks off; how many subjects were looked at."""
    looked = 0
    while (found := await look(database, FixedClock(at))) or await sweep(database):
        looked += found
    return looked


def rows(url: str, query: str) -> list[Any]:
    with psycopg.connect(url) as connection:
        return connection.execute(query).fetchall()


OWED = "SELECT account_id, kind, due_at, state FROM obligations WHERE state <> 'cancelled' ORDER BY 1, 2"
LINES = "SELECT subject_id, application_id, kind, item, side, status, since_at FROM standing ORDER BY 1, 3"


async def test_what_is_owed_and_differs_follows_and_a_second_look_writes_nothing(
    database: PostgresDatabase, database_url: str
) -> None:
    await world(database)
    assert rows(database_url, OWED) == [("a-p2", "close", LEFT + 7 * DAY, "open")]
    assert rows(database_url, LINES) == [
        ("p1", "crew", "entitlement", "deck", "missing", "finding", NOW)
    ]
    written = "SELECT sum(n_tup_ins + n_tup_upd + n_tup_del) FROM pg_stat_xact_user_tables"
    before = rows(database_url, OWED), rows(database_url, LINES)
    async with database.unit() as unit:
        await unit.standing.mark(["p1", "p2", "nobody"])
    assert await settle(database, NOW + timedelta(hours=1)) == 3
    assert (rows(database_url, OWED), rows(database_url, LINES)) == before
    assert rows(database_url, written) is not None
    gone = "SELECT count(*) FROM heads WHERE subject_id = 'nobody'"
    assert rows(database_url, gone) == [(0,)], "who is no subject leaves nothing behind"


async def test_a_closing_is_counted_from_when_the_account_came_back(
    database: PostgresDatabase, database_url: str
) -> None:
    await world(database)
    back = NOW + 5 * DAY
    for state, at in ((AccountState.DELETED, NOW), (AccountState.SUSPENDED, back)):
        async with database.unit() as unit:
            await _account(unit, "p2", state, at)
    await settle(database, back)
    assert rows(database_url, OWED) == [("a-p2", "close", back + 7 * DAY, "open")]


OPEN_STEP = """INSERT INTO steps (id, docket_id, subject_id, position, application_id, account_id,
  phase, action, state) SELECT 's', id, 'p2', 1, 'crew', 'a-p2', 'close', 'delete', 'due' FROM dockets"""


async def test_a_closing_in_hand_ends_with_a_hold_and_is_owed_anew_when_that_ends(
    database: PostgresDatabase, database_url: str
) -> None:
    await world(database)
    due = LEFT + 7 * DAY
    async with database.unit() as unit:
        await unit.obligations.fall_due(due, 10)
    await settle(database, due)
    with psycopg.connect(database_url) as connection:  # its application does not answer
        connection.execute("UPDATE dockets SET state = 'running'")
        connection.execute(OPEN_STEP)
    hold = Decision(id="h", subject_id="p2", kind=DecisionKind.HOLD, starts=due, ends=due + 3 * DAY)
    async with database.unit() as unit:
        await unit.decisions.put(hold, due, None)
    await settle(database, due + DAY)
    assert rows(database_url, "SELECT state FROM steps") == [("left_out",)]
    closes = "SELECT due_at, state FROM obligations WHERE kind = 'close' AND state <> 'cancelled'"
    assert rows(database_url, closes) == [(due + 3 * DAY, "open")]
    async with database.unit() as unit:
        await unit.obligations.fall_due(due + 3 * DAY, 10)
    await settle(database, due + 3 * DAY)
    assert rows(database_url, closes) == [(due + 3 * DAY, "taken")]
    verbs = rows(database_url, "SELECT verb FROM dockets ORDER BY number")
    assert verbs.count(("close",)) == 2


async def test_what_waits_for_a_hold_goes_on_with_its_end(
    database: PostgresDatabase, database_url: str
) -> None:
    await world(database)
    hold = Decision(id="h", subject_id="p2", kind=DecisionKind.HOLD, starts=NOW, ends=NOW + DAY)
    async with database.unit() as unit:
        await unit.decisions.put(hold, NOW, None)
    with psycopg.connect(database_url) as connection:
        connection.execute(
            """INSERT INTO dockets (id, subject_id, verb, state, author, due_at, made_at)
               VALUES ('d', 'p2', 'account', 'running', 'ines', now(), now())"""
        )
        connection.execute(OPEN_STEP)
        connection.execute(
            """UPDATE steps SET problem = '{"code": "held", "text": "x"}',
                 retry_at = now() + interval '1 h'"""
        )
    waits = "SELECT problem IS NULL, retry_at IS NULL FROM steps"
    await settle(database, NOW + timedelta(hours=1))
    assert rows(database_url, waits) == [(False, False)]
    async with database.unit() as unit:
        await unit.standing.mark(["p2"])
    await settle(database, NOW + DAY)
    assert rows(database_url, waits) == [(True, True)]


async def test_who_has_just_come_lacks_nothing_from_before(
    database: PostgresDatabase, database_url: str
) -> None:
    await world(database)
    came = NOW + 3 * DAY
    async with database.unit() as unit:
        await unit.people.insert([person(id="p3", user_name="cy", department="Deck")], came)
    await settle(database, came + DAY)
    lines = [r[2:] for r in rows(database_url, LINES) if r[0] == "p3"]
    assert lines == [
        ("account", "", "missing", "finding", came),
        ("entitlement", "deck", "missing", "finding", came),
    ]


CHANGES = {
    "a person": "UPDATE people SET department = 'Kitchen' WHERE id = 'p1'",
    "an account's state": "UPDATE accounts SET state = 'suspended' WHERE id = 'a-p1'",
    "its groups": "UPDATE accounts SET entitlements = '{deck}' WHERE id = 'a-p1'",
    "its ledger": "UPDATE ledger SET origin_name = 'x' WHERE account_id = 'a-p1'",
    "an origin that goes": "DELETE FROM ledger WHERE account_id = 'a-p1'",
    "a decision": """INSERT INTO decisions (id, subject_id, kind, author, made_at)
        VALUES ('d', 'p1', 'hold', 'ines', now())""",
    "a docket": """INSERT INTO dockets (id, subject_id, verb, state, author, due_at, made_at)
        VALUES ('d', 'p1', 'mover', 'scheduled', 'ines', now(), now())""",
    "a line that is accepted": """INSERT INTO accepted VALUES ('k', 'p1', 'crew', 'entitlement', 'deck',
        'missing', 'ines', 'so', now(), NULL)""",
}
NO_CHANGES = {
    "when it was seen": "UPDATE accounts SET seen_at = now(), digest = 'x', last_used = now()",
    "the same value": "UPDATE people SET department = department, rev = rev + 1",
}


@pytest.mark.parametrize("what", CHANGES)
async def test_every_change_of_an_input_leaves_a_mark_whoever_makes_it(
    database: PostgresDatabase, database_url: str, what: str
) -> None:
    await world(database)
    with psycopg.connect(database_url) as connection:
        connection.execute(CHANGES[what])
        assert connection.execute("SELECT DISTINCT subject_id FROM marks").fetchall() == [("p1",)]
        connection.rollback()
        assert connection.execute("SELECT count(*) FROM marks").fetchall() == [(0,)]


@pytest.mark.parametrize("what", NO_CHANGES)
async def test_what_is_no_input_leaves_none(
    database: PostgresDatabase, database_url: str, what: str
) -> None:
    await world(database)
    with psycopg.connect(database_url) as connection:
        connection.execute(NO_CHANGES[what])
        assert connection.execute("SELECT count(*) FROM marks").fetchall() == [(0,)]


@pytest.mark.parametrize("table", READ)
async def test_every_column_is_known_as_an_input_or_not(
    database: PostgresDatabase, database_url: str, table: str
) -> None:
    query = f"SELECT prosrc FROM pg_proc WHERE proname = 'mark_{table}'"
    source = rows(database_url, query)[0][0]
    compared = {
        c
        for c in list(t.metadata.tables[table].columns.keys())
        if f"n.{c}," in source or f"n.{c})" in source
    }
    assert compared | {"id"} == READ[table] | {"id"}


async def crowd(database: PostgresDatabase) -> None:
    """The world with thirty more people, all looked at."""
    await world(database)
    async with database.unit() as unit:
        await unit.people.insert([person(id=f"q{n}", user_name=f"q{n}") for n in range(30)])
    await settle(database)


async def test_a_change_for_many_reaches_everybody_in_portions(
    database: PostgresDatabase, database_url: str
) -> None:
    await crowd(database)
    with psycopg.connect(database_url) as connection:
        connection.execute("UPDATE applications SET trust = 'watch' WHERE id = 'crew'")
    async with database.unit() as unit:
        assert await unit.standing.sweeps() == (32, 32)
        assert await unit.standing.sweep(10, 5)
        assert await unit.standing.sweep(10, 5) is False, "so many marks wait already"
        assert await unit.standing.sweeps() == (22, 32)
    await settle(database)
    async with database.unit() as unit:
        assert await unit.standing.sweeps() == (0, 32)
    waiting = "SELECT count(*), count(DISTINCT status) FROM standing WHERE code = 'trust'"
    assert rows(database_url, waiting) == [(61, 1)]


async def test_changes_for_many_that_wait_are_gone_through_once(
    database: PostgresDatabase, database_url: str
) -> None:
    await crowd(database)

    async def changes(*trusts: str) -> None:
        with psycopg.connect(database_url, autocommit=True) as connection:
            for trust in trusts:
                connection.execute("UPDATE applications SET trust = %s WHERE id = 'crew'", (trust,))

    await changes("watch", "add", "watch")
    async with database.unit() as unit:
        assert await unit.standing.sweeps() == (96, 32)
        assert await unit.standing.sweep(10, 50)
        assert await unit.standing.sweeps() == (22, 32), "one for all three"
    await changes("add", "watch")
    async with database.unit() as unit:
        assert await unit.standing.sweep(10, 50)
        assert await unit.standing.sweeps() == (12 + 32, 32), "who was marked before is again"
    await settle(database)
    waiting = "SELECT count(*), count(DISTINCT status) FROM standing WHERE code = 'trust'"
    assert rows(database_url, waiting) == [(61, 1)]


async def test_the_closing_day_moves_with_its_fact_and_with_nothing_else(
    database: PostgresDatabase, database_url: str
) -> None:
    await world(database)
    moved = NOW - timedelta(hours=5)
    async with database.unit() as unit:
        await unit.people.change([person(department="Kitchen")])
        await unit.people.record(
            [
                Fact(
                    id="f",
                    person_id="p1",
                    effective_at=moved,
                    known_at=NOW + timedelta(minutes=1),
                    before={"department": "Deck"},
                    after={"department": "Kitchen"},
                    author="ines",
                    reason="",
                )
            ]
        )
    due = "SELECT due_at, state FROM obligations WHERE account_id = 'a-p1' AND kind = 'close' AND state <> 'cancelled'"
    await settle(database, NOW + timedelta(minutes=2))
    assert rows(database_url, due) == [(moved + 7 * DAY, "open")]
    for later in (NOW + DAY, NOW + 3 * DAY):
        hold = Decision(
            id=f"h{later.day}", subject_id="crew", kind=DecisionKind.HOLD, author="i", reason="r"
        )
        async with database.unit() as unit:
            await unit.decisions.put(hold, later, None)
        await settle(database, later)
        assert rows(database_url, due) == [], "under a hold without end nothing is due"
        async with database.unit() as unit:
            await unit.decisions.end(hold.id, later)
        await settle(database, later)
        assert rows(database_url, due) == [(moved + 7 * DAY, "open")]
    async with database.unit() as unit:
        await unit.people.change([person(department="Deck")])
    await settle(database, NOW + 4 * DAY)
    assert rows(database_url, due) == [], "given again"
    rights = "SELECT since_at, until_at FROM rights WHERE account_id = 'a-p1' ORDER BY 1"
    assert rows(database_url, rights) == [(NOW, moved), (NOW + 4 * DAY, None)]


async def test_what_is_due_becomes_one_docket_and_is_not_tried_again(
    database: PostgresDatabase, database_url: str
) -> None:
    await world(database)
    closes = LEFT + 7 * DAY
    async with database.unit() as unit:
        assert await unit.obligations.fall_due(closes, 10) == 1
    await settle(database, closes)
    made = "SELECT verb, state, cause->>'account' FROM dockets"
    assert rows(database_url, made) == [("close", "scheduled", "a-p2")]
    async with database.unit() as unit:
        await unit.standing.mark(["p2"])
    await settle(database, closes + DAY)
    assert len(rows(database_url, made)) == 1
    with psycopg.connect(database_url) as connection:
        connection.execute("UPDATE dockets SET state = 'done'")
    await settle(database, closes + 2 * DAY)
    assert len(rows(database_url, made)) == 1, "what it left open is a line, not a new docket"
    assert rows(database_url, OWED) == [("a-p2", "close", closes, "done")]
    lines = [r for r in rows(database_url, LINES) if r[0] == "p2"]
    assert [(r[3], r[5], r[6]) for r in lines] == [("closing", "finding", closes)]
    with psycopg.connect(database_url) as connection:  # its end is corrected: that is another day
        connection.execute(
            "UPDATE people SET access_ends = access_ends + interval '30 days' WHERE id = 'p2'"
        )
    await settle(database, closes + 2 * DAY)
    async with database.unit() as unit:
        owed = await unit.obligations.of(["p2"])
    live = [o for o in owed if o.state is ObligationState.OPEN and o.kind is ObligationKind.RECHECK]
    assert [o.due_at for o in live] == [LEFT + 30 * DAY]


async def test_two_workers_look_at_one_subject_one_after_the_other(
    database: PostgresDatabase, database_url: str
) -> None:
    await world(database)
    async with database.unit() as unit:
        await unit.people.change([replace(person(), department="Kitchen")])
        await unit.standing.mark(["p1"] * 20 + ["p2"] * 20)
    await asyncio.gather(*(look(database, FixedClock(NOW)) for _ in range(6)))
    await settle(database)
    live = "SELECT count(*), count(DISTINCT (account_id, kind)) FROM obligations WHERE state IN ('open', 'due', 'taken')"
    ((count, distinct),) = rows(database_url, live)
    assert count == distinct == 2


async def test_lines_are_stored_as_they_are_whatever_an_application_calls_things(
    database: PostgresDatabase,
) -> None:
    await world(database)
    odd = "tab\t, back\\slash, \\N, line\nend, \r, Åse, '\""
    line = Line(
        application_id="crew",
        account_id="a-p1",
        kind=LineKind.ENTITLEMENT,
        item=odd,
        side=Side.TOO_MUCH,
        want=odd,
        held="",
        reason=odd,
        since=NOW,
    )
    async with database.unit() as unit:
        await unit.standing.put_lines([("p1", line)], [], [])
        await unit.standing.put_lines([], [("p1", replace(line, held="held"))], [])
    async with database.unit() as unit:
        stored = (await unit.standing.stood(["p1"], NOW))[1]["p1"]
        assert stored[line.key] == replace(line, held="held")
        await unit.standing.put_lines([], [], [("p1", line.key)])
        assert line.key not in (await unit.standing.stood(["p1"], NOW))[1]["p1"]


async def test_what_a_mark_missed_is_found_within_a_day_and_counted(
    database: PostgresDatabase, database_url: str
) -> None:
    await world(database)

    async def patrol(at: datetime) -> tuple[bool, tuple[datetime, int] | None]:
        async with database.unit() as unit:
            begun = await unit.standing.patrol(at, DAY)
        await settle(database, at)
        async with database.unit() as unit:
            return begun, await unit.standing.last_patrol()

    assert await patrol(NOW) == (True, (NOW, 0))
    with psycopg.connect(database_url) as connection:
        connection.execute("DELETE FROM standing")  # as a fault of ours would
    assert await patrol(NOW + timedelta(hours=23)) == (False, (NOW, 0))
    assert rows(database_url, LINES) == []
    assert await patrol(NOW + DAY) == (True, (NOW + DAY, 1))
    assert [r[:6] for r in rows(database_url, LINES)] == [
        ("p1", "crew", "entitlement", "deck", "missing", "finding")
    ]
    assert await patrol(NOW + 2 * DAY) == (True, (NOW + 2 * DAY, 0))


async def test_a_line_counts_again_once_its_acceptance_is_over(
    database: PostgresDatabase, database_url: str
) -> None:
    await world(database)
    ends = NOW + timedelta(hours=1)
    made = acceptance(made=NOW, ends=ends)
    async with database.unit() as unit:
        await unit.standing.accept(made)
    status = "SELECT status, since_at FROM standing"
    await settle(database)
    assert rows(database_url, status) == [("accepted", NOW)]
    async with database.unit() as unit:
        assert await unit.standing.mark_ended(ends - timedelta(seconds=1)) == 0
        assert await unit.obligations.next_moment(NOW) == ends
        assert await unit.standing.mark_ended(ends) == 1
        assert await unit.standing.mark_ended(ends) == 0, "it has its mark"
    await settle(database, ends)
    assert rows(database_url, status) == [("finding", NOW)], "since when stays"
