"""What the console's pages ask for, at 100,000 people with ten accounts each, dockets and findings in proportion.

The clock is the machine's, as in every installation but a demo. The bare counterpart
(``console_bare.sql``) is the plain statement for the same rows; the ratio is a call's p95 over that of
its statement and 5 ms for the way there and back, both the median of the rounds: what else goes on in the
machine for some seconds is in one round of each. The worst call decides. At last all calls are made once more
while an application is read and streams are open.
"""

from __future__ import annotations

import http.client
import os
import re
import statistics
import tempfile
import time
from collections.abc import Callable
from datetime import UTC, datetime
from http import HTTPStatus
from pathlib import Path
from typing import Any

import click
import psycopg

from bench.beside import ACCOUNTS as READ
from bench.beside import STREAMS, being_read, slowest
from bench.cutoff import _database_settings, _peak
from yugum.core.lists import AccountSort, DocketSort, PersonSort
from yugum_standins.load import found
from yugum_standins.stage import Stage

ACCOUNTS, SAMPLES, WAY_MS = 10, 40, 5.0
FEWEST, LONGEST_MS = 10, 6000.0
BARE = (Path(__file__).parent / "console_bare.sql").read_text()
FILL = f"""
SET session_replication_role = replica;
INSERT INTO applications (id, name, kind, capabilities) SELECT 'app' || a, 'App ' || a, 'scim',
  '["suspend", "entitlements", "delete", "restore"]' FROM generate_series(0, {ACCOUNTS - 1}) a;
INSERT INTO people (id, user_name, display_name, family_name, given_name, employee_number, department,
  site, user_type, search, manager_id, folded, starts, access_ends, open_end)
SELECT 'p' || n, 'p' || n, 'G' || n % 997 || ' F' || n % 8999, 'F' || n % 8999, 'G' || n % 997, '' || n,
  'D' || n % 40, 'S' || n % 30, 'kind ' || n % 5, 'p' || n || ' g' || n % 997 || ' f' || n % 8999,
  CASE WHEN n > 1000 THEN 'p' || n % 1000 + 1 END,
  jsonb_build_object('department', jsonb_build_array('d' || n % 40)),
  CASE WHEN n % 3 > 0 THEN current_date - n % 4000 + 5 END,
  CASE WHEN n % 10 = 0 THEN now() - make_interval(days => n % 900 + 1) END, CASE WHEN n % 9990 = 0 THEN now() - make_interval(days => n % 900 + 1) END
FROM generate_series(1, :size) n;
INSERT INTO subjects (id) SELECT id FROM people;
INSERT INTO accounts (id, application_id, person_id, login, external_id, state, entitlements,
  last_used, recoverable_until)
SELECT 'p' || n || '-' || a, 'app' || a, CASE WHEN n % 1000 > 0 THEN 'p' || n END, 'p' || n, 'p' || n,
  CASE WHEN n % 10 > 0 OR n % 9990 = 0 THEN 'active' WHEN n % 100 = 0 THEN 'deleted' ELSE 'suspended' END,
  ARRAY['g' || n % 40 || '-' || a], now() - make_interval(days => (n + a) % 95),
  CASE WHEN n % 10 = 0 AND n % 100 = 0 THEN now() + make_interval(days => n % 29) END
FROM generate_series(1, :size) n, generate_series(0, {ACCOUNTS - 1}) a;
INSERT INTO history (account_id, kind, item, from_at) SELECT id, 'state', state, now() FROM accounts;
INSERT INTO dockets (id, subject_id, verb, state, author, due_at, made_at, ended_at)
SELECT 'd' || n, 'p' || n, (ARRAY['joiner', 'mover', 'leaver', 'recheck'])[n % 4 + 1],
  CASE WHEN n % 500 = 0 THEN 'running' WHEN n % 300 = 0 THEN 'scheduled' ELSE 'done' END, 'o' || n % 20,
  now() - make_interval(mins => n), now(), now() FROM generate_series(1, :size) n;
INSERT INTO steps (id, docket_id, subject_id, position, application_id, account_id, phase, action, state)
SELECT 's' || n || '-' || a, 'd' || n, 'p' || n, a, 'app' || a, 'p' || n || '-' || a, 'access', 'grant',
  CASE WHEN n % 500 = 0 THEN 'due' ELSE 'done' END
FROM generate_series(1, :size) n, generate_series(0, 4) a;
INSERT INTO standing (subject_id, application_id, account_id, kind, item, side, status, since_at)
SELECT 'p' || n, 'app1', 'p' || n || '-1', 'entitlement', 'g', 'missing', 'finding', now()
FROM generate_series(1, :size, 100) n;
INSERT INTO deviations (id, application_id, account_id, kind, item, was, now_is, seen_at)
SELECT 'v' || n, 'app2', 'p' || n || '-2', 'entitlement', 'g', 'not held', 'held', now()
FROM generate_series(1, :size, 200) n;
INSERT INTO obligations (id, subject_id, account_id, kind, due_at)
SELECT 'b' || n, 'p' || n, 'p' || n || '-3', 'close', now() + make_interval(hours => n % 700)
FROM generate_series(1, :size, 10) n;
INSERT INTO heads (subject_id, upto_at) SELECT id, now() FROM people;
DELETE FROM sweeps; DELETE FROM marks;
UPDATE installation SET demo = false;
"""
CALLS: dict[str, tuple[str, str]] = {
    **{f"people by {s}": (f"/people?sort={s}", "name") for s in PersonSort},
    "people, latest names": ("/people?order=descending", "name"),
    "people of a department": ("/people?department=D7", "department"),
    "people of a site": ("/people?site=S7", "department"),
    "people of a kind": ("/people?user_type=kind 3", "department"),
    "people of a manager": ("/people?manager=p7", "department"),
    "people who left": ("/people?state=left", "left"),
    "people who are expected": ("/people?state=expected", "left"),
    "search": ("/people?q=p777", "search"),
    **{f"accounts by {s}": (f"/accounts?sort={s}", "accounts") for s in AccountSort},
    "accounts of an application": ("/accounts?application=app7", "accounts"),
    "deleted accounts": ("/accounts?state=deleted", "deleted"),
    "accounts by login": ("/accounts?q=p777", "accounts"),
    **{f"dockets by {s}": (f"/dockets?sort={s}", "dockets") for s in DocketSort},
    "running dockets": ("/dockets?state=running", "running"),
    "dockets of an operator": ("/dockets?author=o7", "dockets"),
    "leaver dockets": ("/dockets?verb=leaver", "dockets"),
    "standing": ("/standing?status=finding", "standing"),
    "findings": ("/findings", "findings"),
    "finding counts": ("/findings/counts", "finding-counts"),
    "changed outside": ("/findings/outside", "outside"),
    "a person": ("/people/p777", "person"),
    "day sheet": ("/day", "day"),
    "counts": ("/status/counts", "counts"),
    "health": ("/status", "counts"),
    "applications": ("/applications", "applications"),
    "last call": ("/last-call", "last-call"),
    "calendar": ("/calendar", "calendar"),
}
"""What a page asks for, and the statement that has the same rows."""


