"""Rows and arrays on their way to the database: whatever is in a text arrives as it was."""

from __future__ import annotations

import asyncio
from typing import Any

import orjson
import psycopg
import sqlalchemy as sa
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.conftest import NOW
from yugum.cluster import Cluster
from yugum.ports.applications import Access
from yugum.ports.dockets import ChosenDockets
from yugum.storage import tables as t
from yugum.storage.database import PostgresDatabase
from yugum.storage.rows import among, to_array, to_json

TEXTS = st.text(st.characters(exclude_characters="\x00", exclude_categories=["Cs"]), max_size=20)
ODD = ["", " ", "NULL", "null", '"', "\\", '\\"', "{", "}", ",", "{a,b}", "'", "ä’ö", "\n", "\t"]


@settings(
    max_examples=60, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
@given(values=st.lists(st.one_of(TEXTS, st.sampled_from(ODD)), max_size=30))
def test_an_array_literal_is_read_as_it_was(cluster: Cluster, values: list[str]) -> None:
    with psycopg.connect(cluster.url()) as connection:
        row = connection.execute("SELECT cast(%s AS text[])", (to_array(values),)).fetchone()
    assert row is not None
    assert row[0] == values


@settings(
    max_examples=40, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
@given(rows=st.lists(st.dictionaries(st.sampled_from("abc"), TEXTS), max_size=10))
def test_rows_are_read_as_they_were(cluster: Cluster, rows: list[dict[str, str]]) -> None:
    text = to_json(rows)
    with psycopg.connect(cluster.url()) as connection:
        row = connection.execute(
            "SELECT coalesce(jsonb_agg(to_jsonb(r)), '[]') FROM"
            " jsonb_to_recordset(cast(%s AS jsonb)) AS r(a text, b text, c text)",
            (text,),
        ).fetchone()
    assert row is not None
    full = [{k: r.get(k) for k in "abc"} for r in rows]
    assert orjson.loads(orjson.dumps(row[0])) == full


async def test_among_finds_exactly_those(database: PostgresDatabase) -> None:
    names = [*ODD[1:], "plain", "Plain", "plain "]
    async with database.unit() as unit:
        connection: Any = unit.people.connection  # type: ignore[attr-defined]
        await connection.execute(sa.insert(t.subjects), [{"id": n} for n in names])
    async with database.unit() as unit:
        connection = unit.people.connection  # type: ignore[attr-defined]
        for wanted in ([], ["plain"], ['\\"', "{a,b}"], names, ["no such", "NULL"]):
            query = sa.select(t.subjects.c.id).where(among(t.subjects.c.id, wanted))
            found = set(await connection.scalars(query))
            assert found == set(wanted) & set(names)


async def test_many_ids_are_read_once(database: PostgresDatabase) -> None:
    """The parameter itself is an array: a text that is cast would be read again for every row."""
    async with database.unit() as unit:
        connection: Any = unit.people.connection  # type: ignore[attr-defined]
        await connection.execute(
            sa.text("INSERT INTO subjects (id) SELECT 's' || n FROM generate_series(1, 20000) n")
        )
        await connection.execute(sa.text("ANALYZE subjects"))
        wanted = [f"s{n}" for n in range(0, 20000, 50)]
        query = sa.select(t.subjects.c.id).where(among(t.subjects.c.id, wanted))
        assert len(set(await connection.scalars(query))) == 399
        compiled = query.compile(dialect=connection.dialect)
        values = {name: to_array(value) for name, value in compiled.params.items()}
        plan = await connection.exec_driver_sql(f"EXPLAIN {compiled}", values)
        lines = "\n".join(r[0] for r in plan)
    assert "::text)::text[]" not in lines, lines


async def test_other_workers_hear_of_cut_offs_in_hand(database: PostgresDatabase) -> None:
    async with database.unit() as unit:
        assert not await unit.gates.cutting("one", 5.0), "nobody else"
    async with database.unit() as unit:
        assert await unit.gates.cutting("two", 0.0), "the first has some"
    async with database.unit() as unit:
        assert not await unit.gates.cutting("one", 0.3), "the second said it has none"
    await asyncio.sleep(0.4)
    async with database.unit() as unit:
        assert not await unit.gates.cutting("two", 0.0), "what was said runs out, as after a crash"


async def test_history_keeps_what_was_held_when(database: PostgresDatabase) -> None:
    """Taken, given back and taken again, also within one moment of a clock that stands."""
    from dataclasses import replace

    from tests.builders import account, person
    from yugum.core.applications import Application

    mine = account(person_id="p1", entitlements=frozenset({"deck"}))
    async with database.unit() as unit:
        await unit.applications.put(
            Application(id="crew", name="Crew", kind="scim"), Access(), None
        )
        await unit.people.insert([person()])
        await unit.accounts.refresh([mine], NOW)
    for held in (frozenset[str](), frozenset({"deck"}), frozenset({"deck", "night"})):
        async with database.unit() as unit:
            await unit.accounts.refresh([replace(mine, entitlements=held)], NOW)
    async with database.unit() as unit:
        rows = await unit.accounts.history([mine.id])
    deck = [r.until_at for r in rows if r.item == "deck"]
    assert len(deck) == 2
    assert deck.count(None) == 1
    assert [r.until_at for r in rows if r.item == "night"] == [None]
    assert [r.until_at for r in rows if r.kind == "state"] == [None]


async def test_stuck_means_the_same_in_sql_as_in_the_core(database: PostgresDatabase) -> None:
    """The day sheet, lists and whoever follows a docket speak of the same steps."""
    from itertools import product

    import sqlalchemy as sa

    from tests.integration.test_storage import docket
    from yugum.core.dockets import StepProblem, StepState, is_stuck
    from yugum.storage import tables as t
    from yugum.storage.steps import STUCK

    problem = StepProblem(code="x", text="wrong")
    cases = list(product(StepState, (None, problem)))
    _, steps = await docket(database, len(cases))
    wanted = {}
    async with database.unit() as unit:
        connection = unit.dockets.connection  # type: ignore[attr-defined]
        for step, (state, wrong) in zip(steps, cases, strict=True):
            said = {"code": "x", "text": "wrong"} if wrong else sa.null()
            change = sa.update(t.steps).where(t.steps.c.id == step.id)
            await connection.execute(change.values(state=state.value, problem=said))
            wanted[step.id] = is_stuck(state, wrong)
        found = set(await connection.scalars(sa.select(t.steps.c.id).where(STUCK)))
        detail = await unit.dockets.one(steps[0].docket_id)
        page = await unit.dockets.page(ChosenDockets(stuck=True), limit=5)
    assert found == {i for i, stuck in wanted.items() if stuck}
    assert {s.id for s in detail.steps if s.stuck} == found
    assert [d.steps_stuck for d in page.items] == [len(found)]
