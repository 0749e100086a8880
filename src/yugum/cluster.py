"""A private PostgreSQL cluster: made, started on a free loopback port, stopped with its parent.

Never runs as root: when root calls, the server runs as the system user ``postgres``. Passwords are
generated; nothing listens beyond loopback and there is no Unix socket.
"""

from __future__ import annotations

import ctypes
import json
import os
import pwd
import random
import secrets
import shutil
import signal
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Mapping
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, BinaryIO

import psycopg

from yugum.errors import ConfigError

_BINARIES = ("/usr/lib/postgresql/15/bin", "/usr/lib/postgresql/16/bin", "/usr/local/bin")
ADMIN = "yugum_admin"


QUIET = range(15_000, 32_000)
"""Ports below those that systems give to outgoing connections (RFC 6335 6; Linux begins at 32768): one
found free there is not taken by the next connection anybody makes before it is listened on."""


def free_port(preferred: int = 0) -> int:
    """A loopback port nobody listens on: ``preferred`` or the next free one above, or any."""
    wanted = range(preferred, preferred + 50) if preferred else ()
    for port in (*wanted, *random.sample(QUIET, 50), 0):
        with socket.socket() as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                probe.bind(("127.0.0.1", port))
            except OSError:
                continue
            return int(probe.getsockname()[1])
    raise ConfigError("No free loopback port was found.", remedy="Name one with --port.")


def log_of(path: Path) -> BinaryIO:
    """A log to write at the end of, which others on the machine cannot read."""
    handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_APPEND, 0o640)
    os.fchmod(handle, 0o640)
    return os.fdopen(handle, "ab")


def end(process: subprocess.Popen[bytes] | None, seconds: float = 10) -> None:
    """Let a process end, and see to it that it does."""
    if process is None or process.poll() is not None:
        return
    process.terminate()
    try:
        process.wait(seconds)
    except subprocess.TimeoutExpired:
        process.kill()
        process.wait()


def die_with_parent() -> None:
    """Ask the kernel to end this process when its parent ends (Linux, prctl 1)."""
    if sys.platform == "linux":
        ctypes.CDLL(None, use_errno=True).prctl(1, signal.SIGTERM)


def _binary(name: str) -> str:
    for folder in _BINARIES:
        if (path := Path(folder) / name).exists():
            return str(path)
    if found := shutil.which(name):
        return found
    raise ConfigError(
        f"PostgreSQL's program {name} is not installed.",
        remedy="Install Debian's package postgresql-15, or set YUGUM_DATABASE_URL.",
    )


