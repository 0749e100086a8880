"""N leavers in two applications: from the confirm request to the last cut-off in their own logs.

The bare counterpart is an asyncio script that replays the same calls, in the same order for each
account, at the same concurrency, on as many other accounts of the same applications.
"""

from __future__ import annotations

import asyncio
import tempfile
import time
from collections.abc import Sequence
from contextlib import suppress
from pathlib import Path
from typing import Any

import aiohttp
import httpx
import psutil
import psycopg
import uvloop

from yugum.client import Client
from yugum.core.applications import Trust
from yugum.core.verbs import Verb
from yugum.settings import Settings
from yugum.wire import applications as wap
from yugum.wire import people as wp
from yugum.wire import plans as wl
from yugum_standins.load import found
from yugum_standins.stage import Stage

NAMES = ("alpha", "beta", "gamma", "delta", "epsilon", "zeta", "eta", "theta")
OTHER = "bare"
TEAM = 25


PANEL = httpx.Client(timeout=60)
"""One client for all looks at a stand-in: making one each time would cost the measured its cores."""


def ten(n: int) -> dict[str, Any]:
    """Ten attributes of an account, besides the name shown and the number."""
    return {
        "mail": f"person-{n}@alpha.example",
        "more": {
            "name": {"givenName": "Person", "familyName": str(n)},
            "title": f"Title {n % 40}",
            "userType": "employee",
            "preferredLanguage": "en",
            "phoneNumbers": [{"type": "work", "value": f"+00 555 {n}"}],
            "addresses": [{"type": "work", "locality": f"Site {n % 9}"}],
            "costCenter": str(n % 100),
            "department": f"Department {n % 30}",
        },
    }


