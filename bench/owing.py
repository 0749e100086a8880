"""Bringing people up to date: rights, obligations and the standing difference of whoever changed.

The bare counterpart (``owing_bare.sql``) reads the same rows and writes the same lines and heads by
SQL that knows this filling only.
"""

from __future__ import annotations

import asyncio
import statistics
import tempfile
import time
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import psycopg
import sqlalchemy as sa

from bench.cutoff import _database_settings
from yugum.bootstrap import CLUSTER_SETTINGS
from yugum.cluster import Cluster
from yugum.engine.standing import look
from yugum.processes import calm_collector
from yugum.storage.database import PostgresDatabase, migrate
from yugum.testing import FixedClock

BARE = (Path(__file__).parent / "owing_bare.sql").read_text()
APPLICATIONS, ROLES, CHANGED, MANY = 8, 40, 1000, 10_000

FILL = f"""
SET session_replication_role = replica;
INSERT INTO applications (id, name, kind, capabilities) SELECT 'app' || a, 'App ' || a, 'scim',
  '["suspend", "entitlements", "delete", "restore"]' FROM generate_series(0, {APPLICATIONS - 1}) a;
INSERT INTO people (id, user_name, display_name, department, folded, access_ends)
SELECT 'p' || n, 'p' || n, 'Person ' || n, 'D' || n % {ROLES},
  jsonb_build_object('department', jsonb_build_array('d' || n % {ROLES})),
  CASE WHEN :mixed AND n % 10 = 0 THEN now() + make_interval(days => n % 900 + 1) END
FROM generate_series(1, :size) n;
INSERT INTO subjects (id) SELECT id FROM people;
INSERT INTO accounts (id, application_id, person_id, login, external_id, state, entitlements)
SELECT 'p' || n || '-' || a, 'app' || a, 'p' || n, 'p' || n, 'p' || n, 'active',
  ARRAY['g' || n % {ROLES} || '-' || a] || CASE WHEN :mixed AND n % 3 = 0
    THEN ARRAY['found' || n % 97] ELSE '{{}}'::text[] END
FROM generate_series(1, :size) n, generate_series(0, {APPLICATIONS - 1}) a;
INSERT INTO ledger SELECT id, 'account', '', 'role', 'R', now() FROM accounts;
INSERT INTO ledger SELECT id, 'entitlement', entitlements[1], 'role', 'R', now() FROM accounts;
INSERT INTO rights (account_id, since_at) SELECT id, now() - interval '90 days' FROM accounts;
INSERT INTO heads (subject_id, upto_at) SELECT id, now() FROM people;
DELETE FROM sweeps; DELETE FROM marks;
CREATE TABLE bare_gives AS SELECT 'D' || r AS department, 'app' || a AS application_id,
  'g' || r || '-' || a AS item FROM generate_series(0, {ROLES - 1}) r,
  generate_series(0, {APPLICATIONS - 1}) a;
CREATE INDEX ON bare_gives (department, application_id);
CREATE TABLE bare_standing (LIKE standing INCLUDING ALL);
CREATE TABLE bare_heads (LIKE heads INCLUDING ALL);
"""
MARK = "INSERT INTO marks (subject_id) VALUES (%s)"
MARKS = "INSERT INTO marks (subject_id) SELECT 'p' || n FROM generate_series(%s::int, %s::int) n"
ROLE = """{{"when": "department eq \\"D{n}\\"", "gives": [{gives}]}}"""


class Statements:
    """Counts how long statements take, from being sent until they are answered."""

    def __init__(self) -> None:
        self.seconds = self._sent = 0.0
        sa.event.listen(sa.Engine, "before_cursor_execute", self._begins)
        sa.event.listen(sa.Engine, "after_cursor_execute", self._ends)

    def _begins(self, *_: object) -> None:
        self._sent = time.perf_counter()

    def _ends(self, *_: object) -> None:
        self.seconds += time.perf_counter() - self._sent


TEN = {
    "displayName": "'Person ' || n",
    "title": "'Title ' || n % 50",
    "userType": "'employee'",
    "emails.work": "'p' || n || '@bench.example'",
    "phoneNumbers.work": "'+00 555 ' || n",
    "preferredLanguage": "'en'",
    "locale": "'en-GB'",
    "addresses.work.locality": "'Site ' || n % 9",
    "enterprise.costCenter": "'' || n % 100",
    "enterprise.organization": "'Bench'",
}
"""Attributes of every account, each with what it is for person ``n``."""
COLUMNS = [
    "display_name",
    "title",
    "user_type",
    "mail",
    "phone",
    "preferred_language",
    "locale",
    "site",
    "cost_center",
    "organization",
]


def _attributes(connection: psycopg.Connection[Any]) -> None:
    """Ten attributes of each account are kept in step, and are as the people's data say."""
    pairs = ", ".join(f"'{name}', {value}" for name, value in TEN.items())
    said = ", ".join(f"{c} = {v}" for c, v in zip(COLUMNS, TEN.values(), strict=True))
    number = "(SELECT id, substr(id, 2)::int AS n FROM people) x"
    connection.execute("SET session_replication_role = replica")
    connection.execute(f"UPDATE people p SET {said} FROM {number} WHERE x.id = p.id")
    connection.execute(
        f"UPDATE accounts a SET settings = jsonb_build_object({pairs}) FROM {number}"
        " WHERE x.id = a.person_id"
    )
    known = ", ".join(f"'{name}', '{{}}'::jsonb" for name in TEN)
    connection.execute(f"UPDATE applications SET attributes = jsonb_build_object({known})")
    connection.execute("SET session_replication_role = origin")


