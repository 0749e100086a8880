"""Reads of a person while 200 watch dockets and an application is being read, against reads alone.

The bare counterpart is the same read with nobody watching and nothing under way, in turns.
"""

from __future__ import annotations

import asyncio
import json
import statistics
import tempfile
import time
from pathlib import Path
from typing import Any

import httpx

from yugum.client import Client
from yugum.core.verbs import Verb
from yugum.wire import plans as wl
from yugum_standins.load import connect, raise_stage
from yugum_standins.morrow import CREW

DOCKETS = 20
READS = 300


def watching(watchers: int, rounds: int) -> dict[str, Any]:
    """Medians of ``READS`` reads a round with ``watchers`` streams open and readings running."""
    with tempfile.TemporaryDirectory(prefix="yugum-bench-", dir="/var/tmp") as folder:
        stage, _ = raise_stage(Path(folder), port=0)
        try:
            token = json.loads((Path(folder) / "client.json").read_text())["token"]
            with Client(stage.url, token) as client:
                organisation = connect(client, stage, lambda _: None)
                some = [p.user_name for p in organisation.people[:DOCKETS]]
                numbers = []
                for who in some:
                    batch = client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[who], at="+20d"))
                    numbers.append(client.plans.confirm(batch)[0].number)
            return asyncio.run(_run(stage.url, token, numbers, watchers, rounds + 1))
        finally:
            stage.stop()


async def _run(
    url: str, token: str, numbers: list[str], watchers: int, rounds: int
) -> dict[str, Any]:
    headers = {"Authorization": f"Bearer {token}"}
    limits = httpx.Limits(max_connections=None)
    base = f"{url}/api/v1"
    async with httpx.AsyncClient(base_url=base, headers=headers, limits=limits, timeout=60) as wire:
        found = []
        for _ in range(rounds):
            alone = await _reads(wire)
            stop = asyncio.Event()
            open_ones = asyncio.Semaphore(0)
            streams = [
                asyncio.create_task(_watch(wire, numbers[i % len(numbers)], open_ones, stop))
                for i in range(watchers)
            ]
            for _ in range(watchers):
                await open_ones.acquire()
            reading = asyncio.create_task(_read(wire, stop))
            watched = await _reads(wire)
            stop.set()
            for stream in streams:
                stream.cancel()
            await asyncio.gather(*streams, reading, return_exceptions=True)
            await asyncio.sleep(1)
            found.append(
                {
                    "watched ms": round(watched, 2),
                    "alone ms": round(alone, 2),
                    "ratio": round(watched / alone, 2),
                }
            )
    settings = {"watchers": watchers, "dockets": len(numbers), "reads a round": READS}
    return {"settings": settings, "rounds": found[1:], "memory": {}}


async def _reads(wire: httpx.AsyncClient) -> float:
    """The median of some reads one after the other, in milliseconds."""
    took = []
    for _ in range(READS):
        began = time.perf_counter()
        (await wire.get("/people?limit=20")).raise_for_status()
        took.append(1000 * (time.perf_counter() - began))
    return statistics.median(took)


async def _watch(
    wire: httpx.AsyncClient, number: str, opened: asyncio.Semaphore, stop: asyncio.Event
) -> None:
    async with wire.stream("GET", f"/dockets/{number}/events") as reply:
        first = True
        async for _ in reply.aiter_lines():
            if first:
                opened.release()
                first = False
            if stop.is_set():
                return


async def _read(wire: httpx.AsyncClient, stop: asyncio.Event) -> None:
    """An application is read again and again."""
    while not stop.is_set():
        await wire.post(f"/applications/{CREW}/read")
