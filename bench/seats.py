"""64 writers in four processes ask for the last seats of a pool: exactly as many are taken, the rest stands in line.

Each request is the claim as a step of a worker makes it, and its line in the audit log gathered and durable as
the receipts of steps are. The bare counterpart is a guarded UPDATE and one row, a commit each, by as many writers.
"""

from __future__ import annotations

import asyncio
import signal
import tempfile
import time
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from datetime import UTC, datetime
from multiprocessing import Process
from pathlib import Path
from typing import Any

import psutil
import psycopg

from bench.cutoff import _database_settings
from yugum.bootstrap import CLUSTER_SETTINGS
from yugum.cluster import Cluster
from yugum.core.actions import NO_ARGUMENTS, Action, Phase
from yugum.core.dockets import Step, StepState
from yugum.core.documents import Json
from yugum.engine.events import make_event
from yugum.engine.work.batching import Batcher
from yugum.engine.work.claims import SeatDesk
from yugum.ports.audit import Event
from yugum.ports.units import UnitOfWork
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
COUNTS = """
SELECT count(*) FILTER (WHERE state = 'held'), count(*) FILTER (WHERE state = 'waiting'),
  count(DISTINCT account_id), count(DISTINCT place), (SELECT count(*) FROM audit_events)
FROM seat_claims WHERE until_at IS NULL
"""


class Standing:
    """A clock that stands still."""

    async def now(self, unit: UnitOfWork | None = None) -> datetime:  # noqa: ARG002
        return NOW


def seats(requests: int, rounds: int) -> dict[str, Any]:
    """Rounds with a quarter as many seats as requests, and one with three."""
    return _rounds(requests, [requests // 4] * rounds + [3], killed=0)


def seats_killed(requests: int, rounds: int) -> dict[str, Any]:
    """The same, while each process is killed once on its way; another one asks for all of its share again."""
    return _rounds(requests, [requests // 4] * rounds, killed=PROCESSES)


def _rounds(requests: int, bought: list[int], *, killed: int) -> dict[str, Any]:
    with tempfile.TemporaryDirectory(prefix="yugum-bench-", dir="/var/tmp") as folder:
        Path(folder).chmod(0o711)
        cluster = Cluster(Path(folder) / "postgres", CLUSTER_SETTINGS)
        cluster.start()
        try:
            found = [_round(cluster, n, requests, few, killed) for n, few in enumerate(bought)]
            url = cluster.url("seats0")
            return {
                "settings": {
                    "requests": requests,
                    "writers": PROCESSES * WRITERS,
                    "processes": PROCESSES,
                    "killed": killed,
                    **_database_settings(url),
                    "cores": psutil.cpu_count(),
                },
                "rounds": found,
                "memory": {},
            }
        finally:
            cluster.stop()


def _round(
    cluster: Cluster, number: int, requests: int, bought: int, killed: int
) -> dict[str, Any]:
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
        if killed:
            _killing(url, shares)
        else:
            list(pool.map(_claims, [url] * PROCESSES, shares))
        mine = time.perf_counter() - began
        began = time.perf_counter()
        list(pool.map(_bare, [url] * PROCESSES, shares))
        theirs = time.perf_counter() - began
    with psycopg.connect(url) as connection:
        counts = connection.execute(COUNTS).fetchone()
    held, waiting, accounts, places, told = counts or (0, 0, 0, 0, 0)
    if (held, waiting) != (bought, requests - bought) or accounts != requests or places != waiting:
        raise RuntimeError(f"{held} of {bought} seats are held, {waiting} stand in line: {counts}.")
    if told != requests and (told < requests or not killed):
        raise RuntimeError(f"{told} of {requests} are in the audit log.")
    return {
        "seats": bought,
        "yugum s": round(mine, 2),
        "bare s": round(theirs, 2),
        "ratio": round(mine / theirs, 2),
        "claims/s": round(requests / mine),
        "held": held,
        "in line": waiting,
    }


def _killing(url: str, shares: list[list[int]]) -> None:
    """Each share's process is killed in the midst of it, all of them at different moments."""
    made = [Process(target=_claims, args=(url, share)) for share in shares]
    for one in made:
        one.start()
    held = "SELECT count(*) FROM seat_claims"
    with psycopg.connect(url, autocommit=True) as connection:
        for n, one in enumerate(made, 1):
            while one.is_alive():
                (claims,) = connection.execute(held).fetchone() or (0,)
                if claims >= n * len(shares[0]) / 3:
                    one.kill()
                time.sleep(0.01)
            if one.exitcode != -signal.SIGKILL:
                raise RuntimeError("A process was through before it could be killed.")
    again = [Process(target=_claims, args=(url, share)) for share in shares]
    for one in again:
        one.start()
    for one in again:
        one.join()


def _warm(url: str) -> None:
    """Every process has begun and has its modules before the time runs."""
    with psycopg.connect(url) as connection:
        connection.execute("SELECT pg_sleep(0.3)")


def _claims(url: str, share: list[int]) -> None:
    asyncio.run(_claiming(url, share))


async def _claiming(url: str, share: list[int]) -> None:
    database = PostgresDatabase(url)
    desk = SeatDesk(database, Standing())
    waiting = iter(share)

    async def write(events: Sequence[Event]) -> Sequence[None]:
        async with database.unit() as unit:
            await unit.audit.add(events)
        return [None] * len(events)

    log: Batcher[Event, None] = Batcher(write)

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
            problem = await desk.claim(step, ())
            told: dict[str, Json] = {"place": problem.text if problem else ""}
            await log.submit(make_event(NOW, "bench", "seat.claimed", f"p{n}", told))

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
