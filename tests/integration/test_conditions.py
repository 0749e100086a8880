"""Conditions give the same people in Python and in SQL."""

from __future__ import annotations

import asyncio
import json
from collections.abc import Iterator

import psycopg
import pytest
import sqlalchemy as sa
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from sqlalchemy.dialects.postgresql import JSONB

from yugum.cluster import Cluster
from yugum.core.conditions import And, Compare, Condition, Not, Op, Or, Present, fold, matches
from yugum.ports.people import ChosenPeople
from yugum.storage.filters import to_sql

ATTRIBUTES = ("department", "title", "emails.type")
TEXT = st.text(alphabet="aB ß%_\\'\"éİ0", max_size=4).map(fold)
VALUES = st.dictionaries(
    st.sampled_from(ATTRIBUTES), st.lists(TEXT.filter(bool), min_size=1, max_size=3), max_size=3
)
LEAF: st.SearchStrategy[Condition] = st.one_of(
    st.builds(Compare, st.sampled_from(ATTRIBUTES), st.sampled_from(Op), TEXT),
    st.builds(Present, st.sampled_from(ATTRIBUTES)),
)
CONDITIONS = st.recursive(
    LEAF,
    lambda inner: st.one_of(
        st.builds(Not, inner),
        st.builds(And, st.lists(inner, max_size=3).map(tuple)),
        st.builds(Or, st.lists(inner, max_size=3).map(tuple)),
    ),
    max_leaves=6,
)


@pytest.fixture(scope="module")
def connection(cluster: Cluster) -> Iterator[sa.Connection]:
    engine = sa.create_engine(cluster.url(driver="postgresql+psycopg"))
    with engine.connect() as made:
        yield made
    engine.dispose()


@settings(max_examples=300, deadline=None, suppress_health_check=list(HealthCheck))
@given(condition=CONDITIONS, values=VALUES)
def test_python_and_sql_agree(
    connection: sa.Connection, condition: Condition, values: dict[str, list[str]]
) -> None:
    folded = sa.cast(sa.literal(json.dumps(values), sa.Text), JSONB)
    in_sql = connection.scalar(sa.select(to_sql(condition, folded)))
    assert in_sql is matches(condition, values)


def test_the_state_of_a_person_is_the_same_in_sql(cluster: Cluster) -> None:
    """Every boundary of a person's dates, one second around."""
    from datetime import UTC, date, datetime, timedelta

    from tests.builders import person
    from yugum.core.people import PersonState, state_at
    from yugum.storage.database import PostgresDatabase

    at = datetime(2031, 3, 30, 16, 0, tzinfo=UTC)
    people = [
        person(id="a", user_name="a", access_ends=at, time_zone="Europe/London"),
        person(id="b", user_name="b", starts=date(2031, 3, 31), time_zone="Pacific/Kiritimati"),
        person(id="c", user_name="c", absent_from=at, absent_until=at + timedelta(days=1)),
        person(id="d", user_name="d", starts=date(2032, 2, 29)),
    ]
    moments = [at + timedelta(seconds=s) for s in (-1, 0, 1)]
    moments += [
        datetime(2031, 3, 30, 9, 59, 59, tzinfo=UTC),
        datetime(2031, 3, 30, 10, tzinfo=UTC),
        at + timedelta(days=1),
        datetime(2032, 2, 28, 23, 59, 59, tzinfo=UTC),
        datetime(2032, 2, 29, tzinfo=UTC),
    ]

    async def run() -> None:
        with psycopg.connect(cluster.url(), autocommit=True) as c:
            c.execute("CREATE DATABASE states TEMPLATE template_yugum")
        database = PostgresDatabase(cluster.url("states"))
        async with database.unit() as unit:
            await unit.people.insert(people)
        for moment in moments:
            async with database.unit() as unit:
                page = await unit.people.page(moment, ChosenPeople(), cursor=None, limit=10)
            seen = {r.id: r.state for r in page.items}
            assert seen == {p.id: state_at(p, moment) for p in people}, moment
            for state in PersonState:
                async with database.unit() as unit:
                    page = await unit.people.page(moment, ChosenPeople(state=state), None, 10)
                assert {r.id for r in page.items} == {i for i, s in seen.items() if s == state}
        await database.close()

    asyncio.run(run())