def seed(size: int, rounds: int, *, attributes: bool = False) -> dict[str, Any]:
    """Accounts for Yugum's rounds and as many for the bare ones; each has ways in to be ended.

    Each is in a group of its team, and teams are small: what a stand-in needs to change one group
    of thousands would be measured otherwise.
    """
    teams = [f"Team {number}" for number in range(-(-size // TEAM))]
    users = [
        {
            "userName": f"{who}-{r}-{i}",
            "sessions": 1,
            "apiKeys": 1,
            "groups": [teams[i // TEAM]],
            "kind": "person" if who == "leaver" else "service",
            **(ten(i) if attributes else {}),
        }
        for who in ("leaver", OTHER)
        for r in range(rounds)
        for i in range(size)
    ]
    return {"groups": teams, "users": users}


def cutoff(
    name: str,
    size: int,
    rounds: int,
    *,
    latency_ms: float,
    applications: int = 2,
    attributes: bool = False,
) -> dict[str, Any]:
    """Run ``rounds`` pairs of Yugum and bare in turns, after one pair that is not counted."""
    rounds += 1
    with tempfile.TemporaryDirectory(prefix="yugum-bench-", dir="/var/tmp") as folder:
        Path(folder).chmod(0o711)
        stage = Stage(Path(folder))
        try:
            names = NAMES[:applications]
            return _run(name, stage, size, rounds, latency_ms, names, attributes=attributes)
        finally:
            stage.stop()


def _run(
    name: str,
    stage: Stage,
    size: int,
    rounds: int,
    latency_ms: float,
    applications: Sequence[str],
    *,
    attributes: bool,
) -> dict[str, Any]:
    url = stage.database()
    seeded = seed(size, rounds, attributes=attributes)
    standins = {a: stage.standin(a, seeded, window_days=30, keep=False) for a in applications}
    token = found(stage, time_of_day())
    stage.serve(0)
    concurrency = Settings().concurrency
    worker = stage.worker("worker-1")
    with Client(stage.url, token) as client:
        prepare(client, standins, size, rounds)
        for standin in standins.values():
            _panel(standin, "put", "faults", json={"latency_ms": latency_ms})
        results = []
        for number in range(rounds):
            mine, calls, traces = yugum_round(client, standins, size, number)
            theirs = bare_round(standins, traces, number, concurrency)
            results.append(
                {
                    "round": number or "warm-up",
                    "yugum s": round(mine, 3),
                    "bare s": round(theirs, 3),
                    "ratio": round(mine / theirs, 2),
                    "calls": calls,
                    "leavers/s": round(size / mine),
                }
            )
    memory = {
        "service MB": _peak(stage.children["service"].pid),
        "worker MB": _peak(worker.pid),
    }
    return {
        "name": name,
        "settings": {
            "leavers": size,
            "applications": len(applications),
            "latency ms": latency_ms,
            "concurrency an application": concurrency,
            "workers": 1,
            **_database_settings(url),
            "cores": psutil.cpu_count(),
        },
        "rounds": results[1:],
        "memory": memory,
    }


def time_of_day() -> Any:
    from datetime import UTC, datetime

    return datetime(2031, 3, 3, 8, 0, tzinfo=UTC)


def prepare(client: Client, standins: dict[str, dict[str, Any]], size: int, rounds: int) -> None:
    """People and applications as after a first reading, with no rule at all."""
    people = [
        wp.NewPerson(user_name=f"leaver-{r}-{i}", given_name="Leaver", family_name=f"{r}-{i}")
        for r in range(rounds)
        for i in range(size)
    ]
    for begin in range(0, len(people), 500):
        client.people.create(people[begin : begin + 500])
    for name, standin in standins.items():
        connect(client, name, standin)
        client.applications.read(name)


def connect(client: Client, name: str, standin: dict[str, Any], trust: Trust = Trust.FULL) -> None:
    """Connect a stand-in under a name."""
    client.applications.connect(
        wap.ConnectApplication(
            trust=trust,
            id=name,
            name=name,
            kind="scim",
            url=f"{standin['url']}/scim/v2",
            secret=standin["token"],
        )
    )


def yugum_round(
    client: Client, standins: dict[str, dict[str, Any]], size: int, number: int
) -> tuple[float, int, dict[str, list[list[Any]]]]:
    """Seconds from the confirm request to the last cut-off, and the calls made until then."""
    who = [f"leaver-{number}-{i}" for i in range(size)]
    batch = client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=who))
    after = {n: len(_panel(s, "get", "log").json()) for n, s in standins.items()}
    for standin in standins.values():
        _panel(standin, "put", "trace")
    time.sleep(0.5)
    began = time.time()
    client.plans.confirm(batch)
    ended = _last_cut_off(standins, after, size)
    _drain(client)
    traces = {}
    for name, standin in standins.items():
        trace = _panel(standin, "get", "trace").json()
        traces[name] = [entry for entry in trace if entry[0] <= ended]
    return ended - began, sum(len(t) for t in traces.values()), traces


def _last_cut_off(standins: dict[str, dict[str, Any]], after: dict[str, int], size: int) -> float:
    """When the last one was cut off; one log is looked at until it is complete, then the next."""
    deadline = time.monotonic() + 300
    last = 0.0
    for name, standin in standins.items():
        while True:
            time.sleep(0.25)
            log = _panel(standin, "get", "log", params={"after": after[name]}).json()
            cuts = [e["t"] for e in log if e["effect"] == "user.suspended"]
            if len(cuts) == size:
                last = max(last, *cuts)
                break
            if time.monotonic() > deadline:
                raise RuntimeError("The cut-offs were not all done in time.")
    return last


def _drain(client: Client) -> None:
    while client.dockets.page(state="running", limit=1).items:
        time.sleep(0.1)


def bare_round(
    standins: dict[str, dict[str, Any]],
    traces: dict[str, list[list[Any]]],
    number: int,
    concurrency: int,
) -> float:
    """Replay the calls on the other accounts; seconds until the last cut-off was answered."""
    replays = {name: _others(standin, traces[name], number) for name, standin in standins.items()}
    return float(uvloop.run(_replay(standins, replays, concurrency)))


def _others(
    standin: dict[str, Any], trace: Sequence[Sequence[Any]], number: int
) -> list[list[tuple[str, str, str]]]:
    """The trace by account, with each account replaced by one of the bare round's."""
    users = {}
    start = 1
    while True:
        page = httpx.get(
            f"{standin['url']}/scim/v2/Users",
            params={"startIndex": start, "count": 1000},
            headers=standin["headers"],
            timeout=60,
        ).json()
        users |= {u["userName"]: u["id"] for u in page["Resources"]}
        start += len(page["Resources"])
        if start > page["totalResults"]:
            break
    swap = {
        key: users[name.replace("leaver", OTHER, 1)]
        for name, key in users.items()
        if name.startswith(f"leaver-{number}-")
    }
    sequences: dict[str, list[tuple[str, str, str]]] = {}
    for _, method, path, body in trace:
        key = next((k for k in (path.split("/")[-1], *_quoted(body)) if k in swap), "")
        if not key:
            continue
        sequences.setdefault(key, []).append(
            (method, path.replace(key, swap[key]), body.replace(key, swap[key]))
        )
    return list(sequences.values())


def _quoted(body: str) -> list[str]:
    return body.replace("\\", "").split('"')[1::2]


async def _replay(
    standins: dict[str, dict[str, Any]],
    replays: dict[str, list[list[tuple[str, str, str]]]],
    concurrency: int,
) -> float:
    last = 0.0
    media = {"Content-Type": "application/scim+json"}

    async def account(
        session: aiohttp.ClientSession,
        gate: asyncio.Semaphore,
        url: str,
        calls: list[tuple[str, str, str]],
    ) -> None:
        nonlocal last
        for method, path, body in calls:
            async with (
                gate,
                session.request(
                    method, url + path, data=body.encode() if body else None, headers=media
                ) as response,
            ):
                await response.read()
            if method == "PATCH" and "/Users/" in path:
                last = time.time()

    async with aiohttp.ClientSession() as _:
        sessions = {}
        try:
            for name, standin in standins.items():
                sessions[name] = aiohttp.ClientSession(
                    headers=standin["headers"],
                    connector=aiohttp.TCPConnector(limit=concurrency),
                )
            gates = {name: asyncio.Semaphore(concurrency) for name in standins}
            began = time.time()
            await asyncio.gather(
                *(
                    account(sessions[name], gates[name], standins[name]["url"], calls)
                    for name, replay in replays.items()
                    for calls in replay
                )
            )
        finally:
            for session in sessions.values():
                await session.close()
    return last - began


def _panel(standin: dict[str, Any], method: str, what: str, **more: Any) -> httpx.Response:
    return PANEL.request(
        method.upper(), f"{standin['url']}/panel/{what}", headers=standin["headers"], **more
    )


def _database_settings(url: str) -> dict[str, str]:
    with psycopg.connect(url) as connection:
        return {
            name: connection.execute(f"SHOW {name}").fetchone()[0]  # type: ignore[index,call-overload]
            for name in ("fsync", "synchronous_commit")
        }


def _peak(pid: int) -> int:
    """Peak resident memory of a process, MB (VmHWM)."""
    with suppress(OSError):
        for line in Path(f"/proc/{pid}/status").read_text().splitlines():
            if line.startswith("VmHWM"):
                return int(line.split()[1]) // 1024
    return 0
