"""Steps of one's own: a signed web hook and a local program, also when they misbehave."""

from __future__ import annotations

import json
import os
import secrets
import subprocess
import sys
import time
from base64 import b64encode
from collections.abc import AsyncIterator, Iterator
from dataclasses import replace
from pathlib import Path

import httpx
import psutil
import pytest

from yugum.cluster import free_port
from yugum.connectors.own import connect_hook, connect_script
from yugum.connectors.own.runs import Runner
from yugum.core.accounts import AccountState
from yugum.core.actions import Action, Arguments
from yugum.core.actions.registry import is_fulfilled
from yugum.errors import ApplicationRejected, ApplicationUnavailable, InvalidInput
from yugum.ports.connectors import AccountRef, ConnectorSpec
from yugum_standins import stage as standins

REF = AccountRef("a-1", "", "mquill")
RUN = Arguments(run="joiner:2031-03-10", login="mquill", verb="joiner")


class Desk:
    def __init__(self) -> None:
        self.secret = "whsec_" + b64encode(secrets.token_bytes(24)).decode()
        self.port = free_port()
        self.process = subprocess.Popen(
            [sys.executable, "-m", "yugum_standins.badge_desk", "--port", str(self.port)],
            env={**os.environ, "YUGUM_STANDIN_TOKEN": self.secret},
        )
        deadline = time.monotonic() + 20
        while time.monotonic() < deadline:
            try:
                httpx.get(f"{self.url}/panel/health")
                return
            except httpx.TransportError:
                time.sleep(0.05)

    @property
    def url(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def behave(self, how: str) -> None:
        httpx.put(f"{self.url}/panel/faults", json={"behaviour": how})


@pytest.fixture(scope="module")
def desk() -> Iterator[Desk]:
    made = Desk()
    yield made
    made.process.kill()
    made.process.wait()


def program(folder: Path, body: str, name: str = "step") -> Path:
    file = folder / name
    file.write_text(f"#!/usr/bin/env python3\n{body}")
    file.chmod(0o755)
    return file


@pytest.fixture(params=["hook", "script"])
async def runner(
    request: pytest.FixtureRequest, desk: Desk, tmp_path: Path
) -> AsyncIterator[Runner]:
    made: Runner
    if request.param == "hook":
        desk.behave("")
        options = {"hosts": "127.0.0.1", "timeout": "1"}
        made = connect_hook(
            ConnectorSpec(name="Desk", url=f"{desk.url}/hook", secret=desk.secret, options=options)
        )
    else:
        source = Path(standins.__file__).parent / "scripts" / "locker-list"
        (tmp_path / "step").write_text(source.read_text())
        (tmp_path / "step").chmod(0o755)
        options = {"program": "step", "timeout": "5"}
        made = connect_script(ConnectorSpec(name="Lockers", scripts=tmp_path, options=options))
    yield made
    await made.close()


async def test_a_step_is_run_seen_and_put_back(runner: Runner) -> None:
    ref = AccountRef(f"a-{secrets.token_hex(4)}", "", "mquill")
    assert await runner.observe(ref) is None
    for _ in range(2):
        did = await runner.act(Action.RUN, ref, "badge", RUN)
    assert did.external_id == ref.account_id
    seen = await runner.observe(ref)
    assert seen is not None
    assert seen.state is AccountState.SUSPENDED, "nobody gets in anywhere by it"
    assert is_fulfilled(Action.RUN, "badge", seen, RUN)
    await runner.act(Action.RUN, ref, "badge", replace(RUN, back=True))
    known = AccountRef(ref.account_id, ref.account_id, ref.login)
    assert is_fulfilled(Action.RUN, "badge", await runner.observe(known), replace(RUN, back=True))


@pytest.mark.parametrize(
    ("how", "error", "word"),
    [
        ("hang", ApplicationUnavailable, "has not answered"),
        ("error", ApplicationUnavailable, "500"),
        ("garbage", ApplicationRejected, "JSON"),
    ],
)
async def test_a_hook_that_misbehaves_is_told_apart(
    desk: Desk, how: str, error: type[Exception], word: str
) -> None:
    options = {"hosts": "127.0.0.1", "timeout": "1"}
    runner = connect_hook(
        ConnectorSpec(name="Desk", url=f"{desk.url}/hook", secret=desk.secret, options=options)
    )
    desk.behave(how)
    try:
        with pytest.raises(error, match=word):
            await runner.observe(REF)
    finally:
        desk.behave("")
        await runner.close()


async def test_a_forged_signature_is_refused_by_the_other_side(desk: Desk) -> None:
    other = "whsec_" + b64encode(secrets.token_bytes(24)).decode()
    options = {"hosts": "127.0.0.1"}
    runner = connect_hook(
        ConnectorSpec(name="Desk", url=f"{desk.url}/hook", secret=other, options=options)
    )
    with pytest.raises(ApplicationRejected, match="401"):
        await runner.observe(REF)
    await runner.close()


@pytest.mark.parametrize(
    ("body", "error", "word"),
    [
        (
            "import sys; print('no key', file=sys.stderr); sys.exit(3)",
            ApplicationRejected,
            "with 3",
        ),
        ("while True: pass", ApplicationUnavailable, "has not answered"),
        ("print('<html>')", ApplicationRejected, "JSON"),
        ("print('x' * 200000)", ApplicationRejected, "64,000"),
        ("print('[1]')", ApplicationRejected, "object"),
        ("import time\nprint('{}', flush=True)", ApplicationRejected, "which steps"),
    ],
)
async def test_a_program_that_misbehaves_is_told_apart(
    tmp_path: Path, body: str, error: type[Exception], word: str
) -> None:
    program(tmp_path, body)
    options = {"program": "step", "timeout": "1"}
    runner = connect_script(ConnectorSpec(name="Step", scripts=tmp_path, options=options))
    with pytest.raises(error, match=word):
        await runner.observe(REF)


async def test_a_program_gets_no_secret_and_leaves_nothing_running(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("YUGUM_TOKEN", "very-secret")
    program(
        tmp_path,
        "import json, os, subprocess\n"
        "subprocess.Popen(['sleep', '61.25'], stdin=subprocess.DEVNULL,"
        " stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)\n"
        "print(json.dumps({'state': 'done', 'note': json.dumps(dict(os.environ))}))",
    )
    options = {"program": "step"}
    runner = connect_script(ConnectorSpec(name="Step", scripts=tmp_path, options=options))
    did = await runner.act(Action.RUN, REF, "badge", RUN)
    seen = set(json.loads(did.note))
    assert "YUGUM_TOKEN" not in seen
    assert seen <= {"PATH", "LANG", "LC_CTYPE", "PWD"}
    time.sleep(0.2)
    left = [p for p in psutil.process_iter(["cmdline"]) if "61.25" in (p.info["cmdline"] or [])]
    assert [p for p in left if p.status() != psutil.STATUS_ZOMBIE] == []


@pytest.mark.parametrize(
    ("options", "place"),
    [
        ({"program": "../step"}, "options.program"),
        ({"program": "/bin/sh"}, "options.program"),
        ({"program": ""}, "options.program"),
        ({"program": "step", "shell": "yes"}, "options"),
    ],
)
def test_only_a_program_of_the_folder_may_run(
    tmp_path: Path, options: dict[str, str], place: str
) -> None:
    folder = tmp_path / "scripts"
    folder.mkdir()
    program(tmp_path, "print()")
    with pytest.raises(InvalidInput) as caught:
        connect_script(ConnectorSpec(name="Step", scripts=folder, options=options))
    assert caught.value.place == place


@pytest.mark.parametrize("url", ["http://169.254.169.254/x", "http://localhost:1/x", ""])
def test_a_hook_goes_to_allowed_hosts_only(url: str) -> None:
    secret = "whsec_" + b64encode(b"x" * 24).decode()
    with pytest.raises(InvalidInput) as caught:
        connect_hook(
            ConnectorSpec(name="x", url=url, secret=secret, options={"hosts": "127.0.0.1"})
        )
    assert caught.value.place == "options.hosts"
