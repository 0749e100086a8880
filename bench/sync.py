"""Reading N accounts: the first time, and again with nothing changed.

The bare counterpart fetches and parses the same pages from the same application; for the first
reading it also COPYs what it parsed into a table.
"""

from __future__ import annotations

import tempfile
import time
from pathlib import Path
from typing import Any

import aiohttp
import orjson
import psycopg
import uvloop

from bench.cutoff import _database_settings, _panel, _peak, connect, ten, time_of_day
from yugum.client import Client
from yugum.core.applications import Trust
from yugum.wire import people as wp
from yugum_standins.load import found
from yugum_standins.stage import Stage

PEOPLE = 1000
"""People in Yugum; the first of the accounts are theirs."""


def sync(
    name: str, size: int, rounds: int, *, unchanged: bool, attributes: bool = False
) -> dict[str, Any]:
    with tempfile.TemporaryDirectory(prefix="yugum-bench-", dir="/var/tmp") as folder:
        Path(folder).chmod(0o711)
        stage = Stage(Path(folder))
        try:
            return _run(name, stage, size, rounds, unchanged=unchanged, attributes=attributes)
        finally:
            stage.stop()


def _seed(size: int, *, attributes: bool) -> dict[str, Any]:
    groups = [f"Group {n}" for n in range(20)]
    users = [
        {
            "userName": f"person-{n}",
            "displayName": f"Person {n}",
            "employeeNumber": str(100_000 + n),
            "groups": [groups[n % 20]],
            "sessions": n % 2,
            **(ten(n) if attributes else {}),
        }
        for n in range(size)
    ]
    return {"groups": groups, "users": users}


def _run(
    name: str, stage: Stage, size: int, rounds: int, *, unchanged: bool, attributes: bool
) -> dict[str, Any]:
    url = stage.database()
    standin = stage.standin("alpha", _seed(size, attributes=attributes), window_days=30, keep=False)
    token = found(stage, time_of_day())
    stage.serve(0)
    results = []
    with Client(stage.url, token, timeout=600) as client:
        people = [
            wp.NewPerson(
                user_name=f"person-{n}", family_name=f"{n}", employee_number=str(100_000 + n)
            )
            for n in range(PEOPLE)
        ]
        for begin in range(0, PEOPLE, 500):
            client.people.create(people[begin : begin + 500])
        connect(client, "alpha", standin, Trust.WATCH)
        if unchanged:
            client.applications.read("alpha")
        for number in range(rounds):
            if not unchanged and number:
                _forget(url)
            before = _rows(url)
            _panel(standin, "put", "trace")
            began = time.perf_counter()
            counts = client.applications.read("alpha")
            mine = time.perf_counter() - began
            paths = [t[2] for t in _panel(standin, "get", "trace").json() if t[1] == "GET"]
            written = len(_rows(url) - before)
            into = "" if unchanged else url
            theirs = float(uvloop.run(_bare(standin, paths, into, attributes=attributes)))
            assert counts.accounts == size
            assert not unchanged or (counts.changed, written) == (0, 0)
            results.append(
                {
                    "round": number + 1,
                    "yugum s": round(mine, 2),
                    "bare s": round(theirs, 2),
                    "ratio": round(mine / theirs, 2),
                    "pages": len(paths),
                    "account rows written": written,
                    "accounts/s": round(size / mine),
                }
            )
    return {
        "name": name,
        "settings": {
            "accounts": size,
            "people": PEOPLE,
            "attributes": 10 if attributes else 0,
            **_database_settings(url),
        },
        "rounds": results,
        "memory": {"service MB": _peak(stage.children["service"].pid)},
    }


async def _bare(standin: dict[str, Any], paths: list[str], url: str, *, attributes: bool) -> float:
    """Fetch and parse the same pages one after the other; COPY them when ``url`` names a database."""
    began = time.perf_counter()
    connection = await psycopg.AsyncConnection.connect(url) if url else None
    if connection is not None:
        await connection.execute(
            "CREATE TEMP TABLE bare (id text, login text, name text, active bool, groups text[]"
            + (", a jsonb)" if attributes else ")")
        )
    async with aiohttp.ClientSession(headers=standin["headers"]) as session:
        for path in paths:
            async with session.get(standin["url"] + path) as response:
                body = orjson.loads(await response.read())
            rows = body.get("Resources", ())
            if connection is None or "/Users" not in path:
                continue
            async with connection.cursor().copy("COPY bare FROM STDIN") as copy:
                for user in rows:
                    groups = [g["display"] for g in user["groups"]]
                    row = (user["id"], user["userName"], user["displayName"], user["active"])
                    more = (_ten(user),) if attributes else ()
                    await copy.write_row((*row, groups, *more))
    if connection is not None:
        await connection.commit()
        await connection.close()
    return time.perf_counter() - began


def _ten(user: dict[str, Any]) -> str:
    """The same ten attributes, by somebody who knows exactly what is there."""
    work = user["urn:ietf:params:scim:schemas:extension:enterprise:2.0:User"]
    return orjson.dumps(
        [
            user["name"]["givenName"],
            user["name"]["familyName"],
            user["title"],
            user["userType"],
            user["preferredLanguage"],
            user["emails"][0]["value"],
            user["phoneNumbers"][0]["value"],
            user["addresses"][0]["locality"],
            work["costCenter"],
            work["department"],
        ]
    ).decode()


def _rows(url: str) -> set[tuple[str, str]]:
    """Every row of the accounts table with its place: a row that was written again has moved."""
    with psycopg.connect(url) as connection:
        return set(connection.execute("SELECT id, ctid::text FROM accounts").fetchall())


def _forget(url: str) -> None:
    """Nothing is known of any account, as before the first reading."""
    with psycopg.connect(url, autocommit=True) as connection:
        connection.execute(
            "TRUNCATE accounts, assets, ledger, history, readings, deviations, proposals, seat_claims CASCADE"
        )
