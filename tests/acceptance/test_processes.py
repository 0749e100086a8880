"""The service as an installed package runs it: its own cluster, first link, stop, crash, rotation."""

from __future__ import annotations

import json
import os
import re
import shutil
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path
from queue import Empty, Queue

import httpx
import psutil
import pytest

from tests.conftest import scratch
from tests.signing import PASSWORD


class Service:
    """``yugum serve`` on a state folder, with what it prints."""

    def __init__(self, folder: Path) -> None:
        self.process = subprocess.Popen(
            [
                sys.executable,
                "-m",
                "yugum.cli.main",
                "serve",
                "--state",
                str(folder),
                "--port",
                "0",
            ],
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            text=True,
            env={k: v for k, v in os.environ.items() if not k.startswith("YUGUM_")},
            start_new_session=True,
        )
        self._lines: Queue[str] = Queue()
        self._reader = threading.Thread(target=self._read, daemon=True)
        self._reader.start()
        self.link = ""
        try:
            self.url = self._wait_for(r"Yugum is at (\S+)")
        except BaseException:
            self.process.kill()
            self.process.wait()
            raise

    def _read(self) -> None:
        assert self.process.stdout is not None
        with self.process.stdout as lines:
            for line in lines:
                self._lines.put(line)

    def _wait_for(self, pattern: str, seconds: float = 300) -> str:
        deadline = time.monotonic() + seconds
        seen = []
        while time.monotonic() < deadline and self.process.poll() is None:
            try:
                line = self._lines.get(timeout=0.2)
            except Empty:
                continue
            seen.append(line)
            if found := re.search(r"Sign in once with: (\S+)", line):
                self.link = found[1]
            if found := re.search(pattern, line):
                return found[1]
        raise AssertionError("".join(seen))

    def end(self, number: int) -> int:
        self.process.send_signal(number)
        code = self.process.wait(30)
        self._reader.join(5)
        return code


@pytest.fixture
def folder() -> Iterator[Path]:
    made = scratch()
    yield made
    for process in of(made):
        process.kill()
    shutil.rmtree(made, ignore_errors=True)


def of(folder: Path) -> list[psutil.Process]:
    """Processes that have anything to do with a state folder."""
    found = []
    for process in psutil.process_iter():
        try:
            if str(folder) in " ".join(process.cmdline()):
                found.append(process)
        except psutil.Error:
            continue
    return found


def gone(folder: Path, seconds: float = 20) -> bool:
    deadline = time.monotonic() + seconds
    while of(folder) and time.monotonic() < deadline:
        time.sleep(0.1)
    return not of(folder)


def signed_in(url: str, link: str) -> httpx.Client:
    browser = httpx.Client(base_url=f"{url}/api/v1")
    session = browser.post("/session/link", json={"token": link.rsplit("#", 1)[1]}).json()
    browser.headers["X-Yugum-CSRF"] = session["csrf"]
    return browser


def test_a_new_installation_begins_stops_and_goes_on(folder: Path) -> None:
    first = Service(folder)
    assert first.link.startswith(first.url)
    with closing(signed_in(first.url, first.link)) as admin:
        made = admin.post("/people", json={"people": [{"user_name": "mara", "given_name": "Mara"}]})
        assert made.status_code == 201, made.text
        set_ = admin.put("/session/password", json={"password": PASSWORD})
        assert set_.status_code == 204, set_.text
        token = admin.post("/tokens", json={"name": "t", "password": PASSWORD}).json()["token"]
        assert admin.post("/clock/advance", json={"to": "+1d"}).status_code in (403, 404, 409)
    keys = folder / "keys.json"
    assert keys.stat().st_mode & 0o777 == 0o600
    assert first.end(signal.SIGTERM) == 0
    assert gone(folder), "nothing of it runs on"

    second = Service(folder)
    assert second.link == "", "the first administrator is made once"
    headers = {"Authorization": f"Bearer {token}"}
    shown = httpx.get(f"{second.url}/api/v1/people/mara", headers=headers).json()
    assert shown["display_name"] == "Mara"

    second.process.send_signal(signal.SIGKILL)
    second.process.wait(30)
    third = Service(folder)  # recovers, whatever was left lying
    shown = httpx.get(f"{third.url}/api/v1/people/mara", headers=headers).json()
    assert shown["display_name"] == "Mara"
    assert third.end(signal.SIGINT) in (0, 130, -signal.SIGINT)
    assert gone(folder)


def test_the_service_listens_on_loopback_only_and_is_watched(folder: Path) -> None:
    service = Service(folder)
    try:
        process = psutil.Process(service.process.pid)
        everybody = [process, *process.children(recursive=True)]
        heard = {
            c.laddr.ip
            for p in everybody
            for c in p.net_connections("inet")
            if c.status == psutil.CONN_LISTEN
        }
        assert heard == {"127.0.0.1"}
        assert httpx.get(f"{service.url}/healthz").status_code == 200
        assert httpx.get(f"{service.url}/readyz").status_code == 200
        assert httpx.get(f"{service.url}/metrics").status_code == 401
        if os.geteuid() == 0:
            postgres = [p for p in of(folder) if "postgres" in p.name()]
            assert postgres
            assert {p.username() for p in postgres} == {"postgres"}, "never as root"
    finally:
        service.end(signal.SIGTERM)


