"""Everything one leaver owns goes to a successor, a call a thing, from the confirm request to the step's receipt.

The bare counterpart is a script that does the same for another account at the same concurrency and reads back what
the successor has then (``handover_bare.py``).
"""

from __future__ import annotations

import asyncio
import signal
import tempfile
import time
from pathlib import Path
from typing import Any

import httpx
import psutil

from bench.cutoff import _database_settings, _panel, _peak, connect, time_of_day
from bench.handover_bare import hand_over
from yugum.client import Client
from yugum.connectors.each import AT_A_TIME
from yugum.core.actions import Action
from yugum.core.verbs import Verb
from yugum.wire import people as wp
from yugum.wire import plans as wl
from yugum_standins.load import found
from yugum_standins.stage import Stage

NAME, KIND = "alpha", "report"
MOVED = "item.moved"


def handover(size: int, rounds: int, *, latency_ms: float = 20, kills: int = 0) -> dict[str, Any]:
    """Rounds of a leaver who owns so many things; with ``kills`` its worker dies so often on the way."""
    with tempfile.TemporaryDirectory(prefix="yugum-bench-", dir="/var/tmp") as folder:
        Path(folder).chmod(0o711)
        stage = Stage(Path(folder))
        try:
            return _run(stage, size, rounds, latency_ms, kills)
        finally:
            stage.stop()


def _run(stage: Stage, size: int, rounds: int, latency_ms: float, kills: int) -> dict[str, Any]:
    url = stage.database()
    users: list[dict[str, Any]] = [{"userName": "heir"}, {"userName": "other-heir"}]
    for r in range(rounds):
        items = [(KIND, f"Report {n}") for n in range(size)]
        users += [{"userName": f"{who}-{r}", "items": items} for who in ("leaver", "other")]
    standin = stage.standin(NAME, {"users": users}, window_days=30, keep=False)
    token = found(stage, time_of_day())
    stage.serve(0)
    stage.worker("worker-1")
    peak, results = 0, []
    with Client(stage.url, token) as client:
        _people(client, standin, rounds)
        _panel(standin, "put", "faults", json={"latency_ms": latency_ms})
        for r in range(rounds):
            mine, now = _mine(client, stage, standin, r, size, kills)
            peak = max(peak, now)
            theirs = _theirs(standin, r, size * (r + 1))
            results.append(
                {
                    "things": size,
                    "yugum s": round(mine, 2),
                    "bare s": round(theirs, 2),
                    "ratio": round(mine / theirs, 2),
                    "things/s": round(size / mine),
                }
            )
    settings = {"latency ms": latency_ms, "at a time": AT_A_TIME, "kills": kills}
    settings |= {**_database_settings(url), "cores": psutil.cpu_count()}
    memory = {"service MB": _peak(stage.children["service"].pid), "worker MB": peak}
    return {"settings": settings, "rounds": results, "memory": memory}


def _people(client: Client, standin: dict[str, Any], rounds: int) -> None:
    """Leavers and who takes over, with their accounts read."""
    names = ["heir", *(f"leaver-{r}" for r in range(rounds))]
    client.people.create([wp.NewPerson(user_name=n, given_name="A", family_name=n) for n in names])
    connect(client, NAME, standin)
    client.applications.read(NAME)


def _mine(
    client: Client, stage: Stage, standin: dict[str, Any], number: int, size: int, kills: int
) -> tuple[float, int]:
    """Seconds until all is handed over, each thing once, and the most memory of the worker.

    With ``kills`` the worker dies in the midst of it, and another one begins.
    """
    login = f"leaver-{number}"
    after = len(_panel(standin, "get", "log").json())
    batch = client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[login], successor="heir"))
    (plan,) = batch.plans
    if [s.item for s in plan.steps if s.action is Action.TRANSFER] != [KIND]:
        raise RuntimeError(f"Nothing is planned to be handed over: {plan.cautions}")
    began = time.perf_counter()
    (docket,) = client.plans.confirm(batch)
    killed = 0
    while True:
        time.sleep(0.1)
        if killed < kills and len(_log(standin, after)) >= (killed + 1) * size / (kills + 1):
            stage.children["worker-1"].stop(signal.SIGKILL)
            stage.worker("worker-1")  # whose end is that of the thread that began it
            killed += 1
        steps = client.dockets.show(docket.number).steps
        (step,) = [s for s in steps if s.action is Action.TRANSFER]
        if step.state.value == "done":
            break
        if step.problem is not None and not kills:
            raise RuntimeError(step.problem.text)
    took = time.perf_counter() - began
    if killed < kills:
        raise RuntimeError(f"It was through after {killed} deaths.")
    moves = [e for e in _log(standin, after) if e["effect"] == MOVED]
    if len(moves) != size:
        raise RuntimeError(f"{len(moves)} of {size} things were moved.")
    worker = stage.children["worker-1"]
    return took, _peak(worker.pid)


def _log(standin: dict[str, Any], after: int) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = _panel(standin, "get", "log", params={"after": after}).json()
    return found


def _theirs(standin: dict[str, Any], number: int, expected: int) -> float:
    root = f"{standin['url']}/scim/v2"

    def key(name: str) -> str:
        query = {"filter": f'userName eq "{name}"'}
        reply = httpx.get(f"{root}/Users", params=query, headers=standin["headers"], timeout=60)
        return str(reply.json()["Resources"][0]["id"])

    old, new = key(f"other-{number}"), key("other-heir")
    began = time.perf_counter()
    got = asyncio.run(hand_over(root, standin["token"], old, new, AT_A_TIME))
    took = time.perf_counter() - began
    if got != expected:
        raise RuntimeError(f"{got} of {expected} things are the successor's.")
    return took