def owing(
    name: str, size: int, rounds: int, *, mixed: bool, attributes: bool = False
) -> dict[str, Any]:
    with tempfile.TemporaryDirectory(prefix="yugum-bench-", dir="/var/tmp") as folder:
        Path(folder).chmod(0o711)
        cluster = Cluster(Path(folder) / "postgres", CLUSTER_SETTINGS)
        cluster.start()
        try:
            cluster.create_database("bench")
            url = cluster.url("bench")
            migrate(url)
            _fill(url, size, mixed=mixed, attributes=attributes)
            return asyncio.run(_run(name, url, size, rounds, mixed=mixed))
        finally:
            cluster.stop()


def _fill(url: str, size: int, *, mixed: bool, attributes: bool) -> None:
    roles = ", ".join(
        f'"R{n}": '
        + ROLE.format(
            n=n,
            gives=", ".join(
                f'{{"application": "app{a}", "entitlements": ["g{n}-{a}"]}}'
                for a in range(APPLICATIONS)
            ),
        )
        for n in range(ROLES)
    )
    kept = [f'"app{a}": {{"keep": "in_step"}}' for a in range(APPLICATIONS) if attributes]
    accounts = ", ".join(kept)
    with psycopg.connect(url, autocommit=True) as connection:
        text = FILL.replace(":mixed", str(mixed)).replace(":size", str(size))
        connection.execute(text)
        connection.execute(
            "INSERT INTO rules (version, document, adopted_at, adopted_by)"
            " VALUES (1, %s, now() - interval '90 days', 'bench')",
            ('{"accounts": {' + accounts + '}, "roles": {' + roles + "}}",),
        )
        if attributes:
            _attributes(connection)
        connection.execute("DELETE FROM sweeps")


async def _run(name: str, url: str, size: int, rounds: int, *, mixed: bool) -> dict[str, Any]:
    calm_collector()  # as a worker does
    database = PostgresDatabase(url)
    clock = FixedClock(datetime.now(UTC))
    statements = Statements()
    results = []
    with psycopg.connect(url, autocommit=True) as connection:
        for number in range(rounds):
            analysed = number % 2 == 1
            connection.execute("ANALYZE" if analysed else "VACUUM")
            begin = number * CHANGED + 1
            ids = [f"p{n}" for n in range(begin, begin + CHANGED)]
            # Everybody of them moves to the next department.
            connection.execute(
                f"""UPDATE people SET department = 'D' || (substr(department, 2)::int + 1) %% {ROLES},
                    folded = jsonb_build_object('department', jsonb_build_array('d' ||
                      (substr(department, 2)::int + 1) %% {ROLES}))
                    WHERE id = ANY(%s)""",
                (ids,),
            )
            theirs = _bare(url, ids)
            mine = await _drain(database, clock)
            lines = connection.execute(
                "SELECT (SELECT count(*) FROM standing WHERE subject_id = ANY(%s)),"
                " (SELECT count(*) FROM bare_standing WHERE subject_id = ANY(%s))",
                (ids, ids),
            ).fetchone()
            assert lines is not None
            assert lines[0] == lines[1] == CHANGED * APPLICATIONS * 2, lines
            singles, within = [], []
            for n in range(20):
                connection.execute(MARK, (f"p{size - n - 20 * number}",))
                statements.seconds = 0.0
                singles.append(await _drain(database, clock))
                within.append(statements.seconds)
            connection.execute(MARKS, (size // 2, min(size, size // 2 + MANY - 1)))
            many = await _drain(database, clock)
            results.append(
                {
                    "round": number + 1,
                    "after": "ANALYZE" if analysed else "VACUUM",
                    "yugum s": round(mine, 3),
                    "bare s": round(theirs, 3),
                    "ratio": round(mine / theirs, 2),
                    "lines": lines[0],
                    "one ms": round(statistics.median(singles) * 1000, 1),
                    "in PostgreSQL ms": round(statistics.median(within) * 1000, 1),
                    "people/s": round(MANY / many),
                }
            )
    await database.close()
    return {
        "name": name,
        "settings": {"people": size, "changed": CHANGED, "mixed": mixed, **_database_settings(url)},
        "rounds": results,
        "memory": {},
    }


async def _drain(database: PostgresDatabase, clock: FixedClock) -> float:
    began = time.perf_counter()
    while await look(database, clock):
        continue
    return time.perf_counter() - began


def _bare(url: str, ids: list[str]) -> float:
    with psycopg.connect(url) as connection:
        began = time.perf_counter()
        array = "{" + ",".join(ids) + "}"
        for statement in BARE.split(";"):
            if statement.strip():
                connection.execute(statement.replace(":ids", f"'{array}'"))
        connection.commit()
        return time.perf_counter() - began
