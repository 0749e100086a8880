"""Each declared filter and order of the big lists is answered from an index; what is not ends in time."""

from __future__ import annotations

import re
from collections.abc import AsyncIterator, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime, timedelta
from itertools import product
from typing import Any

import psycopg
import psycopg.sql
import pytest
import sqlalchemy as sa

from yugum.core.accounts import AccountKind, AccountState
from yugum.core.dockets import DocketState
from yugum.core.lists import AccountSort, DocketSort, Order, PersonSort
from yugum.core.people import FILTER_ATTRIBUTES, PersonState
from yugum.core.verbs import Verb
from yugum.errors import InvalidInput, TooSlow
from yugum.ports.accounts import ChosenAccounts
from yugum.ports.dockets import ChosenDockets
from yugum.ports.people import ChosenPeople
from yugum.storage import pages
from yugum.storage.database import PostgresDatabase
from yugum.wire.filters import parse_filter

NOW = datetime(2031, 3, 3, 8, 40, tzinfo=UTC)
MANY = 12_000
FILL = f"""
INSERT INTO applications (id, name, kind) SELECT 'app' || n, 'App', 'manual' FROM generate_series(0, 4) n;
INSERT INTO people (id, user_name, display_name, family_name, given_name, employee_number, department,
  site, user_type, search, manager_id, starts, access_ends, absent_from, absent_until)
SELECT 'p' || n, 'p' || n, 'P ' || n, 'F' || n % 997, 'G' || n % 31, '' || n, 'Department ' || n % 300,
  'Site ' || n % 200, 'kind ' || n % 150, 'p' || n, CASE WHEN n > 9 THEN 'p' || n % 900 + 1 END,
  CASE WHEN n % 3 > 0 THEN DATE '2020-01-01' + n % 4000 + CASE WHEN n % 200 = 0 THEN 4000 ELSE 0 END END,
  CASE WHEN n % 90 = 0 THEN timestamptz '2031-03-01' - make_interval(days => n % 900) END,
  CASE WHEN n % 80 = 0 THEN timestamptz '2031-03-01' END,
  CASE WHEN n % 80 = 0 THEN timestamptz '2031-04-01' END FROM generate_series(1, {MANY}) n;
INSERT INTO subjects (id) SELECT id FROM people;
INSERT INTO accounts (id, application_id, person_id, login, external_id, state, kind, last_used)
SELECT 'a' || n, 'app' || n % 5, 'p' || n, 'p' || n, 'x' || n,
  CASE WHEN n % 120 = 0 THEN 'deleted' WHEN n % 131 = 0 THEN 'suspended' ELSE 'active' END,
  CASE WHEN n % 150 = 7 THEN 'service' ELSE 'person' END,
  CASE WHEN n % 7 > 0 THEN timestamptz '2031-03-01' - make_interval(hours => n) END
FROM generate_series(1, {MANY}) n;
INSERT INTO dockets (id, subject_id, verb, state, author, reference, due_at, made_at, batch_id)
SELECT 'd' || n, 'p' || n, CASE WHEN n % 90 = 0 THEN 'leaver' ELSE 'recheck' END,
  CASE WHEN n % 100 = 0 THEN 'running' ELSE 'done' END, 'author ' || n % 200,
  CASE WHEN n % 2 = 0 THEN 'HR-' || n % 600 ELSE '' END,
  timestamptz '2031-03-01' - make_interval(hours => n), now(), 'b' || n % 900
FROM generate_series(1, {MANY}) n;
"""


@pytest.fixture
async def filled(database_url: str) -> AsyncIterator[PostgresDatabase]:
    with psycopg.connect(database_url, autocommit=True) as connection:
        connection.execute(FILL.encode())
        connection.execute("VACUUM ANALYZE")
    made = PostgresDatabase(database_url)
    yield made
    await made.close()