def test_a_taken_port_is_stepped_over(folder: Path) -> None:
    one = Service(folder)
    port = one.url.rsplit(":", 1)[1]
    other = scratch()
    try:
        two = subprocess.Popen(
            [
                sys.executable,
                "-m",
                "yugum.cli.main",
                "serve",
                "--state",
                str(other),
                "--port",
                port,
            ],
            stdout=subprocess.PIPE,
            text=True,
            start_new_session=True,
            env={k: v for k, v in os.environ.items() if not k.startswith("YUGUM_")},
        )
        assert two.stdout is not None
        said = next(line for line in two.stdout if "Yugum is at" in line)
        assert said.strip().rsplit(":", 1)[1] != port
        two.send_signal(signal.SIGTERM)
        assert two.wait(30) == 0
        two.stdout.close()
    finally:
        one.end(signal.SIGTERM)
        shutil.rmtree(other, ignore_errors=True)


@pytest.mark.parametrize(
    ("setting", "value", "said"),
    [
        ("YUGUM_PORT", "many", "port"),
        ("YUGUM_LEASE_SECONDS", "0", "lease_seconds"),
        ("YUGUM_PREFIX", "toolong1", "prefix"),
        ("YUGUM_DATABASE_URL", "postgresql://nobody:x@127.0.0.1:1/none", ""),
    ],
)
def test_a_wrong_setting_is_named_and_nothing_starts(
    folder: Path, setting: str, value: str, said: str
) -> None:
    clean = {k: v for k, v in os.environ.items() if not k.startswith("YUGUM_")}
    done = subprocess.run(
        [sys.executable, "-m", "yugum.cli.main", "serve", "--state", str(folder)],
        env={**clean, setting: value},
        capture_output=True,
        text=True,
        timeout=60,
        check=False,
    )
    assert done.returncode != 0
    assert said in done.stderr.lower()
    assert "Traceback" not in done.stderr, done.stderr[-1500:]
    assert gone(folder, 5)


def test_version_and_description_need_no_service() -> None:
    done = subprocess.run(
        [sys.executable, "-m", "yugum.cli.main", "--version"],
        capture_output=True,
        text=True,
        timeout=60,
        check=False,
    )
    assert re.search(r"\d+\.\d+\.\d+", done.stdout)
    made = subprocess.run(
        [sys.executable, "scripts/openapi.py"],
        capture_output=True,
        text=True,
        timeout=60,
        check=False,
        cwd=Path(__file__).parents[2],
    )
    document = json.loads(made.stdout)
    assert document["openapi"].startswith("3.1")
    operations = [
        o["operationId"] for methods in document["paths"].values() for o in methods.values()
    ]
    assert len(operations) == len(set(operations)), "each call has a name of its own"


def test_a_database_that_dies_is_said_to_be_away_and_comes_back_by_itself(folder: Path) -> None:
    service = Service(folder)
    try:
        with closing(signed_in(service.url, service.link)) as admin:
            body = {"people": [{"user_name": "mara", "given_name": "Mara"}]}
            assert admin.post("/people", json=body).status_code == 201
            server = next(p for p in of(folder) if "postgres" in p.name() and "-D" in p.cmdline())
            server.kill()
            away, deadline = None, time.monotonic() + 40
            while time.monotonic() < deadline:
                reply = admin.get("/people/mara")
                if reply.status_code == 200 and away is not None:
                    break
                if reply.status_code != 200:
                    away = reply
                time.sleep(0.05)
            assert away is not None
            assert (away.status_code, away.json()["code"]) == (503, "database-away")
            assert away.json()["retryable"] is True
            assert int(away.headers["Retry-After"]) > 0
            assert reply.json()["display_name"] == "Mara", "nothing is lost"
    finally:
        service.end(signal.SIGTERM)
    assert gone(folder), "the one that was started again has ended too"


def test_a_lost_first_link_is_made_again_by_whoever_holds_the_key_file(folder: Path) -> None:
    service = Service(folder)
    here = ("operators", "link", "admin", "--here", "--state-folder", str(folder))

    def made() -> str:
        command = [sys.executable, "-m", "yugum.cli.main", *here]
        env = {k: v for k, v in os.environ.items() if not k.startswith("YUGUM_")}
        done = subprocess.run(command, env=env, capture_output=True, text=True, timeout=60)
        assert done.returncode == 0, done.stderr
        return done.stdout.strip()

    try:
        newer = made()
        old = service.link.rsplit("#", 1)[1]
        reply = httpx.post(f"{service.url}/api/v1/session/link", json={"token": old})
        assert reply.status_code == 401, "a newer link ends the older"
        with closing(signed_in(service.url, newer)) as admin:
            assert admin.get("/session").json()["operator"]["login"] == "admin"
    finally:
        service.end(signal.SIGTERM)
    assert "/welcome#" in made(), "also while no service runs"
    (folder / "keys.json").chmod(0o644)
    command = [sys.executable, "-m", "yugum.cli.main", *here]
    refused = subprocess.run(command, capture_output=True, text=True, timeout=60)
    assert refused.returncode != 0
    assert "chmod 600" in refused.stderr
