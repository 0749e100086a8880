"""64 writers in four processes ask for the last seats of a pool: exactly as many are taken, the rest stands in line.

Each request is the claim as a step makes it, and its line in the audit log in a transaction after it. The bare
counterpart is a guarded UPDATE and one row, a commit each, by as many writers.
"""

from __future__ import annotations

import asyncio
import tempfile
import time
from concurrent.futures import ProcessPoolExecutor
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import psutil
import psycopg

from bench.cutoff import _database_settings
from yugum.bootstrap import CLUSTER_SETTINGS
from yugum.cluster import Cluster
from yugum.core.actions import NO_ARGUMENTS, Action, Phase
from yugum.core.dockets import Step, StepState
from yugum.engine.events import make_event
from yugum.engine.work.claims import claim_for
from yugum.storage.database import PostgresDatabase, migrate

PROCESSES, WRITERS = 4, 16
NOW = datetime(2031, 3, 3, 8, 0, tzinfo=UTC)
BARE = (Path(__file__).parent / "seats_bare.sql").read_text()
FILL = """
INSERT INTO applications (id, name, kind) VALUES ('crew', 'Crew', 'manual');
INSERT INTO people (id, user_name, display_name, search)
SELECT 'p' || n, 'p' || n, 'Person ' || n, '' FROM generate_series(0, {0}) n;
INSERT INTO subjects (id) SELECT id FROM people;
INSERT INTO pools (id, application_id, license, bought) VALUES ('pool', 'crew', 'planner', {1});
CREATE TABLE bare_pool (id int PRIMARY KEY, bought int, held int, line int);
INSERT INTO bare_pool VALUES (1, {1}, 0, 0);
CREATE TABLE bare_claims (account_id text PRIMARY KEY, state text, place int);
ANALYZE;
"""


def seats(requests: int, rounds: int) -> dict[str, Any]:
    """Rounds with a quarter as many seats as requests, and one with three."""
    with tempfile.TemporaryDirectory(prefix="yugum-bench-", dir="/var/tmp") as folder:
        Path(folder).chmod(0o711)
        cluster = Cluster(Path(folder) / "postgres", CLUSTER_SETTINGS)
        cluster.start()
        try:
            bought = [requests // 4] * rounds + [3]
            found = [_round(cluster, n, requests, few) for n, few in enumerate(bought)]
            url = cluster.url("seats0")
            return {
                "name": "seats",
                "settings": {
                    "requests": requests,
                    "writers": PROCESSES * WRITERS,
                    "processes": PROCESSES,
                    **_database_settings(url),
                    "cores": psutil.cpu_count(),
                },
                "rounds": found,
                "memory": {},
            }
        finally:
            cluster.stop()


def _round(cluster: Cluster, number: int, requests: int, bought: int) -> dict[str, Any]:
    name = f"seats{number}"
    cluster.create_database(name)
    url = cluster.url(name)
    migrate(url)
    with psycopg.connect(url) as connection:
        connection.execute(FILL.format(requests, bought).encode())
    shares = [list(range(n, requests, PROCESSES)) for n in range(PROCESSES)]
    with ProcessPoolExecutor(PROCESSES) as pool:
        list(pool.map(_warm, [url] * PROCESSES))
        began = time.perf_counter()
        list(pool.map(_claims, [url] * PROCESSES, shares))
        mine = time.perf_counter() - began
        began = time.perf_counter()
        list(pool.map(_bare, [url] * PROCESSES, shares))
        theirs = time.perf_counter() - began
    with psycopg.connect(url) as connection:
        held, places = connection.execute(
            "SELECT count(*) FILTER (WHERE state = 'held'), array_agg(place ORDER BY place)"
            " FILTER (WHERE state = 'waiting') FROM seat_claims"
        ).fetchone() or (0, None)
    if held != bought or len(places) != requests - bought or len({*places}) != len(places):
        raise RuntimeError(f"{held} of {bought} seats are held, {len(places)} stand in line.")
    return {
        "seats": bought,
        "yugum s": round(mine, 2),
        "bare s": round(theirs, 2),
        "ratio": round(mine / theirs, 2),
        "claims/s": round(requests / mine),
        "held": held,
        "in line": len(places),
    }


def _warm(url: str) -> None:
    """Every process has begun and has its modules before the time runs."""
    with psycopg.connect(url) as connection:
        connection.execute("SELECT pg_sleep(0.3)")


def _claims(url: str, share: list[int]) -> None:
    asyncio.run(_claiming(url, share))


async def _claiming(url: str, share: list[int]) -> None:
    database = PostgresDatabase(url)
    waiting = iter(share)

    async def writer() -> None:
        for n in waiting:
            step = Step(
                id=f"s{n}",
                docket_id="d",
                subject_id=f"p{n}",
                account_id=f"a{n}",
                application_id="crew",
                action=Action.TAKE_SEAT,
                item="planner",
                position=0,
                phase=Phase.ACCESS,
                arguments=NO_ARGUMENTS,
                origin=None,
                state=StepState.INTENT,
            )
            async with database.unit() as unit:
                problem = await claim_for(unit, step, (), NOW)
            told = {"place": problem.text if problem else ""}
            async with (
                database.unit() as unit
            ):  # as a step does: its receipt is another transaction
                await unit.audit.add([make_event(NOW, "bench", "seat.claimed", f"p{n}", told)])

    await asyncio.gather(*(writer() for _ in range(WRITERS)))
    await database.close()


def _bare(url: str, share: list[int]) -> None:
    asyncio.run(_asking(url, share))


async def _asking(url: str, share: list[int]) -> None:
    waiting = iter(share)

    async def writer() -> None:
        connection = await psycopg.AsyncConnection.connect(url, autocommit=True)
        async with connection:
            for n in waiting:
                await connection.execute(BARE.encode(), (f"a{n}",))

    await asyncio.gather(*(writer() for _ in range(WRITERS)))