def console(size: int, rounds: int) -> dict[str, Any]:
    with tempfile.TemporaryDirectory(prefix="yugum-bench-", dir="/var/tmp") as folder:
        Path(folder).chmod(0o711)
        stage = Stage(Path(folder))
        try:
            return _run(stage, size, rounds)
        finally:
            stage.stop()


def filled(stage: Stage, size: int) -> tuple[str, str]:
    """The service over a database of so many people; the database's address, and a token."""
    url = stage.database()
    token = found(stage, datetime.now(UTC))
    with psycopg.connect(url, autocommit=True) as connection:
        connection.execute(FILL.replace(":size", str(size)).encode())
        connection.execute("VACUUM ANALYZE")
        # What filling has left to be written is not the calls' to wait for.
        connection.execute("CHECKPOINT")
    stage.serve(0)
    return url, token


def _run(stage: Stage, size: int, rounds: int) -> dict[str, Any]:
    url, token = filled(stage, size)
    bare = dict(re.findall(r"-- (\S+)\n(.*?;)", BARE, re.DOTALL))
    mine: dict[str, list[float]] = {name: [] for name in CALLS}
    theirs: dict[str, list[float]] = {name: [] for name in CALLS}
    with psycopg.connect(url, autocommit=True) as connection:
        # Until its description is made the service has other things to do than answer.
        asking(stage.url, token)("/openapi.json")
        for n in range(rounds):
            click.echo(f"round {n + 1} of {rounds}", err=True)
            for name, (path, same) in CALLS.items():
                plain = bare[same].encode()
                theirs[name].append(_p95(lambda plain=plain: connection.execute(plain).fetchall()))
                ask = asking(stage.url, token)  # the last one was closed while the statement ran
                mine[name].append(_p95(lambda ask=ask, path=path: ask(path)))
    rows = []
    for name in CALLS:
        call, plain = statistics.median(mine[name]), statistics.median(theirs[name])
        ratio = round(call / (plain + WAY_MS), 2)
        rows.append(
            {"call": name, "p95 ms": round(call, 1), "bare ms": round(plain, 1), "ratio": ratio}
        )
    settings = {"people": size, "accounts": size * ACCOUNTS, "samples": f"{rounds} times {SAMPLES}"}
    settings |= {"cores": os.cpu_count() or 0, **_database_settings(url)}
    memory = {"service MB": _peak(stage.children["service"].pid)}
    with being_read(stage, token):
        click.echo("while an application is read", err=True)
        ask = asking(stage.url, token)
        calls = {name: path for name, (path, _) in CALLS.items()}
        worst_call, beside = slowest(calls, lambda path: _p95(lambda: ask(path)))
    while_read = {
        "streams": STREAMS,
        "accounts read": READ,
        "p95 ms at most": round(beside, 1),
        "of": worst_call,
    }
    worst = max(float(str(r["ratio"])) for r in rows)
    return {
        "settings": settings,
        "rounds": rows,
        "memory": memory,
        "while read": while_read,
        "ratio": worst,
    }


def asking(url: str, token: str) -> Callable[[str], bytes]:
    """Asks over one connection that stays open, with the plainest client there is."""
    wire = http.client.HTTPConnection(url.removeprefix("http://"), timeout=60)
    headers = {"Authorization": f"Bearer {token}", "Accept-Encoding": "gzip"}

    def ask(path: str) -> bytes:
        wire.request("GET", "/api/v1" + path.replace(" ", "%20"), headers=headers)
        with wire.getresponse() as answer:
            body = answer.read()
        if answer.status != HTTPStatus.OK:
            raise RuntimeError(f"{path}: {answer.status}")
        return body

    return ask


def _p95(call: Callable[[], object]) -> float:
    """Milliseconds that 95 of 100 calls take no longer than; of slow ones as many as fit in a while."""
    took: list[float] = []
    for n in range(SAMPLES + 3):
        if len(took) >= FEWEST and sum(took) > LONGEST_MS:
            break
        began = time.perf_counter()
        call()
        if n > 2:  # the first ones warm up
            took.append(1000 * (time.perf_counter() - began))
    return sorted(took)[int(len(took) * 0.95)]
