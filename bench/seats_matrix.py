"""One screen of people by licenses, with 50,000 people and 60 licenses: everybody has every sixth.

The bare counterpart (``seats_matrix_bare.sql``) is the plain statement for the same rows, 5 ms for the way there and
back; the p95 of both is compared.
"""

from __future__ import annotations

import os
import tempfile
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import psycopg

from bench.console import SAMPLES, WAY_MS, _p95, asking
from bench.cutoff import _database_settings, _peak
from yugum_standins.load import found
from yugum_standins.stage import Stage

LICENSES = 60
BARE = (Path(__file__).parent / "seats_matrix_bare.sql").read_text()
FILL = f"""
SET session_replication_role = replica;
INSERT INTO applications (id, name, kind, capabilities) VALUES ('crew', 'Crew', 'scim', '["seats"]');
INSERT INTO people (id, user_name, display_name, family_name, given_name, employee_number, department, search, folded)
SELECT 'p' || n, 'p' || n, 'G' || n % 997 || ' F' || n, 'F' || n, 'G' || n % 997, '' || n, 'D' || n % 40, 'p' || n,
  jsonb_build_object('department', jsonb_build_array('d' || n % 40)) FROM generate_series(1, :size) n;
INSERT INTO subjects (id) SELECT id FROM people;
INSERT INTO accounts (id, application_id, person_id, login, external_id, state)
SELECT 'a' || n, 'crew', 'p' || n, 'p' || n, 'p' || n, 'active' FROM generate_series(1, :size) n;
INSERT INTO pools (id, application_id, license, bought)
SELECT 'l' || l, 'crew', 'License ' || l, :size FROM generate_series(1, {LICENSES}) l;
INSERT INTO seat_claims (id, pool_id, account_id, person_id, state, since_at)
SELECT 'c' || n || '-' || l, 'l' || l, 'a' || n, 'p' || n, 'held', now()
FROM generate_series(1, :size) n, generate_series(1, {LICENSES}) l WHERE (n + l) % 6 = 0;
INSERT INTO ledger (account_id, kind, item, origin_kind, origin_name, since_at)
SELECT 'a' || n, 'seat', 'License ' || l, 'role', 'Role ' || l, now()
FROM generate_series(1, :size) n, generate_series(1, {LICENSES}) l WHERE (n + l) % 6 = 0;
INSERT INTO heads (subject_id, upto_at) SELECT id, now() FROM people;
DELETE FROM sweeps; DELETE FROM marks;
UPDATE installation SET demo = false;
"""


def seats_matrix(size: int, rounds: int) -> dict[str, Any]:
    with tempfile.TemporaryDirectory(prefix="yugum-bench-", dir="/var/tmp") as folder:
        Path(folder).chmod(0o711)
        stage = Stage(Path(folder))
        try:
            url = stage.database()
            token = found(stage, datetime.now(UTC))
            with psycopg.connect(url, autocommit=True) as connection:
                connection.execute(FILL.replace(":size", str(size)).encode())
                connection.execute("VACUUM ANALYZE")
                connection.execute("CHECKPOINT")
                stage.serve(0)
                ask = asking(stage.url, token)
                ask("/openapi.json")
                theirs = _p95(lambda: connection.execute(BARE.encode()).fetchall(), rounds)
            ask = asking(stage.url, token)
            screen = "/seats/matrix?application_id=crew&department=D7"
            mine = _p95(lambda: ask(screen), rounds)
            row = {
                "call": "one screen",
                "p95 ms": round(mine, 1),
                "bare ms": round(theirs, 1),
                "ratio": round(mine / (theirs + WAY_MS), 2),
            }
            settings = {"people": size, "licenses": LICENSES, "samples": SAMPLES * rounds}
            settings |= {"cores": os.cpu_count() or 0, **_database_settings(url)}
            memory = {"service MB": _peak(stage.children["service"].pid)}
            return {"settings": settings, "rounds": [row], "memory": memory}
        finally:
            stage.stop()