@dataclass(slots=True)
class Cluster:
    """One cluster in ``folder``; ``settings`` are lines of its configuration."""

    folder: Path
    settings: Mapping[str, str]
    process: subprocess.Popen[bytes] | None = None
    _stopped: threading.Event = field(default_factory=threading.Event)

    @property
    def data(self) -> Path:
        return self.folder / "data"

    @property
    def made(self) -> bool:
        return (self.data / "PG_VERSION").exists()

    @property
    def _notes(self) -> Path:
        return self.folder / "cluster.json"

    def notes(self) -> dict[str, Any]:
        """Port and admin password, as kept from the first start on."""
        loaded: dict[str, Any] = json.loads(self._notes.read_text())
        return loaded

    def url(self, database: str = "postgres", *, driver: str = "postgresql") -> str:
        notes = self.notes()
        return f"{driver}://{ADMIN}:{notes['password']}@127.0.0.1:{notes['port']}/{database}"

    def start(self) -> None:
        """Make the cluster if it is new, then start it and wait until it answers.

        As long as it is not stopped, it is started again when it ends.
        """
        if not self.made:
            self._make()
        notes = self.notes()
        notes["port"] = free_port(notes.get("port") or 0)
        self._write_notes(notes)
        self._stopped.clear()
        self._launch()
        threading.Thread(target=self._keep, args=(self.process,), daemon=True).start()

    def _keep(self, process: subprocess.Popen[bytes]) -> None:
        while True:
            process.wait()
            if self._stopped.wait(0.2) or self.process is not process:
                return
            with suppress(ConfigError):  # its log says why; it is tried again
                self._launch()
            if self.process is not None:
                process = self.process
            if self._stopped.is_set():
                self._end()

    def _launch(self) -> None:
        options = {
            "listen_addresses": "127.0.0.1",
            "port": str(self.notes()["port"]),
            "unix_socket_directories": "",
            **self.settings,
        }
        command = [_binary("postgres"), "-D", str(self.data)]
        for key, value in options.items():
            command += ["-c", f"{key}={value}"]
        deadline = time.monotonic() + 30
        while True:
            with log_of(self.folder / "server.log") as log:
                self.process = subprocess.Popen(
                    [*self._as_server(die_with_parent=True), *command],
                    stdout=log,
                    stderr=log,
                    stdin=subprocess.DEVNULL,
                    start_new_session=True,
                )
            if self._answers(deadline):
                return
            if time.monotonic() > deadline:
                tail = (self.folder / "server.log").read_text(errors="replace")[-600:]
                raise ConfigError(f"PostgreSQL in {self.folder} does not start: {tail}")
            time.sleep(0.5)  # a killed predecessor may still hold the data folder for a moment

    def _answers(self, deadline: float) -> bool:
        while time.monotonic() < deadline:
            if self.process is None or self.process.poll() is not None:
                return False
            try:
                with psycopg.connect(self.url(), connect_timeout=2):
                    return True
            except psycopg.OperationalError:
                time.sleep(0.05)
        return False

    def runs(self) -> bool:
        """Whether another process has started it."""
        if not self._notes.exists() or not (self.data / "postmaster.pid").exists():
            return False
        try:
            with psycopg.connect(self.url(), connect_timeout=2):
                return True
        except psycopg.OperationalError:
            return False

    def stop(self) -> None:
        """Fast shutdown, and wait for it."""
        self._stopped.set()
        self._end()

    def _end(self) -> None:
        if self.process is None or self.process.poll() is not None:
            return
        self.process.send_signal(signal.SIGINT)
        try:
            self.process.wait(timeout=20)
        except subprocess.TimeoutExpired:
            self.process.kill()
            self.process.wait()

    def remove(self) -> None:
        self.stop()
        shutil.rmtree(self.folder, ignore_errors=True)

    def create_database(self, name: str) -> bool:
        """Create a database unless it is there; True when it is new."""
        with psycopg.connect(self.url(), autocommit=True) as connection:
            row = connection.execute(
                "SELECT 1 FROM pg_database WHERE datname = %s", (name,)
            ).fetchone()
            if row is not None:
                return False
            connection.execute(
                psycopg.sql.SQL("CREATE DATABASE {} TEMPLATE template0").format(
                    psycopg.sql.Identifier(name)
                )
            )
            return True

    def _make(self) -> None:
        self._prepare_folder()
        password = secrets.token_urlsafe(24)
        hint = self.folder / "password"
        hint.touch(mode=0o600)
        hint.write_text(password)
        if os.geteuid() == 0:
            user = pwd.getpwnam("postgres")
            os.chown(hint, user.pw_uid, user.pw_gid)
        subprocess.run(
            [
                *self._as_server(),
                _binary("initdb"),
                "-D",
                str(self.data),
                "-U",
                ADMIN,
                "--auth=scram-sha-256",
                f"--pwfile={hint}",
                "-E",
                "UTF8",
                "--locale=C.UTF-8",
                "--no-sync",
            ],
            check=True,
            stdout=subprocess.DEVNULL,
        )
        hint.unlink()
        self._write_notes({"password": password, "port": 0})

    def _prepare_folder(self) -> None:
        self.folder.mkdir(parents=True, exist_ok=True)
        if os.geteuid() != 0:
            return
        try:
            user = pwd.getpwnam("postgres")
        except KeyError as error:
            raise ConfigError(
                "PostgreSQL must not run as root and there is no user postgres.",
                remedy="Install Debian's package postgresql-15.",
            ) from error
        for parent in self.folder.resolve().parents:
            if not parent.stat().st_mode & 0o001:
                raise ConfigError(
                    f"The user postgres cannot reach {self.folder}: {parent} is closed to others.",
                    remedy="Name another folder with --state, for example below /var/tmp.",
                )
        os.chown(self.folder, user.pw_uid, user.pw_gid)

    def _write_notes(self, notes: Mapping[str, Any]) -> None:
        self._notes.touch(mode=0o600, exist_ok=True)
        self._notes.write_text(json.dumps(notes))

    @staticmethod
    def _as_server(*, die_with_parent: bool = False) -> list[str]:
        words = ["setpriv"]
        if os.geteuid() == 0:
            words += ["--reuid=postgres", "--regid=postgres", "--init-groups"]
        if die_with_parent:
            words += ["--pdeathsig", "INT"]
        return [*words, "--"] if len(words) > 1 else []
