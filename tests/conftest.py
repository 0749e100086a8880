"""Fixtures: real PostgreSQL and a real stage; nothing is mocked that runs here."""

from __future__ import annotations

import itertools
import os
import shutil
import tempfile
from collections.abc import AsyncIterator, Iterator
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

import psycopg
import pytest

from tests.proofs.play import Play, Report
from yugum.client import Client
from yugum.cluster import Cluster
from yugum.storage.database import PostgresDatabase, migrate
from yugum.wire import seats as wse
from yugum_standins.load import connect, found, loaded, raise_stage
from yugum_standins.look import CrewLook, ReportingLook
from yugum_standins.stage import Stage

FAST = {
    "fsync": "off",
    "synchronous_commit": "off",
    "full_page_writes": "off",
    "max_connections": "150",
    "shared_buffers": "64MB",
}
NOW = datetime(2031, 3, 3, 8, 40, tzinfo=UTC)


def scratch() -> Path:
    """A folder the user postgres can reach, unlike pytest's own."""
    folder = Path(tempfile.mkdtemp(prefix="yugum-test-", dir="/var/tmp"))
    folder.chmod(0o711)
    return folder


@pytest.fixture(scope="session")
def cluster() -> Iterator[Cluster]:
    """A bare PostgreSQL cluster with a migrated template database."""
    folder = scratch()
    made = Cluster(folder / "pg", FAST)
    made.start()
    made.create_database("template_yugum")
    migrate(made.url("template_yugum"))
    yield made
    made.stop()
    shutil.rmtree(folder, ignore_errors=True)


_numbers = itertools.count(1)


@pytest.fixture
def database_url(cluster: Cluster) -> str:
    """The URL of a fresh, migrated database."""
    name = f"t{next(_numbers)}"
    with psycopg.connect(cluster.url(), autocommit=True) as connection:
        connection.execute(f'CREATE DATABASE "{name}" TEMPLATE template_yugum'.encode())
    return cluster.url(name)


@pytest.fixture
async def database(database_url: str) -> AsyncIterator[PostgresDatabase]:
    made = PostgresDatabase(database_url)
    yield made
    await made.close()


@dataclass(frozen=True, slots=True)
class Theatre:
    """A running stage with the demo organisation loaded, and looks into the applications."""

    stage: Stage
    client: Client
    crew: CrewLook
    reporting: ReportingLook
    play: Play
    token: str


@pytest.fixture(scope="session")
def theatre() -> Iterator[Theatre]:
    """Service, worker, stand-in and databases as real processes, shared by the session."""
    folder = scratch()
    os.environ.setdefault("YUGUM_RETRY_BASE_SECONDS", "0.2")
    stage, _ = raise_stage(folder, port=0, settings=FAST)
    try:
        import json

        token = json.loads((folder / "client.json").read_text())["token"]
        with Client(stage.url, token) as client:
            connect(client, stage, lambda _: None)
            for pool in client.seats.all():  # so that tests do not run out of them
                client.seats.put(
                    wse.PutPool(
                        application_id=pool.application_id,
                        license=pool.license,
                        bought=pool.held + 390,
                    )
                )
            organisation = loaded(stage)
            crew = CrewLook(organisation.crew["url"], organisation.crew["headers"])
            reporting = ReportingLook(organisation.reporting)
            play = Play(stage, client, Report())
            yield Theatre(stage, client, crew, reporting, play, token)
    finally:
        stage.stop()
        shutil.rmtree(folder, ignore_errors=True)


@pytest.fixture
def stage() -> Iterator[Stage]:
    """An empty stage of one's own: a founded database, nothing else running."""
    folder = scratch()
    made = Stage(folder, settings=FAST)
    made.database()
    yield made
    made.stop()
    shutil.rmtree(folder, ignore_errors=True)


@pytest.fixture
def token(stage: Stage) -> str:
    return found(stage, NOW)
