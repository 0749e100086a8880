"""One person of two: every table that names a person is looked at, on real PostgreSQL."""

from __future__ import annotations

import re
import uuid
from datetime import UTC, date, datetime
from typing import Any

import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

from tests.builders import person
from yugum.storage import tables as t
from yugum.storage.database import PostgresDatabase
from yugum.storage.people import People

NOW = datetime(2031, 3, 3, 8, 40, tzinfo=UTC)
KEEP, GONE, OTHER = "p-keep", "p-gone", "p-other"
NAMED = re.compile(r"^(person|subject|owner|manager)_id$|^\w+_person(_id)?$")
STAYS = {"mails.subject", "audit_events.subject"}
"""A mail's heading; what was written down then."""


def naming() -> list[sa.Column[Any]]:
    """The columns that name a person, found without asking what becomes of them."""
    return [
        column
        for table in t.metadata.sorted_tables
        for column in table.columns
        if (NAMED.match(column.name) and not column.foreign_keys)
        or any(key.column.table in (t.people, t.subjects) for key in column.foreign_keys)
    ]


def filled(column: sa.Column[Any]) -> Any:
    """Some value of the column's type."""
    match column.type:
        case sa.DateTime():
            return NOW
        case sa.Date():
            return date(2031, 3, 3)
        case sa.Boolean():
            return True
        case sa.Integer():
            return uuid.uuid4().int % 2**31
        case sa.LargeBinary():
            return b"x"
    return uuid.uuid4().hex


async def put(connection: AsyncConnection, table: sa.Table, **known: Any) -> None:
    """A row with what is known and something in every column that must not be empty."""
    needed = {
        c.name: filled(c)
        for c in table.columns
        if not c.nullable and c.server_default is None and c.name not in known
    }
    await connection.execute(sa.insert(table).values(**needed | known))


async def everywhere(connection: AsyncConnection, who: str) -> set[str]:
    """Where the id stands, in any column of any table."""
    found = set()
    for table in t.metadata.sorted_tables:
        for row in (await connection.execute(sa.select(table))).mappings():
            found |= {f"{table.name}.{name}" for name, value in row.items() if who in str(value)}
    return found - STAYS


async def test_nothing_names_who_was_merged_and_nothing_is_lost(
    database: PostgresDatabase,
) -> None:
    async with database.unit() as unit:
        people = unit.people
        assert isinstance(people, People)
        connection = people.connection
        await people.insert([person(id=i, user_name=i) for i in (KEEP, GONE, OTHER)])
        # What a row of another table needs is not the matter here.
        await connection.execute(sa.text("SET LOCAL session_replication_role = replica"))
        for column in naming():
            if column.table is not t.people:
                await put(connection, column.table, **{column.name: GONE})
        common = {"shared_id": "safe", "since": NOW}
        for who in (KEEP, GONE):
            await put(connection, t.shared_known, person_id=who, **common)
        # A newcomer's manager, and somebody's successor and approver, was the one who goes.
        boss = sa.update(t.people).where(t.people.c.id.in_([KEEP, OTHER])).values(manager_id=GONE)
        await connection.execute(boss)
        await put(
            connection, t.decisions, subject_id=OTHER, kind="successor", payload={"person": GONE}
        )
        asked = [{"key": f"person:{GONE}", "name": "G"}, {"key": "operator:o", "name": "O"}]
        await put(connection, t.approvals, subject_id=OTHER, state="open", asked=asked)
        await put(connection, t.approval_links, who=f"person:{GONE}")

    # Another transaction: only what is changed from here on is held against its foreign keys.
    async with database.unit() as unit:
        people = unit.people
        assert isinstance(people, People)
        connection = people.connection
        before = await everywhere(connection, GONE)
        assert await people.merge(KEEP, GONE) == 1, "the accounts that came along"

        assert await everywhere(connection, GONE) == set()
        made_anew = {
            "plans.subject_id",
            "obligations.subject_id",
            "proposals.person_id",
            "mentions.person_id",
            "heads.subject_id",
            "standing.subject_id",
        }
        itself = {"people.id", "people.user_name", "people.search", "subjects.id"}
        kept = await everywhere(connection, KEEP)
        assert before - made_anew - itself - {"people.folded"} <= kept
        known = sa.select(sa.func.count()).where(t.shared_known.c.person_id == KEEP)
        assert await connection.scalar(known) == 2, "what both knew is known once"
        bosses = sa.select(t.people.c.id, t.people.c.manager_id)
        rows = {r.id: r.manager_id for r in await connection.execute(bosses)}
        assert rows == {KEEP: None, OTHER: KEEP}


def test_every_column_that_names_a_person_says_what_becomes_of_it() -> None:
    silent = [str(column) for column in naming() if t.Merged not in column.info]
    assert silent == [], "declare it with tables._whose"
