"""How long the console's calls take while an application is being read and streams are open."""

from __future__ import annotations

import http.client
import threading
import time
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager, suppress

from bench.cutoff import connect
from bench.sync import _seed
from yugum.client import Client
from yugum.core.applications import Trust
from yugum_standins.stage import Stage

STREAMS, ACCOUNTS = 20, 20_000


@contextmanager
def being_read(stage: Stage, token: str) -> Iterator[None]:
    """``STREAMS`` streams of changes are open, and ``ACCOUNTS`` accounts are read again and again."""
    stop = threading.Event()
    standin = stage.standin("alpha", _seed(ACCOUNTS, attributes=False), window_days=30, keep=False)
    with Client(stage.url, token, timeout=600) as client:
        connect(client, "alpha", standin, Trust.WATCH)

        def read() -> None:
            while not stop.is_set():
                client.applications.read("alpha")

        reader = threading.Thread(target=read)
        streams = [_stream(stage.url, token) for _ in range(STREAMS)]
        reader.start()
        time.sleep(2)
        try:
            yield
        finally:
            stop.set()
            reader.join()
            for stream in streams:
                stream.close()


def _stream(url: str, token: str) -> http.client.HTTPConnection:
    """An open stream; what comes is read by a thread of its own."""
    wire = http.client.HTTPConnection(url.removeprefix("http://"), timeout=600)
    wire.request("GET", "/api/v1/changes", headers={"Authorization": f"Bearer {token}"})
    reply = wire.getresponse()

    def drain() -> None:
        with suppress(OSError, ValueError, http.client.HTTPException, AttributeError):
            while reply.readline():
                pass

    threading.Thread(target=drain, daemon=True).start()
    return wire


def slowest(calls: Mapping[str, str], p95: Callable[[str], float]) -> tuple[str, float]:
    """The slowest of some calls, and its p95 in milliseconds."""
    took = {name: p95(path) for name, path in calls.items()}
    worst = max(took, key=lambda name: took[name])
    return worst, took[worst]