@contextmanager
def heard(database: PostgresDatabase) -> Iterator[list[tuple[str, Any]]]:
    """Every statement that is sent meanwhile, with its values."""
    said: list[tuple[str, Any]] = []

    def listen(_c: object, _k: object, text: str, values: Any, *_: object) -> None:
        if text.lstrip().startswith("SELECT") and "set_config" not in text:
            said.append((text, values))

    engine = database._engine.sync_engine
    sa.event.listen(engine, "before_cursor_execute", listen)
    try:
        yield said
    finally:
        sa.event.remove(engine, "before_cursor_execute", listen)


def prepared_plan(
    connection: psycopg.Connection[Any], text: str, values: Any
) -> list[tuple[Any, ...]]:
    """The plan of a statement that is prepared for any values."""
    names = list(values or {})
    for n, name in enumerate(names, 1):
        text = text.replace(f"%({name})s", f"${n}")
    connection.execute("SET plan_cache_mode = force_generic_plan")
    connection.execute(b"PREPARE list AS " + text.replace("%%", "%").encode())
    said = psycopg.sql.SQL(", ").join(psycopg.sql.Literal(values[n]) for n in names)
    given = psycopg.sql.SQL("({})").format(said) if names else psycopg.sql.SQL("")
    return connection.execute(psycopg.sql.SQL("EXPLAIN EXECUTE list") + given).fetchall()


def unindexed(url: str, text: str, values: Any) -> list[str]:
    """What of a statement's plan reads a whole big table, or sorts a large part of one.

    Names beside the rows (of managers, of people behind accounts) may come from a table read once.
    """
    with psycopg.connect(url) as connection:
        rows = connection.execute(f"EXPLAIN {text}".encode(), values).fetchall()
        rows += prepared_plan(connection, text, values)
    plan = "\n".join(r[0] for r in rows)
    listed = re.search(r"FROM (people|accounts|dockets)\b", text)
    assert listed is not None
    found = re.findall(rf"Seq Scan on {listed[1]}  .*", plan)
    sorts = re.findall(r"Sort  \(cost=\S+ rows=(\d+)", plan)
    return found + [f"sorts {n}" for n in sorts if int(n) > MANY / 10]


ORDERS = [
    *[ChosenPeople(sort=s, order=o) for s, o in product(PersonSort, Order)],
    *[ChosenAccounts(sort=s, order=o) for s, o in product(AccountSort, Order)],
    *[ChosenDockets(sort=s, order=o) for s, o in product(DocketSort, Order)],
]
FILTERS = [
    ChosenPeople(query="p77"),
    ChosenPeople(department="dePartment 7"),
    ChosenPeople(site="Site 7"),
    ChosenPeople(user_type="kind 7"),
    ChosenPeople(manager_id="p7"),
    *[ChosenPeople(state=s) for s in (PersonState.LEFT, PersonState.ABSENT, PersonState.EXPECTED)],
    ChosenAccounts(application="app3"),
    ChosenAccounts(state=AccountState.DELETED),
    ChosenAccounts(state=AccountState.SUSPENDED, application="app3"),
    ChosenAccounts(kind=AccountKind.SERVICE),
    ChosenAccounts(person_id="p7"),
    ChosenAccounts(query="p77"),
    ChosenDockets(state=DocketState.RUNNING),
    ChosenDockets(verb=Verb.LEAVER),
    ChosenDockets(author="author 7"),
    ChosenDockets(reference="hr-8"),
    ChosenDockets(subject_id="p7"),
    ChosenDockets(batch_id="b7"),
    ChosenDockets(since=NOW - timedelta(days=9), before=NOW),
]


async def asked(database: PostgresDatabase, chosen: Any, cursor: str | None = None) -> Any:
    async with database.unit() as unit:
        if isinstance(chosen, ChosenPeople):
            return await unit.people.page(NOW, chosen, cursor, 50)
        of = unit.accounts if isinstance(chosen, ChosenAccounts) else unit.dockets
        return await of.page(chosen, cursor=cursor, limit=50)


