"""An error keeps its kind on its way: service, client, command line."""

from __future__ import annotations

import socket
import threading
from collections.abc import Iterator

import pytest
import uvicorn
from fastapi import FastAPI

from yugum import errors
from yugum.api import problems
from yugum.cli import main
from yugum.client.http import Http

TREE = list(errors.tree())
BY_CODE = {kind.code: kind for kind in TREE}
EXITS = {
    "not-found": 3, "ambiguous": 3, "invalid-input": 4, "too-slow": 4, "conflict": 4, "doubtful": 4, "plan-stale": 4,
    "window-over": 4, "no-seat": 4, "held": 4, "access": 6, "unauthenticated": 6, "forbidden": 6,
    "throttled": 6, "unreachable": 5, "database-away": 5, "collided": 5, "application": 7, "application-unavailable": 7,
    "rate-limited": 7, "application-rejected": 7, "cannot-do": 7,
    "error": 1, "lease-lost": 1, "config": 1, "mail-failed": 1,
}  # fmt: skip
"""As docs/reference/cli.md promises them."""


@pytest.fixture(scope="module")
def service() -> Iterator[str]:
    """A service on loopback whose every call ends with the error its path names."""
    app = FastAPI()
    problems.install(app)

    @app.api_route("/{code}/{rest:path}", methods=["GET", "POST"])
    async def refuse(code: str, rest: str) -> None:
        if code == "newer":
            later = errors.told("of-tomorrow", "Not known yet.", retryable=True)
            raise later
        raise BY_CODE[code](f"{rest} is refused.", remedy="Do it.", place="here", retry_after=2.4)

    with socket.socket() as bound:
        bound.bind(("127.0.0.1", 0))
        bound.listen()
        server = uvicorn.Server(uvicorn.Config(app, log_level="error", lifespan="off"))
        thread = threading.Thread(target=server.run, kwargs={"sockets": [bound]})
        thread.start()
        yield f"http://127.0.0.1:{bound.getsockname()[1]}"
        server.should_exit = True
        thread.join()


def refused(service: str, code: str) -> errors.YugumError:
    http = Http(f"{service}/{code}", "", timeout=10)
    try:
        with pytest.raises(errors.YugumError) as caught:
            http.send("GET", "/status")
        return caught.value
    finally:
        http.close()


def test_no_two_kinds_share_a_code_and_the_docstring_draws_all() -> None:
    assert len(BY_CODE) == len(TREE)
    assert set(BY_CODE) == set(EXITS)
    drawn = errors.__doc__ or ""
    assert [kind.__name__ for kind in TREE if kind.__name__ not in drawn] == []


@pytest.mark.parametrize("kind", TREE, ids=lambda kind: kind.code)
def test_the_client_raises_what_the_service_raised(
    kind: type[errors.YugumError],
    service: str,
    monkeypatch: pytest.MonkeyPatch,
    capsys: pytest.CaptureFixture[str],
) -> None:
    error = refused(service, kind.code)
    assert type(error) is kind
    assert (error.retryable, error.code) == (kind.retryable, kind.code)
    assert (error.remedy, error.place) == ("Do it.", "here")
    assert error.retry_after == 3, "rounded up: an early second try is refused again"

    words = ["yugum", "--url", f"{service}/{kind.code}", "--token", "t", "status"]
    monkeypatch.setattr("sys.argv", words)
    with pytest.raises(SystemExit) as end:
        main.main()
    assert end.value.code == EXITS[kind.code]
    shown = capsys.readouterr().err
    assert "is refused. (here)" in shown
    assert "→ Do it." in shown


def test_a_kind_of_a_later_version_keeps_its_name_and_may_be_tried_again(service: str) -> None:
    error = refused(service, "newer")
    assert (type(error), error.code, error.retryable) == (errors.YugumError, "of-tomorrow", True)


def test_the_status_of_a_kind_is_its_own_or_the_one_above_it() -> None:
    assert errors.PlanStale.status == 412
    assert errors.NoSeat.status == errors.Conflict.status == 409
    assert errors.Throttled.status == 429
    assert errors.RateLimited.status == errors.ApplicationError.status == 502
