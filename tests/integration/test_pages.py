"""Pages of a list by cursors, on real PostgreSQL: every row once, whatever lies between two pages."""

from __future__ import annotations

import base64
import json
from datetime import UTC, datetime

import pytest
import sqlalchemy as sa

from tests.builders import person
from yugum.errors import InvalidInput
from yugum.storage import tables as t
from yugum.storage.database import PostgresDatabase
from yugum.storage.pages import fetch

NOW = datetime(2031, 3, 3, 8, 40, tzinfo=UTC)
KEYS = [t.people.c.department, t.people.c.absent_from, t.people.c.id]


async def filled(database: PostgresDatabase) -> list[tuple[str, datetime, str]]:
    rows = [(f"D{n % 3}", NOW.replace(day=1 + n % 2), f"p{n:02}~'\n\\%é") for n in range(24)]
    async with database.unit() as unit:
        await unit.people.insert(
            [person(id=i, user_name=i, department=d, absent_from=m) for d, m, i in rows]
        )
    return rows


@pytest.mark.parametrize("descending", [False, True])
@pytest.mark.parametrize("limit", [1, 5, 12, 24, 25])
async def test_every_row_comes_once_in_order(
    database: PostgresDatabase, limit: int, descending: bool
) -> None:
    rows = await filled(database)
    found: list[str] = []
    cursor = None
    async with database._engine.connect() as connection:
        while True:
            page = await fetch(
                connection,
                sa.select(t.people.c.user_name),
                KEYS,
                lambda r: str(r["user_name"]),
                cursor=cursor,
                limit=limit,
                descending=descending,
                count=cursor is None,
            )
            assert page.total == (24 if cursor is None else None)
            assert len(page.items) <= limit
            found += page.items
            if not (cursor := page.next):
                break
    assert found == [i for _, _, i in sorted(rows, reverse=descending)]


async def test_a_cursor_of_elsewhere_is_refused(database: PostgresDatabase) -> None:
    await filled(database)

    async def asked(cursor: str) -> None:
        async with database._engine.connect() as connection:
            query = sa.select(t.people.c.user_name)
            await fetch(connection, query, KEYS, dict, cursor=cursor, limit=5)

    at = NOW.isoformat()
    for text in (
        f"<s:D1~dt:{at}~s:p1",  # backwards
        f">s:D1~dt:{at}",
        f">s:D1~dt:{at}~s:p1~s:x",
        f">i:1~dt:{at}~s:p1",
        ">s:D1~dt:2031-03-03T08:40:00~s:p1",  # no zone
        ">s:D1~dt:soon~s:p1",
        ">s:D1~x~s:p1",
        ">true~true~true",
        ">b:!!~dt:x~n:x",
        ">",
        "s:D1",
        json.dumps(["D1", at, "p1"]),
    ):
        with pytest.raises(InvalidInput) as refused:
            await asked(base64.urlsafe_b64encode(text.encode()).decode())
        assert refused.value.place == "cursor"
    for cursor in ("x", "é", "====", "\x00", "AA=="):
        with pytest.raises(InvalidInput):
            await asked(cursor)
