"""The guide's own lines, typed by somebody without privileges in an empty folder: from the wheel to a leaver."""

from __future__ import annotations

import os
import re
import shutil
import subprocess
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import psycopg
import pytest

from tests.conftest import scratch
from yugum.cluster import Cluster, free_port

ROOT = Path(__file__).parents[2]
GUIDE = ROOT / "docs/guide/getting-started.md"
NOBODY = 65534
MOST_LINES = 8
PYTHON = shutil.which("python3.11", path="/usr/bin:/usr/local/bin") or "python3.11"
"""One that everybody may run."""


def blocks() -> list[tuple[str, str]]:
    """The code blocks of the guide's part about an installation, each with its language."""
    text = GUIDE.read_text().partition("## Your own installation")[2]
    return re.findall(r"```(\w+)\n(.*?)```", text, re.DOTALL)


@pytest.fixture
def own() -> Iterator[str]:
    """Somebody's PostgreSQL: a group, an account of somebody who is there, and one of nobody's."""
    folder = scratch()
    cluster = Cluster(folder / "own", {"fsync": "off"})
    cluster.start()
    try:
        with psycopg.connect(cluster.url(), autocommit=True) as connection:
            connection.execute("CREATE ROLE deck_reports NOLOGIN")
            connection.execute("CREATE ROLE jlund LOGIN IN ROLE deck_reports")
            connection.execute("CREATE ROLE left_long_ago LOGIN")
        yield cluster.url()
    finally:
        cluster.stop()
        shutil.rmtree(folder, ignore_errors=True)


class Somebody:
    """Types lines in a folder of their own, without the privileges of whoever runs the tests."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.url = f"http://127.0.0.1:{free_port()}"
        self.env = {
            **{n: v for n, v in os.environ.items() if not n.startswith(("YUGUM_", "XDG_"))},
            "HOME": str(folder),
            "PATH": f"{folder}/venv/bin:/usr/lib/postgresql/15/bin:/usr/bin:/bin",
            "YUGUM_PORT": self.url.rpartition(":")[2],
            "PYTHONPATH": "",
        }
        self.as_nobody: dict[str, Any] = (
            {"user": NOBODY, "group": NOBODY, "extra_groups": []} if os.geteuid() == 0 else {}
        )
        if self.as_nobody:
            os.chown(folder, NOBODY, NOBODY)

    def types(self, line: str, answer: str = "") -> str:
        done = subprocess.run(
            ["bash", "-c", line],
            cwd=self.folder,
            env=self.env,
            input=answer,
            capture_output=True,
            text=True,
            timeout=600,
            check=False,
            **self.as_nobody,
        )
        assert done.returncode == 0, (line, done.stdout, done.stderr)
        return str(done.stdout)

    def leaves_running(self, line: str, until: str) -> tuple[subprocess.Popen[str], str]:
        log = self.folder / "serve.log"
        with log.open("w") as out:
            process = subprocess.Popen(
                ["bash", "-c", f"exec {line}"],
                cwd=self.folder,
                env=self.env,
                stdout=out,
                stderr=out,
                text=True,
                **self.as_nobody,
            )
        for _ in range(600):
            if found := re.search(until, log.read_text()):
                return process, found.group(0)
            assert process.poll() is None, log.read_text()
            time.sleep(0.2)
        raise AssertionError(log.read_text())


def test_the_guides_lines_lead_from_the_wheel_to_a_leaver_who_is_cut_off(own: str) -> None:
    folder = Path(tempfile.mkdtemp(prefix="yugum-stranger-", dir="/var/tmp"))
    folder.chmod(0o755)
    service = None
    try:
        wheel = ["bash", str(ROOT / "scripts/install"), "--wheel", str(folder / "wheel")]
        built = subprocess.run(wheel, capture_output=True, text=True, check=True)
        who = Somebody(folder)
        who.types(f"{PYTHON} -m venv venv && cp wheel/*.whl .")
        parts = blocks()
        assert (folder / built.stdout.split("/")[-1].strip()).exists()
        csv = next(text for kind, text in parts if kind == "csv")
        more = "".join(f"p{n},20{n:02},Given{n},Family{n},Deck\n" for n in range(3, 31))
        (folder / "staff.csv").write_text(csv + more)
        (folder / "rules.yaml").write_text(next(text for kind, text in parts if kind == "yaml"))
        lines = [x for kind, text in parts if kind == "sh" for x in text.strip().splitlines()]
        assert len(lines) + len(["rules.yaml"]) <= MOST_LINES
        asked = ["a long new password", "staff.csv", "postgres", "Reports", "", "", own]
        answers = {"setup": "\n".join(asked) + "\n", "rules": "y\n", "leaver": "y\n"}
        link, told = "", {}
        for line in lines:
            word = line.split()[1]
            if word == "serve":
                service, link = who.leaves_running(line, r"http\S+/welcome#\S+")
                continue
            told[word] = who.types(line.replace("LINK", link), answers.get(word, ""))
        assert "30 new" in told["setup"]
        assert "1 linked, 1 with nobody behind" in told["setup"]
        assert "done, 2 of 2 steps" in told["leaver"]
        with psycopg.connect(own) as connection:
            asked_of = "SELECT rolcanlogin FROM pg_roles WHERE rolname = 'jlund'"
            row = connection.execute(asked_of).fetchone()
            assert row == (False,), "the application itself says so"
            inside = "SELECT count(*) FROM pg_auth_members m JOIN pg_roles r ON r.oid = m.member"
            row = connection.execute(f"{inside} WHERE r.rolname = 'jlund'").fetchone()
            assert row == (0,)
    finally:
        if service is not None:
            service.terminate()
            service.wait(60)
        shutil.rmtree(folder, ignore_errors=True)
