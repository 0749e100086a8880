"""Seats by rule in one batch: 500 people of whom each is to have 40 licenses, 20,000 steps.

Planned, summarised and stored as the service does for a look, in a process of its own, which is set up as those of
the service are; the bare counterpart reads the same people, accounts and pools (``seats_plan_bare.sql``), a row for
each seat that is to be given. "looked" is asking the application for each account before anything is planned,
"computed" all else before anything is stored.
"""

from __future__ import annotations

import asyncio
import os
import resource
import tempfile
import time
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from typing import Any

import psycopg
import yaml

from bench.cutoff import _database_settings
from yugum.bootstrap import CLUSTER_SETTINGS, migrate, open_house
from yugum.cluster import Cluster
from yugum.core.actions import Action
from yugum.core.requests import PlanRequest
from yugum.core.verbs import Verb
from yugum.engine.plans import prepare
from yugum.engine.plans.safeguards import Actor
from yugum.processes import calm_collector
from yugum.settings import Settings

PEOPLE = 500
BARE = (Path(__file__).parent / "seats_plan_bare.sql").read_text().split(";\n")
FILL = """
SET session_replication_role = replica;
INSERT INTO applications (id, name, kind, trust, capabilities)
VALUES ('crew', 'Crew', 'manual', 'full', '["seats", "entitlements", "suspend"]');
INSERT INTO people (id, user_name, display_name, family_name, given_name, department, search, folded, time_zone)
SELECT 'p' || n, 'p' || n, 'G F' || n, 'F' || n, 'G', 'D1', 'p' || n,
  jsonb_build_object('department', jsonb_build_array('d1')), 'UTC' FROM generate_series(1, {people}) n;
INSERT INTO subjects (id) SELECT id FROM people;
INSERT INTO accounts (id, application_id, person_id, login, external_id, state)
SELECT 'a' || n, 'crew', 'p' || n, 'p' || n, 'p' || n, 'active' FROM generate_series(1, {people}) n;
INSERT INTO manual_accounts (application_id, external_id, document)
SELECT 'crew', 'p' || n, jsonb_build_object('login', 'p' || n, 'state', 'active', 'entitlements', '[]'::jsonb,
  'correlation', 'a' || n, 'display_name', 'G F' || n, 'employee_number', '') FROM generate_series(1, {people}) n;
INSERT INTO ledger (account_id, kind, item, origin_kind, origin_name, since_at)
SELECT 'a' || n, 'account', '', 'role', 'Everybody', now() FROM generate_series(1, {people}) n;
INSERT INTO pools (id, application_id, license, bought)
SELECT 'l' || l, 'crew', 'License ' || l, 100000 FROM generate_series(1, {licenses}) l;
INSERT INTO heads (subject_id, upto_at) SELECT id, now() FROM people;
DELETE FROM sweeps; DELETE FROM marks;
"""


def seats_plan(size: int, rounds: int) -> dict[str, Any]:
    licenses = size // PEOPLE
    with tempfile.TemporaryDirectory(prefix="yugum-bench-", dir="/var/tmp") as folder:
        Path(folder).chmod(0o711)
        cluster = Cluster(Path(folder) / "postgres", CLUSTER_SETTINGS)
        cluster.start()
        try:
            cluster.create_database("plan")
            url = cluster.url("plan")
            migrate(url)
            with psycopg.connect(url, autocommit=True) as connection:
                connection.execute(FILL.format(people=PEOPLE, licenses=licenses).encode())
                connection.execute("VACUUM ANALYZE")
            found = []
            for _ in range(rounds):
                with ProcessPoolExecutor(1) as pool:
                    found.append(pool.submit(_round, url, folder, licenses).result())
            settings = {"people": PEOPLE, "seats": PEOPLE * licenses, **_database_settings(url)}
            memory = {"process MB": max(r.pop("MB") for r in found)}
            settings |= {"cores": os.cpu_count() or 0}
            return {"settings": settings, "rounds": found, "memory": memory}
        finally:
            cluster.stop()


def _round(url: str, folder: str, licenses: int) -> dict[str, Any]:
    return asyncio.run(_planned(url, Path(folder), licenses))


async def _planned(url: str, folder: Path, licenses: int) -> dict[str, Any]:
    """Both in turns, three times: what counts is the best of each, for a machine is not equally fast all the time."""
    settings = Settings(database_url=url, state=folder)
    async with open_house(settings) as house:
        given = {"application": "crew", "seats": [f"License {n}" for n in range(1, licenses + 1)]}
        rules = {"roles": {"Everybody": {"when": 'department eq "D1"', "gives": [given]}}}
        if await house.services.rules.current() is None:
            await house.services.rules.adopt(yaml.safe_dump(rules), "bench", "bench")
        people = tuple(f"p{n}" for n in range(1, PEOPLE + 1))
        looks, stores = _timed("looked"), _timed("keep")
        calm_collector()
        bare, looked, computed, stored = (float("inf"),) * 4
        for _ in range(3):
            bare = min(bare, _read(url))
            began = time.perf_counter()
            batch = await house.services.plans.prepare(
                PlanRequest(verb=Verb.RECHECK, who=people),
                Actor("bench"),
            )
            mine = time.perf_counter() - began
            computed = min(computed, mine - looks[0] - stores[0])
            looked, stored = min(looked, looks[0]), min(stored, stores[0])
    if any(s.action is Action.CREATE for p in batch.plans for s in p.steps):
        raise RuntimeError("Accounts that are there were to be made.")
    steps = sum(s.action is Action.TAKE_SEAT for p in batch.plans for s in p.steps)
    if steps != PEOPLE * licenses:
        raise RuntimeError(f"{steps} seats were planned.")
    return {
        "seats": steps,
        "looked s": round(looked, 2),
        "computed s": round(computed, 2),
        "stored s": round(stored, 2),
        "bare s": round(bare, 3),
        "computing": round(computed / bare, 2),
        "ratio": round((computed + stored) / bare, 2),
        "MB": round(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024),
    }


def _read(url: str) -> float:
    with psycopg.connect(url, autocommit=True) as connection:
        began = time.perf_counter()
        for statement in filter(str.strip, BARE):
            connection.execute(statement.encode()).fetchall()
        return time.perf_counter() - began


def _timed(name: str) -> list[float]:
    """How long a part of planning took, once it was done."""
    part, took = getattr(prepare, name), [0.0]

    async def timed(*given: Any, **more: Any) -> Any:
        began = time.perf_counter()
        found = await part(*given, **more)
        took[0] = time.perf_counter() - began
        return found

    setattr(prepare, name, timed)
    return took