async def test_declared_filters_and_orders_have_an_index(
    filled: PostgresDatabase, database_url: str
) -> None:
    wrong = []
    for chosen in [*ORDERS, *FILTERS]:
        with heard(filled) as said:
            page = await asked(filled, chosen)
        assert page.items, chosen
        # A count of all is a reading of an index, up to ten thousand and one rows of it.
        rows = said[-1:] if chosen in ORDERS else said
        assert rows, chosen
        wrong += [
            (chosen, w) for text, values in rows for w in unindexed(database_url, text, values)
        ]
    assert not wrong, wrong


async def test_counts_end_at_ten_thousand_and_a_cursor_belongs_to_its_order(
    filled: PostgresDatabase,
) -> None:
    page = await asked(filled, ChosenPeople())
    assert (page.total, page.over) == (10_000, True)
    some = await asked(filled, ChosenPeople(department="Department 7"))
    assert (some.total, some.over) == (MANY // 300, False)
    for other in (ChosenPeople(order=Order.DESCENDING), ChosenPeople(sort=PersonSort.SITE)):
        with pytest.raises(InvalidInput, match="another list"):
            await asked(filled, other, page.next)
    last = ChosenPeople(sort=PersonSort.LEAVES, order=Order.DESCENDING)
    seen: list[str] = []
    cursor = None
    for _ in range(4):
        page = await asked(filled, last, cursor)
        seen += [p.id for p in page.items]
        cursor = page.next
    assert len(set(seen)) == 200, "who has no such day comes first, last row first, each once"


async def test_a_filter_that_no_index_answers_ends_in_time(
    filled: PostgresDatabase, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(pages, "PATIENCE", 1)
    anything = parse_filter('title co "x" or displayName co "y"', FILTER_ATTRIBUTES)
    with pytest.raises(TooSlow, match="2 seconds") as error:
        await asked(filled, ChosenPeople(condition=anything))
    assert "--department" in error.value.remedy
    monkeypatch.undo()
    assert (await asked(filled, ChosenPeople(condition=anything))).items == []


@pytest.mark.parametrize(
    ("chosen", "index"),
    [
        (ChosenPeople(query="p77"), "ix_people_search"),
        (ChosenAccounts(query="p77"), "ix_accounts_login"),
    ],
)
async def test_a_search_that_is_prepared_goes_by_its_index(
    filled: PostgresDatabase, database_url: str, chosen: Any, index: str
) -> None:
    with heard(filled) as said:
        await asked(filled, chosen)
    with psycopg.connect(database_url) as connection:
        plan = prepared_plan(connection, *said[-1])
    assert index in "\n".join(r[0] for r in plan)


def _until(text: str, part: str) -> str:
    """A text as far as a part of it, or the part alone where it is none."""
    at = text.find(part.lower())
    return part if at < 0 else text[: at + len(part)]


@pytest.mark.parametrize(
    ("part", "count"),
    [
        ("O'N", 1),
        ("50%", 1),
        ("%_", 1),
        ("a/b", 1),
        ("b\\c", 1),
        ("%(x)s", 1),
        ("o_n", 0),
        ("%", 1),
    ],
)
async def test_what_is_searched_for_is_nothing_but_itself(
    filled: PostgresDatabase, database_url: str, part: str, count: int
) -> None:
    odd = "o'neil 50%_ a/b\\c %(x)s"
    with psycopg.connect(database_url, autocommit=True) as connection:
        connection.execute("UPDATE people SET search = %s WHERE id = 'p7'", [odd])
        connection.execute("UPDATE accounts SET login = %s WHERE id = 'a7'", [odd])
    found = await asked(filled, ChosenPeople(query=part))
    assert [p.id for p in found.items] == ["p7"] * count
    accounts = await asked(filled, ChosenAccounts(query=_until(odd, part)))
    assert [a.id for a in accounts.items] == ["a7"] * count
