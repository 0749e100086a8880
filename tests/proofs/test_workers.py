"""Workers that die, stop and share: every effect exactly once, as the applications count it."""

from __future__ import annotations

import random
import re
import shutil
import signal
import time
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import psycopg
import pytest

from tests.conftest import FAST, NOW, scratch
from yugum.client import Client
from yugum.core.applications import Trust
from yugum.core.verbs import Verb
from yugum.wire import applications as wap
from yugum.wire import people as wp
from yugum.wire import plans as wl
from yugum_standins.load import found
from yugum_standins.look import CrewLook
from yugum_standins.stage import Stage, run_sql

BATCH = 200
SEEDS = 10
KILLS = 20
"""In each of the batches: 200 kill points over all."""
LEASE = {"YUGUM_LEASE_SECONDS": "3", "YUGUM_RETRY_BASE_SECONDS": "0.2"}


class Works:
    """Two real applications full of people who leave in batches."""

    def __init__(self, folder: Path, people: int) -> None:
        self.stage = Stage(folder, settings=FAST)
        self.url = self.stage.database()
        reporting = self.stage.cluster(
            "reporting", {"log_statement": "ddl", "log_line_prefix": "%m %u "}
        )
        self.reporting = reporting.url()
        names = [f"leaver{n}" for n in range(people)]
        roles = [f'CREATE ROLE "{n}" LOGIN; GRANT readers TO "{n}"' for n in names]
        run_sql(self.reporting, ["CREATE ROLE readers", *roles])
        users = [{"userName": n, "groups": ["Everybody"], "sessions": 1} for n in names]
        crew = self.stage.standin("crew", {"groups": ["Everybody"], "users": users}, window_days=30)
        self.crew = CrewLook(crew["url"], crew["headers"])
        token = found(self.stage, NOW)
        self.stage.serve(0)
        self.client = Client(self.stage.url, token)
        for begin in range(0, people, 500):
            self.client.people.create(
                [wp.NewPerson(user_name=n, given_name=n) for n in names[begin : begin + 500]]
            )
        self.client.applications.connect(
            wap.ConnectApplication(
                trust=Trust.FULL,
                id="crew",
                name="Crew",
                kind="scim",
                secret=crew["token"],
                url=f"{crew['url']}/scim/v2",
            )
        )
        self.client.applications.connect(
            wap.ConnectApplication(
                trust=Trust.FULL,
                id="reporting",
                name="Reporting",
                kind="postgres",
                secret=self.reporting,
            )
        )
        for application in ("crew", "reporting"):
            self.client.applications.read(application)
        self.begun = self.nologins()

    def leave(self, names: list[str]) -> None:
        batch = self.client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=names))
        self.client.plans.confirm(batch)

    def rows(self, query: str) -> list[tuple[Any, ...]]:
        with psycopg.connect(self.url) as connection:
            return connection.execute(query.encode()).fetchall()

    def wait_until_done(self, seconds: float = 60) -> None:
        deadline = time.monotonic() + seconds
        query = "SELECT count(*) FROM dockets WHERE state IN ('running', 'scheduled')"
        while time.monotonic() < deadline:
            if self.rows(query)[0][0] == 0:
                return
            time.sleep(0.1)
        stuck = self.rows(
            "SELECT action, state, problem, count(*) FROM steps "
            "WHERE state NOT IN ('done', 'left_out') GROUP BY 1, 2, 3"
        )
        pytest.fail(f"dockets are stuck: {stuck[:5]}")

    def nologins(self) -> Counter[str]:
        """How often each role was closed, by the database server's own log."""
        log = (self.stage.folder / "reporting" / "server.log").read_text(errors="replace")
        return Counter(re.findall(r'statement: ALTER ROLE "(\w+)" NOLOGIN', log))

    def check_effects_once(self, names: list[str]) -> None:
        roles = self.nologins()
        assert {n: roles[n] for n in names} == dict.fromkeys(names, 1)
        with psycopg.connect(self.reporting) as connection:
            left = connection.execute(
                "SELECT rolname FROM pg_roles WHERE rolcanlogin AND rolname = ANY(%s)", (names,)
            ).fetchall()
        assert left == []
        ids = {(self.crew.user(n) or {})["id"]: n for n in names}
        effects: Counter[tuple[str, str]] = Counter()
        for entry in self.crew.log():
            if entry["user"] in ids:
                effects[ids[entry["user"]], entry["effect"]] += 1
        for name in names:
            for effect in ("user.suspended", "sessions.ended", "group.removed"):
                assert effects[name, effect] == 1, (name, effect, effects[name, effect])

    def close(self) -> None:
        self.client.close()
        self.stage.stop()


