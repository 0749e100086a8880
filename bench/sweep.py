"""Trying a candidate of the rules on everybody: 40 roles, of which it changes three.

The bare counterpart is a reader that receives the same rows of the database, people and accounts,
and does nothing with them.
"""

from __future__ import annotations

import os
import random
import tempfile
import time
from pathlib import Path
from typing import Any

import orjson
import psycopg
import yaml

from bench.cutoff import _database_settings, _peak, time_of_day
from yugum.client import Client
from yugum.core.applications import Trust
from yugum.wire import applications as wap
from yugum_standins.load import found
from yugum_standins.stage import Stage

DEPARTMENTS = 40
TITLES = 12
APPLICATIONS = 8
CHANGED = 3
PART = 0.01


def sweep(name: str, size: int, rounds: int, *, change: bool) -> dict[str, Any]:
    with tempfile.TemporaryDirectory(prefix="yugum-bench-", dir="/var/tmp") as folder:
        Path(folder).chmod(0o711)
        stage = Stage(Path(folder))
        try:
            return _run(name, stage, size, rounds, change=change)
        finally:
            stage.stop()


def rules_text(changed: int = 0) -> str:
    """40 roles; in a candidate the first ``changed`` of them give something else."""
    roles = {}
    for n in range(DEPARTMENTS):
        items = [f"group {n}", f"group {n} more"] if n >= changed else [f"group {n}", "group new"]
        roles[f"Role {n}"] = {
            "when": f'department eq "Department {n}"',
            "gives": [
                {"application": f"app-{n % APPLICATIONS}", "entitlements": items},
                {"application": f"app-{(n + 1) % APPLICATIONS}", "entitlements": ["everybody"]},
            ],
        }
    return yaml.safe_dump({"roles": roles}, sort_keys=False)


def _run(name: str, stage: Stage, size: int, rounds: int, *, change: bool) -> dict[str, Any]:
    url = stage.database()
    token = found(stage, time_of_day())
    stage.serve(0)
    results = []
    with Client(stage.url, token, timeout=600) as client:
        for n in range(APPLICATIONS):
            client.applications.connect(
                wap.ConnectApplication(
                    trust=Trust.WATCH, id=f"app-{n}", name=f"App {n}", kind="manual"
                )
            )
        _fill(url, size)
        client.rules.adopt(rules_text())
        candidate = rules_text(CHANGED)
        rng = random.Random(3)
        some = [f"person-{n}" for n in rng.sample(range(size), max(1, int(size * PART)))]
        for number in range(rounds):
            theirs = _bare(url)
            began = time.perf_counter()
            trial = client.rules.try_out(candidate)
            mine = time.perf_counter() - began
            assert trial.looked_at == size
            assert trial.gained
            assert trial.lost
            row = {"round": number + 1, "yugum s": round(mine, 3), "bare s": round(theirs, 3)}
            if change:
                began = time.perf_counter()
                client.rules.try_out(candidate, some)
                part = time.perf_counter() - began
                row |= {"1 % s": round(part, 3), "ratio": round(part / mine, 3)}
            else:
                row["ratio"] = round(mine / theirs, 2)
            results.append(
                row | {"people changed": trial.people, "combinations": trial.combinations}
            )
    return {
        "name": name,
        "settings": {
            "people": size,
            "accounts": size * APPLICATIONS,
            "roles": DEPARTMENTS,
            "cores": os.cpu_count(),
            **_database_settings(url),
        },
        "rounds": results,
        "memory": {"service MB": _peak(stage.children["service"].pid)},
    }


def _fill(url: str, size: int) -> None:
    """People and accounts straight into the tables: what is measured is not how they came."""
    rng = random.Random(1)
    with psycopg.connect(url) as connection, connection.cursor() as cursor:
        with cursor.copy(
            "COPY people (id, user_name, display_name, department, title, folded) FROM STDIN"
        ) as copy:
            for n in range(size):
                department = f"Department {n % DEPARTMENTS}"
                title = f"Title {rng.randrange(TITLES)}"
                folded = orjson.dumps(
                    {
                        "userName": [f"person-{n}"],
                        "department": [department.lower()],
                        "title": [title.lower()],
                    }
                ).decode()
                copy.write_row(
                    (f"p{n:07}", f"person-{n}", f"Person {n}", department, title, folded)
                )
        cursor.execute("INSERT INTO subjects (id) SELECT id FROM people ON CONFLICT DO NOTHING")
        with cursor.copy(
            "COPY accounts (id, application_id, person_id, login, external_id, state, entitlements)"
            " FROM STDIN"
        ) as copy:
            for n in range(size):
                for a in range(APPLICATIONS):
                    role = n % DEPARTMENTS
                    held = (
                        [f"group {role}", f"group {role} more"] if role % 8 == a else ["everybody"]
                    )
                    copy.write_row(
                        (
                            f"a{n:07}-{a}",
                            f"app-{a}",
                            f"p{n:07}",
                            f"person-{n}",
                            f"x{n}",
                            "active",
                            held,
                        )
                    )
        cursor.execute(
            "INSERT INTO ledger SELECT a.id, 'entitlement', e, 'role', 'x', now()"
            " FROM accounts a, unnest(a.entitlements) e"
        )
        connection.commit()
        connection.autocommit = True
        connection.execute("ANALYZE")


def _bare(url: str) -> float:
    """Receive every person with their attributes and every account with what it holds."""
    began = time.perf_counter()
    count = 0
    with psycopg.connect(url) as connection:
        for query in (
            "SELECT id, display_name, user_name, folded FROM people",
            "SELECT person_id, application_id, state, entitlements, seats, settings FROM accounts",
        ):
            with connection.cursor("bare") as cursor:
                cursor.itersize = 5000
                cursor.execute(query)
                for _ in cursor:
                    count += 1
    assert count
    return time.perf_counter() - began
