"""Findings are read from what triggers and a worker keep: it may hold too many, never too few."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta

import psycopg

from yugum.core.findings import FindingKind
from yugum.engine.finding_days import count_today
from yugum.storage.database import PostgresDatabase

NOW = datetime(2031, 3, 3, 8, 40, tzinfo=UTC)
FILL = """
INSERT INTO applications (id, name, kind) VALUES ('crew', 'Crew', 'manual');
INSERT INTO people (id, user_name, display_name, department, employee_number, search)
SELECT 'p' || n, 'p' || n, 'Person ' || n, 'Deck', n::text, '' FROM generate_series(1, 5) n;
INSERT INTO subjects (id) SELECT id FROM people;
INSERT INTO accounts (id, application_id, person_id, login, external_id, state)
SELECT 'a' || n, 'crew', 'p' || n, 'p' || n, 'x' || n, 'active' FROM generate_series(1, 4) n;
INSERT INTO pools (id, application_id, license, bought, price)
VALUES ('pool', 'crew', 'planner', 9, 9);
"""
LEFT = "UPDATE people SET access_ends = '2031-03-01' WHERE id IN ('p1', 'p5')"


async def found(database: PostgresDatabase) -> dict[FindingKind, list[str]]:
    """Logins by kind, of a list whose figure is the number of its rows."""
    async with database.unit() as unit:
        page = await unit.findings.page(NOW, cursor=None, limit=50)
        counts = await unit.findings.counts(NOW)
    assert page.total == len(page.items) == sum(c.count for c in counts)
    kinds: dict[FindingKind, list[str]] = {}
    for finding in page.items:
        kinds.setdefault(finding.kind, []).append(finding.login)
    return kinds


async def put_aside(database: PostgresDatabase) -> int:
    async with database.unit() as unit:
        return await unit.findings.put_aside(NOW)


async def test_who_left_is_put_aside_and_comes_back_with_an_account_or_a_seat(
    database: PostgresDatabase, database_url: str
) -> None:
    with psycopg.connect(database_url, autocommit=True) as connection:
        connection.execute(FILL.encode())
        connection.execute(LEFT)
        assert await found(database) == {FindingKind.LEAVER_OPEN: ["p1"]}
        assert await put_aside(database) == 1, "who has nothing open, and nobody else"
        assert await found(database) == {FindingKind.LEAVER_OPEN: ["p1"]}
        connection.execute("UPDATE accounts SET state = 'suspended' WHERE id = 'a1'")
        assert (await put_aside(database), await put_aside(database)) == (1, 0)
        assert await found(database) == {}
        connection.execute("UPDATE accounts SET state = 'active' WHERE id = 'a1'")
        assert await found(database) == {FindingKind.LEAVER_OPEN: ["p1"]}
        connection.execute("UPDATE accounts SET person_id = 'p5' WHERE id = 'a2'")
        assert await found(database) == {FindingKind.LEAVER_OPEN: ["p1", "p2"]}
        connection.execute("UPDATE accounts SET state = 'deleted' WHERE id IN ('a1', 'a2')")
        assert await put_aside(database) == 2
        connection.execute(
            """INSERT INTO seat_claims (id, pool_id, account_id, person_id, state, since_at)
               VALUES ('s', 'pool', 'a1', 'p1', 'held', now())"""
        )
        assert await found(database) == {FindingKind.LEAVER_SEAT: ["p1"]}
        connection.execute("UPDATE people SET access_ends = NULL WHERE id = 'p1'")
        assert await found(database) == {}


async def test_what_an_account_of_nobody_holds_is_no_finding_about_somebody(
    database: PostgresDatabase, database_url: str
) -> None:
    with psycopg.connect(database_url, autocommit=True) as connection:
        connection.execute(FILL.encode())
        connection.execute(
            """INSERT INTO accounts (id, application_id, login, external_id, state)
               VALUES ('a9', 'crew', 'nobody', 'x9', 'suspended');
               INSERT INTO standing (subject_id, application_id, account_id, kind, item, side, status, since_at)
               VALUES ('a9', 'crew', 'a9', 'setting', 'q', 'differs', 'finding', now()),
                      ('p2', 'crew', 'a2', 'setting', 'q', 'differs', 'finding', now()),
                      ('p3', 'crew', '', 'account', '', 'missing', 'finding', now())"""
        )
    assert await found(database) == {FindingKind.DIFFERS: ["p2"], FindingKind.MISSING: ["p3"]}


async def test_whoever_opens_an_account_while_the_worker_looks_is_seen(
    database: PostgresDatabase, database_url: str
) -> None:
    with psycopg.connect(database_url, autocommit=True) as connection:
        connection.execute(FILL.encode())
        connection.execute("UPDATE accounts SET state = 'suspended'")
        connection.execute(LEFT)
    with psycopg.connect(database_url) as other:
        other.execute("UPDATE accounts SET state = 'active' WHERE id = 'a1'")
        assert await put_aside(database) == 1, "only who has nothing on the way"
        other.commit()
    assert await found(database) == {FindingKind.LEAVER_OPEN: ["p1"]}


async def test_people_who_are_alike_are_noted_as_they_come_and_change(
    database: PostgresDatabase, database_url: str
) -> None:
    with psycopg.connect(database_url, autocommit=True) as connection:
        connection.execute(FILL.encode())
        connection.execute("UPDATE people SET display_name = 'PERSON 1' WHERE id = 'p2'")
        connection.execute(
            """INSERT INTO people (id, user_name, display_name, department, search)
               VALUES ('p6', 'p6', 'person 3', 'Deck', ''), ('p7', 'p7', 'Person 4', 'Engine', '')"""
        )
        assert await found(database) == {FindingKind.PERSON_TWICE: ["p2", "p6"]}
        connection.execute("UPDATE people SET alike = false")  # as if neither had seen the other
        assert await found(database) == {}
        async with database.unit() as unit:
            await unit.findings.compare_names()
        assert await found(database) == {FindingKind.PERSON_TWICE: ["p2", "p6"]}


async def test_how_many_accounts_there_are_is_tallied_change_by_change(
    database: PostgresDatabase, database_url: str
) -> None:
    async def accounts() -> tuple[int, int, int]:
        async with database.unit() as unit:
            (line,) = await unit.applications.lines()
            whole = await unit.views.figures()
        return line.accounts, line.active, whole.accounts

    with psycopg.connect(database_url, autocommit=True) as connection:
        connection.execute(FILL.encode())
        assert await accounts() == (4, 4, 4)
        connection.execute("UPDATE accounts SET state = 'deleted' WHERE id IN ('a1', 'a2')")
        connection.execute("UPDATE accounts SET kind = 'group' WHERE id = 'a3'")
        connection.execute("UPDATE accounts SET login = 'other' WHERE id = 'a4'")
        assert await accounts() == (3, 1, 3)
        connection.execute("DELETE FROM accounts WHERE id = 'a1'")
        for _ in range(2):
            async with database.unit() as unit:
                await unit.views.gather()
            assert await accounts() == (2, 1, 2)
        (rows,) = connection.execute("SELECT count(*) FROM tallies").fetchone() or (0,)
    assert rows == 2, "one for each state"


async def test_how_many_there_were_is_kept_once_a_day_and_counted_anew(
    database: PostgresDatabase, database_url: str
) -> None:
    async def days(begin: date, end: date) -> list[tuple[date, dict[FindingKind, int]]]:
        async with database.unit() as unit:
            page = await unit.findings.days(begin, end, None, 50)
        return [(d.day, dict(d.counts)) for d in page.items]

    today, later = NOW.date(), NOW + timedelta(days=2)
    with psycopg.connect(database_url, autocommit=True) as connection:
        connection.execute(FILL.encode())
        await count_today(database, NOW)
        connection.execute(LEFT)
        await count_today(database, NOW)
        assert await days(today, today) == [(today, {})], "once a day"
        await count_today(database, NOW, again=True)
        one = {FindingKind.LEAVER_OPEN: 1}
        assert await days(today, today) == [(today, one)]
        connection.execute("UPDATE accounts SET state = 'deleted' WHERE id = 'a1'")
        await count_today(database, later)
        assert await days(today, later.date()) == [(today, one), (later.date(), {})]
        assert await days(later.date(), later.date()) == [(later.date(), {})]
        # The day is the organisation's: two hours before midnight here it has begun there.
        connection.execute(
            "INSERT INTO installation (organisation, prefix, zone, demo)"
            " VALUES ('Morrow', 'MS', 'Pacific/Kiritimati', false)"
        )
        await count_today(database, later.replace(hour=22))
        tomorrow = later.date() + timedelta(days=1)
        assert [d for d, _ in await days(tomorrow, tomorrow)] == [tomorrow]