@pytest.fixture(scope="module")
def works() -> Iterator[Works]:
    folder = scratch()
    made = Works(folder, BATCH * SEEDS + 600)
    yield made
    made.close()
    shutil.rmtree(folder, ignore_errors=True)


@pytest.mark.parametrize("seed", range(SEEDS))
def test_killed_workers_lose_and_double_nothing(works: Works, seed: int) -> None:
    """Each worker dies after its n-th intent is durable; the next one takes over."""
    names = [f"leaver{seed * BATCH + n}" for n in range(BATCH)]
    dice = random.Random(seed)
    works.leave(names)
    for kill in range(KILLS):
        at = dice.randint(1, 15)  # so that work is left for the last one, too
        settings = {**LEASE, "YUGUM_KILL_AFTER_INTENTS": str(at), "YUGUM_CLAIM": "8"}
        worker = works.stage.worker(f"k{seed}-{kill}", settings)
        assert worker.process is not None
        worker.process.wait(60)
        assert worker.process.returncode == -signal.SIGKILL
        intents = works.rows("SELECT count(*) FROM steps WHERE state = 'intent'")[0][0]
        assert intents >= 1
    after = works.stage.worker(f"r{seed}", LEASE)
    try:
        works.wait_until_done()
    finally:
        after.stop()
    works.check_effects_once(names)


def test_two_workers_share_a_batch(works: Works) -> None:
    first = BATCH * SEEDS
    names = [f"leaver{first + n}" for n in range(300)]
    works.crew.fault(latency_ms=20)
    workers = [
        works.stage.worker(n, {**LEASE, "YUGUM_CLAIM": "16", "YUGUM_LANES": "32"})
        for n in ("share1", "share2")
    ]
    try:
        works.leave(names)
        works.wait_until_done(120)
    finally:
        works.crew.fault(latency_ms=0)
        for worker in workers:
            worker.stop()
    done = dict(
        works.rows(
            "SELECT actor, count(*) FROM audit_events WHERE action = 'step.cut_off' "
            "AND actor LIKE 'worker share%' GROUP BY actor"
        )
    )
    assert sum(done.values()) == 600
    assert min(done.values()) >= 0.3 * 600, done
    works.check_effects_once(names)


def test_a_worker_stopped_past_its_lease_writes_nothing_late(works: Works) -> None:
    first = BATCH * SEEDS + 300
    names = [f"leaver{first + n}" for n in range(100)]
    works.crew.fault(latency_ms=150)
    sleeper = works.stage.worker("sleeper", LEASE)
    try:
        works.leave(names)
        deadline = time.monotonic() + 20
        # Stopped while slow calls are under way: what lies between a check of the lease and the
        # first byte of a call no lease can fence, and the quick application has many such moments.
        query = """SELECT count(*) FILTER (WHERE application_id = 'crew' AND state = 'intent'),
          count(*) FILTER (WHERE application_id = 'reporting' AND state <> 'done')
          FROM steps WHERE action = 'cut_off'"""
        while time.monotonic() < deadline:
            slow, quick = works.rows(query)[0]
            if slow >= 5 and quick == 0:
                break
            time.sleep(0.02)
        assert sleeper.process is not None
        sleeper.process.send_signal(signal.SIGSTOP)
        claimed = works.rows("SELECT id, epoch FROM subjects WHERE lease_owner = 'sleeper'")
        assert claimed
        works.crew.fault(latency_ms=0)
        other = works.stage.worker("other", LEASE)
        works.wait_until_done(60)
        epochs = dict(works.rows("SELECT id, epoch FROM subjects"))
        assert all(epochs[i] > epoch for i, epoch in claimed)
        receipts = works.rows("SELECT step_id, machine_at FROM receipts ORDER BY 1")
        sleeper.process.send_signal(signal.SIGCONT)
        time.sleep(3)
        assert works.rows("SELECT step_id, machine_at FROM receipts ORDER BY 1") == receipts
        assert "lease lost" in sleeper.log.read_text()
        other.stop()
    finally:
        works.crew.fault(latency_ms=0)
        if sleeper.process is not None:
            sleeper.process.send_signal(signal.SIGCONT)
        sleeper.stop()
    works.check_effects_once(names)
