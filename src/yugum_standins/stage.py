"""The stage: clusters, a stand-in, the service and workers as processes of one parent.

Used by the demo, the proofs, the tests and the benchmarks. Whatever way the parent ends, the
children end with it.
"""

from __future__ import annotations

import json
import os
import secrets
import signal
import subprocess
import sys
import time
from base64 import b64encode
from collections.abc import Callable, Iterable, Mapping
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import httpx
import psycopg

from yugum.bootstrap import DATABASE
from yugum.cluster import Cluster, free_port, log_of
from yugum.errors import ConfigError
from yugum.storage.database import migrate
from yugum_standins.calendar_store import CalendarStore
from yugum_standins.directory import Directory
from yugum_standins.mail_store import MailStore

SAFE = {"max_connections": "100", "shared_buffers": "64MB"}
LOGGED = {"log_statement": "ddl", "log_line_prefix": "%m %u "}


@dataclass(slots=True)
class Child:
    """A process, its log, and how to start it again."""

    name: str
    command: list[str]
    env: dict[str, str]
    log: Path
    process: subprocess.Popen[bytes] | None = None

    def start(self) -> Child:
        with log_of(self.log) as log:
            self.process = subprocess.Popen(
                self.command,
                env=self.env,
                stdout=log,
                stderr=log,
                stdin=subprocess.DEVNULL,
                start_new_session=True,
            )
        return self

    def stop(self, number: int = signal.SIGTERM, seconds: float = 10.0) -> None:
        if self.process is None or self.process.poll() is not None:
            return
        self.process.send_signal(number)
        try:
            self.process.wait(seconds)
        except subprocess.TimeoutExpired:
            self.process.kill()
            self.process.wait()

    @property
    def pid(self) -> int:
        assert self.process is not None
        return self.process.pid

    def alive(self) -> bool:
        return self.process is not None and self.process.poll() is None


