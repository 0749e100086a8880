"""Migrations: what they make is what the tables say; they go back; old and new rows live together."""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from pathlib import Path

import psycopg
import pytest
import sqlalchemy as sa
from alembic import command
from alembic.autogenerate import compare_metadata
from alembic.config import Config
from alembic.migration import MigrationContext
from alembic.script import ScriptDirectory

import yugum.storage
from yugum.cluster import Cluster
from yugum.storage.database import migrate
from yugum.storage.tables import metadata

FOLDER = Path(yugum.storage.__file__).parent / "migrations"
_numbers = itertools.count(1)


@pytest.fixture
def empty(cluster: Cluster) -> Iterator[sa.Connection]:
    """A connection to a database with nothing in it."""
    name = f"bare{next(_numbers)}"
    cluster.create_database(name)
    url = cluster.url(name).replace("postgresql://", "postgresql+psycopg://", 1)
    engine = sa.create_engine(url)
    with engine.begin() as connection:
        yield connection
    engine.dispose()


def to(connection: sa.Connection, revision: str, *, back: bool = False) -> None:
    config = Config()
    config.set_main_option("script_location", str(FOLDER))
    config.attributes["connection"] = connection
    (command.downgrade if back else command.upgrade)(config, revision)


def ours(name: str | None) -> bool:
    return name in metadata.tables


def test_migrations_make_exactly_the_tables_of_the_code(cluster: Cluster) -> None:
    cluster.create_database("compared")
    url = cluster.url("compared")
    migrate(url)
    engine = sa.create_engine(url.replace("postgresql://", "postgresql+psycopg://", 1))
    with engine.connect() as connection:
        context = MigrationContext.configure(
            connection,
            opts={
                "include_name": lambda name, kind, _: kind != "table" or ours(name),
                "compare_type": True,
            },
        )
        differences = compare_metadata(context, metadata)
    engine.dispose()
    assert differences == []


def revisions() -> list[str]:
    config = Config()
    config.set_main_option("script_location", str(FOLDER))
    script = ScriptDirectory.from_config(config)
    assert len(script.get_heads()) == 1, "one line of migrations"
    return [r.revision for r in reversed(list(script.walk_revisions()))]


def columns(connection: sa.Connection) -> set[tuple[str, str, str]]:
    rows = connection.execute(
        sa.text(
            "SELECT table_name, column_name, data_type FROM information_schema.columns"
            " WHERE table_schema = 'public'"
        )
    )
    return {(r[0], r[1], r[2]) for r in rows}


def indexes(connection: sa.Connection) -> set[str]:
    rows = connection.execute(
        sa.text("SELECT indexdef FROM pg_indexes WHERE schemaname = 'public'")
    )
    return {r[0] for r in rows}


def test_each_migration_goes_back_to_what_was_before(empty: sa.Connection) -> None:
    line = revisions()
    to(empty, line[0])
    for revision in line[1:]:
        before = columns(empty), indexes(empty)
        to(empty, revision)
        to(empty, "-1", back=True)
        assert (columns(empty), indexes(empty)) == before, revision
        to(empty, revision)


def test_a_newer_schema_takes_the_rows_of_an_older_process(cluster: Cluster) -> None:
    """Workers of the version before go on writing while the schema is newer already."""
    cluster.create_database("older")
    url = cluster.url("older")
    migrate(url)
    with psycopg.connect(url) as connection:
        connection.execute(
            "INSERT INTO applications (id, name, kind) VALUES ('crew', 'Crew', 'scim')"
        )
        connection.execute(
            "INSERT INTO accounts (id, application_id, login, external_id, state)"
            " VALUES ('a', 'crew', 'mara', 'x', 'active')"
        )
        for _ in range(2):  # as 0010 wrote history, with its conflict target
            connection.execute(
                "INSERT INTO history (account_id, kind, item, from_at)"
                " VALUES ('a', 'state', 'active', '2031-03-03T08:00:00Z')"
                " ON CONFLICT (account_id, kind, item) WHERE until_at IS NULL DO NOTHING"
            )
        held = connection.execute("SELECT account_id, kind, item FROM history").fetchall()
    assert held == [("a", "state", "active")]


def test_migrating_again_changes_nothing(cluster: Cluster) -> None:
    cluster.create_database("again")
    url = cluster.url("again")
    migrate(url)
    with psycopg.connect(url) as connection:
        before = connection.execute(
            "SELECT relname, relfilenode FROM pg_class WHERE relkind IN ('r', 'i') ORDER BY 1"
        ).fetchall()
    migrate(url)
    with psycopg.connect(url) as connection:
        after = connection.execute(
            "SELECT relname, relfilenode FROM pg_class WHERE relkind IN ('r', 'i') ORDER BY 1"
        ).fetchall()
    assert after == before
