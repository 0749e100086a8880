"""Progress as it happens: a docket's events, several who listen, and who must not."""

from __future__ import annotations

import json
import threading
import time
from collections.abc import Iterator
from typing import Any

import httpx

from tests.acceptance.test_service import joined
from tests.conftest import Theatre
from yugum.core.verbs import Verb
from yugum.wire import plans as wl
from yugum_standins.load import do


def events(theatre: Theatre, number: str, **more: Any) -> Iterator[tuple[str, Any]]:
    """The events of a docket as they come: name and document."""
    headers = {"Authorization": f"Bearer {theatre.token}", **more}
    url = f"{theatre.stage.url}/api/v1/dockets/{number}/events"
    with httpx.stream("GET", url, headers=headers, timeout=30) as reply:
        assert reply.status_code == 200
        assert reply.headers["Content-Type"].startswith("text/event-stream")
        name = ""
        for line in reply.iter_lines():
            if line.startswith("event:"):
                name = line.partition(":")[2].strip()
            elif line.startswith("data:") and name:
                yield name, json.loads(line.partition(":")[2].strip() or "null")


def leave(theatre: Theatre) -> str:
    batch = theatre.client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[joined(theatre)]))
    return theatre.client.plans.confirm(batch)[0].number


def done_of(view: Any) -> int:
    return sum(s["state"] == "done" for s in view["steps"])


def test_progress_only_grows_and_the_stream_ends_with_the_docket(theatre: Theatre) -> None:
    number = leave(theatre)
    seen = list(events(theatre, number))
    views = [view for name, view in seen if name == "docket"]
    assert seen[-1][0] == "end"
    assert views[-1]["state"] == "done"
    counts = [done_of(v) for v in views]
    assert counts == sorted(counts)
    assert counts[-1] == len(views[-1]["steps"])
    assert len({len(v["steps"]) for v in views}) == 1


def test_whoever_comes_late_hears_how_it_ended(theatre: Theatre) -> None:
    number = do(theatre.client, Verb.LEAVER, joined(theatre))
    seen = list(events(theatre, number))
    assert [name for name, _ in seen][-1] == "end"
    assert seen[0][1]["state"] == "done"


def test_many_may_listen_and_leave(theatre: Theatre) -> None:
    theatre.crew.fault(latency_ms=150)
    ends: list[str] = []

    def listen(number: str, *, patient: bool) -> None:
        for name, view in events(theatre, number):
            if not patient:
                return
            if name == "docket":
                last = view["state"]
        ends.append(last)

    try:
        number = leave(theatre)
        threads = [
            threading.Thread(target=listen, args=(number,), kwargs={"patient": n % 2 == 0})
            for n in range(8)
        ]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join(30)
    finally:
        theatre.crew.fault(latency_ms=0)
    assert ends == ["done"] * 4
    assert httpx.get(f"{theatre.stage.url}/healthz").status_code == 200


def test_no_stream_without_signing_in_or_of_what_is_not_there(theatre: Theatre) -> None:
    url = f"{theatre.stage.url}/api/v1/dockets"
    number = do(theatre.client, Verb.LEAVER, joined(theatre))
    assert httpx.get(f"{url}/{number}/events").status_code == 401
    headers = {"Authorization": f"Bearer {theatre.token}"}
    missing = httpx.get(f"{url}/MS-99999/events", headers=headers)
    assert missing.status_code == 404
    assert missing.json()["code"] == "not-found"


def test_a_listener_does_not_hold_up_the_work(theatre: Theatre) -> None:
    """Somebody opens a stream and never reads it."""
    number = leave(theatre)
    headers = {"Authorization": f"Bearer {theatre.token}"}
    url = f"{theatre.stage.url}/api/v1/dockets/{number}/events"
    with httpx.stream("GET", url, headers=headers, timeout=30):
        deadline = time.monotonic() + 20
        while time.monotonic() < deadline and theatre.client.dockets.show(number).state != "done":
            time.sleep(0.1)
        assert theatre.client.dockets.show(number).state == "done"