@dataclass(slots=True)
class Stage:
    """Everything that runs, below one state folder."""

    folder: Path
    settings: Mapping[str, str] = field(default_factory=lambda: dict(SAFE))
    children: dict[str, Child] = field(default_factory=dict)
    clusters: dict[str, Cluster] = field(default_factory=dict)
    directories: list[Directory] = field(default_factory=list)
    mail_stores: list[MailStore] = field(default_factory=list)
    calendar_stores: list[CalendarStore] = field(default_factory=list)
    env: dict[str, str] = field(default_factory=dict)
    url: str = ""

    def cluster(self, name: str, more: Mapping[str, str] | None = None) -> Cluster:
        """A private cluster of that name, started."""
        made = Cluster(self.folder / name, {**self.settings, **(more or {})})
        made.start()
        self.clusters[name] = made
        return made

    def database(self) -> str:
        """Yugum's own database, started and migrated; returns its URL."""
        own = self.cluster("postgres")
        own.create_database(DATABASE)
        url = own.url(DATABASE)
        migrate(url)
        self.env |= {"YUGUM_DATABASE_URL": url, "YUGUM_STATE": str(self.folder)}
        return url

    def spawn(self, name: str, command: list[str], more: Mapping[str, str] | None = None) -> Child:
        child = Child(
            name,
            [sys.executable, "-m", *command],
            {**os.environ, **self.env, **(more or {})},
            self.folder / f"{name}.log",
        ).start()
        self.children[name] = child
        return child

    def standin(
        self,
        name: str,
        seed: Mapping[str, Any] | None,
        *,
        window_days: int = 30,
        keep: bool = True,
        traits: Mapping[str, Any] | None = None,
    ) -> dict[str, Any]:
        """A simulated application; returns its ``url`` and ``token``."""
        notes = self.folder / f"{name}.json"
        known = json.loads(notes.read_text()) if notes.exists() else {}
        token = known.get("token") or secrets.token_urlsafe(16)
        port = free_port(known.get("port") or 0)
        write_private(notes, {"token": token, "port": port})
        command = [
            "yugum_standins.main",
            "--name",
            name,
            "--port",
            str(port),
            "--with-parent",
            "--window-days",
            str(window_days),
            "--traits",
            json.dumps(dict(traits or {})),
        ]
        if keep:
            command += ["--data", str(self.folder / f"{name}.sqlite")]
        if seed is not None:
            file = self.folder / f"{name}.seed.json"
            file.write_text(json.dumps(seed))
            command += ["--seed", str(file)]
        clock = self.env.get("YUGUM_DATABASE_URL", "")
        self.spawn(name, command, {"YUGUM_STANDIN_TOKEN": token, "YUGUM_CLOCK_URL": clock})
        url = f"http://127.0.0.1:{port}"
        headers = {"Authorization": f"Bearer {token}"}
        wait_for(f"{url}/panel/health", self.children[name], headers)
        return {"url": url, "token": token, "headers": headers}

    def directory(self, entries: Callable[[], Iterable[Any]]) -> Directory:
        """The staff directory; ``entries`` fill a new one."""
        made = Directory(self.folder / "directory")
        made.start(entries())
        self.directories.append(made)
        return made

    def mail_store(self, mailboxes: Iterable[tuple[str, str]], domain: str) -> MailStore:
        """The mail store; ``mailboxes`` fill a new one.

        The post office, to be started after it, is its way out and in.
        """
        own = self.clusters["postgres"]
        own.create_database("mail_store")
        notes = self.folder / "post-office.json"
        office = json.loads(notes.read_text()) if notes.exists() else {}
        office["smtp"] = free_port(office.get("smtp") or 0)
        write_private(notes, office)
        made = MailStore(self.folder / "mail", own.url("mail_store"), domain, office["smtp"])
        self.mail_stores.append(made)
        made.start(mailboxes)
        return made

    def calendars(self, fill: Callable[[CalendarStore], None] | None = None) -> CalendarStore:
        """The calendars of whoever has a mailbox on the mail store; ``fill`` fills new ones."""
        made = CalendarStore(self.folder / "calendars", self.mail_stores[0])
        self.calendar_stores.append(made)
        if made.start() and fill is not None:
            fill(made)
        return made

    def post_office(self) -> str:
        """The mail sink; returns the address at which what arrived can be read."""
        return self._town("post_office", "post-office", smtp=True)

    def badge_desk(self) -> dict[str, Any]:
        """The web hook of the badge desk; returns its ``url`` and signing ``secret``."""
        url = self._town("badge_desk", "badge-desk", smtp=False)
        notes = json.loads((self.folder / "badge-desk.json").read_text())
        return {"url": url, "secret": notes["secret"]}

    def _town(self, module: str, name: str, *, smtp: bool) -> str:
        notes = self.folder / f"{name}.json"
        known = json.loads(notes.read_text()) if notes.exists() else {}
        port = free_port(known.get("port") or 0)
        secret = known.get("secret") or "whsec_" + b64encode(secrets.token_bytes(24)).decode()
        kept = {"port": port, "secret": secret}
        command = [f"yugum_standins.{module}", "--port", str(port), "--with-parent"]
        command += ["--data", str(self.folder / f"{name}.jsonl")]
        if smtp:
            kept["smtp"] = free_port(known.get("smtp") or 0)
            command += ["--smtp-port", str(kept["smtp"])]
            for store in self.mail_stores:
                command += ["--lmtp-port", str(store.notes["lmtp"])]
            self.env["YUGUM_SMTP_URL"] = f"smtp://127.0.0.1:{kept['smtp']}"
            self.env["YUGUM_MAIL_FROM"] = "Yugum <yugum@morrowsound.example>"
        write_private(notes, kept)
        self.spawn(name, command, {"YUGUM_STANDIN_TOKEN": secret})
        wait_for(f"http://127.0.0.1:{port}/panel/health", self.children[name])
        return f"http://127.0.0.1:{port}"

    def scripts(self) -> None:
        """The folder of local programs that Yugum may run, with the organisation's own in it."""
        folder = self.folder / "scripts"
        folder.mkdir(exist_ok=True)
        for source in (Path(__file__).parent / "scripts").iterdir():
            target = folder / source.name
            target.write_bytes(source.read_bytes())
            target.chmod(0o755)
        self.env["YUGUM_SCRIPT_FOLDER"] = str(folder)

    def serve(self, port: int = 8420, more: Mapping[str, str] | None = None) -> str:
        """The service without a worker inside; returns its URL."""
        chosen = free_port(port) if port else free_port()
        self.url = f"http://127.0.0.1:{chosen}"
        self.env["YUGUM_PUBLIC_URL"] = self.url
        env = dict(more or {})
        child = self.spawn(
            "service",
            ["yugum.cli.main", "serve", "--no-worker", "--with-parent", "--port", str(chosen)],
            env,
        )
        wait_for(f"{self.url}/readyz", child)
        return self.url

    def worker(self, name: str = "worker-1", more: Mapping[str, str] | None = None) -> Child:
        """A worker, once it takes work."""
        log = self.folder / f"{name}.log"
        begin = log.stat().st_size if log.exists() else 0
        child = self.spawn(
            name, ["yugum.cli.main", "worker", "--with-parent", "--name", name], more
        )
        deadline = time.monotonic() + 60
        while child.alive() and time.monotonic() < deadline:
            if f"worker {name} is ready" in log.read_text()[begin:]:
                return child
            time.sleep(0.05)
        raise ConfigError(f"{name} does not start:\n{log.read_text()[begin:][-2000:]}")

    def stop(self) -> None:
        """Stop children in the reverse order of their start, then the clusters."""
        for child in reversed(list(self.children.values())):
            child.stop()
        for cluster in self.clusters.values():
            cluster.stop()
        for calendars in self.calendar_stores:
            calendars.stop()
        for store in self.mail_stores:
            store.stop()
        for directory in self.directories:
            directory.stop()
        self.directories.clear()
        self.mail_stores.clear()
        self.calendar_stores.clear()
        self.children.clear()
        self.clusters.clear()


def write_private(path: Path, document: Mapping[str, Any]) -> None:
    """Write JSON that only its owner can read."""
    handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
    with os.fdopen(handle, "w") as file:
        json.dump(document, file)


def wait_for(
    url: str, child: Child, headers: Mapping[str, str] | None = None, seconds: float = 120
) -> None:
    """Wait until an address answers 200.

    Raises:
        ConfigError: the child ended, or did not answer in time; with the end of its log.
    """
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline and child.alive():
        with suppress(httpx.TransportError):
            if httpx.get(url, headers=dict(headers or {}), timeout=2).status_code == 200:
                return
        time.sleep(0.05)
    tail = child.log.read_text(errors="replace")[-2000:]
    raise ConfigError(f"{child.name} does not start:\n{tail}")


def run_sql(url: str, statements: list[str]) -> None:
    """Run statements one by one on a connection of their own."""
    with psycopg.connect(url, autocommit=True) as connection:
        for statement in statements:
            connection.execute(statement)
