"""The calendars: a real CalDAV server (Radicale), started privately on loopback, beside the mail store.

Whoever signs in to their mailbox signs in to their calendars: the server asks the mail store each time.
What is called ``shared-…`` everybody may read.
"""

from __future__ import annotations

import base64
import http.client
import json
import secrets
import socket
import subprocess
import sys
import time
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

from icalendar import Calendar, Event, vCalAddress

from yugum.cluster import end, free_port, log_of
from yugum.errors import ConfigError
from yugum_standins.mail_store import SERVICE as USER
from yugum_standins.mail_store import MailStore

CONFIG = """
[server]
hosts = 127.0.0.1:{port}
max_connections = 64
[auth]
type = dovecot
dovecot_connection_type = AF_UNIX
dovecot_socket = {sign_in}
delay = 0
[rights]
type = from_file
file = {folder}/rights
[storage]
filesystem_folder = {folder}/store
[web]
type = none
[logging]
level = warning
"""
RIGHTS = f"""
[service]
user: {USER}
collection: .*
permissions: RrWw
[root]
user: .+
collection:
permissions: R
[home]
user: .+
collection: {{user}}
permissions: RW
[own]
user: .+
collection: {{user}}/[^/]+
permissions: rw
[shared]
user: .+
collection: [^/]+/shared-[^/]+
permissions: r
"""


@dataclass(slots=True)
class CalendarStore:
    """One server in ``folder``; who may sign in is asked of ``mail``. It ends with its parent."""

    folder: Path
    mail: MailStore
    process: subprocess.Popen[bytes] | None = None

    @property
    def _file(self) -> Path:
        return self.folder / "calendar-store.json"

    @property
    def notes(self) -> dict[str, Any]:
        found: dict[str, Any] = json.loads(self._file.read_text())
        return found

    @property
    def options(self) -> dict[str, str]:
        """What the mail store's application is told besides."""
        return {
            "calendars": f"http://127.0.0.1:{self.notes['port']}",
            "calendars_user": USER,
            "smtp": f"127.0.0.1:{self.mail.smtp_port}",
        }

    @property
    def secret(self) -> str:
        """The mail store's secret with the calendars' own."""
        return json.dumps(json.loads(self.mail.secret) | {"calendars": self.mail.notes["service"]})

    def start(self) -> bool:
        """Start it; whether it is a new one."""
        fresh = not self._file.exists()
        self.folder.mkdir(parents=True, exist_ok=True)
        port = free_port(0 if fresh else self.notes["port"])
        self._file.touch(mode=0o600)
        self._file.write_text(json.dumps({"port": port}))
        words = {"folder": self.folder, "port": port, "sign_in": self.mail.sign_in}
        (self.folder / "config").write_text(CONFIG.format(**words))
        (self.folder / "rights").write_text(RIGHTS)
        with log_of(self.folder / "server.log") as log:
            self.process = subprocess.Popen(
                [
                    *("setpriv", "--pdeathsig", "TERM", "--"),
                    *(sys.executable, "-m", "radicale", "-C", str(self.folder / "config")),
                ],
                stdout=log,
                stderr=log,
                stdin=subprocess.DEVNULL,
                start_new_session=True,
            )
        deadline = time.monotonic() + 20
        while True:
            try:
                socket.create_connection(("127.0.0.1", port), 2).close()
            except OSError as error:
                if self.process.poll() is not None or time.monotonic() > deadline:
                    tail = (self.folder / "server.log").read_text(errors="replace")[-1500:]
                    raise ConfigError(f"The calendars do not start:\n{tail}") from error
                time.sleep(0.05)
            else:
                return fresh

    def stop(self) -> None:
        end(self.process)

    # --- what people do with it ---------------------------------------------------------------

    def call(
        self, method: str, path: str, body: str = "", login: str = "", password: str = ""
    ) -> tuple[int, str]:
        """One request as somebody, or (without a login) as whoever keeps the server; status and answer."""
        signed = f"{login or USER}:{password if login else self.mail.notes['service']}"
        connection = http.client.HTTPConnection("127.0.0.1", self.notes["port"], timeout=10)
        try:
            connection.request(
                method,
                path,
                body.encode(),
                {
                    "Authorization": f"Basic {base64.b64encode(signed.encode()).decode()}",
                    "Content-Type": "text/calendar; charset=utf-8",
                    "Depth": "1",
                },
            )
            answer = connection.getresponse()
            return answer.status, answer.read().decode()
        finally:
            connection.close()

    def make(self, login: str, name: str, shown: str) -> None:
        """A calendar in somebody's home."""
        text = (
            '<C:mkcalendar xmlns:C="urn:ietf:params:xml:ns:caldav" xmlns:D="DAV:"><D:set><D:prop>'
            f"<D:displayname>{shown}</D:displayname></D:prop></D:set></C:mkcalendar>"
        )
        self.call("MKCOL", f"/{login}/")
        status, answer = self.call("MKCALENDAR", f"/{login}/{name}/", text)
        assert status == 201, answer

    def put(self, login: str, calendar: str, text: str) -> None:
        """An event into a calendar, as a program of its owner writes it."""
        uid = str(Calendar.from_ical(text).walk("VEVENT")[0]["UID"])
        status, answer = self.call("PUT", f"/{login}/{calendar}/{uid}.ics", text)
        assert status in (201, 204), answer

    def texts(self) -> dict[str, str]:
        """Every stored event by its path below the store, read from the files and not from the server."""
        root = self.folder / "store" / "collection-root"
        return {
            str(path.relative_to(root)): path.read_text().replace("\r\n ", "")
            for path in sorted(root.rglob("*.ics"))
            if ".Radicale" not in str(path.relative_to(root))
        }


def event(
    uid: str,
    summary: str,
    start: datetime,
    organizer: str = "",
    invited: Iterable[str] = (),
    rule: str = "",
) -> str:
    """One event of an hour; with an organiser a meeting, with a rule (``FREQ=WEEKLY``) a series."""
    found, one = Calendar(), Event()
    found.add("PRODID", "-//Morrow Sound//Calendars//EN")
    found.add("VERSION", "2.0")
    one.add("UID", uid)
    one.add("DTSTAMP", datetime(2026, 1, 1, tzinfo=UTC))
    one.add("DTSTART", start)
    one.add("DTEND", start + timedelta(hours=1))
    one.add("SUMMARY", summary)
    if rule:
        one.add("RRULE", dict(part.split("=", 1) for part in rule.split(";")))
    if organizer:
        one.add("ORGANIZER", vCalAddress(f"mailto:{organizer}"))
    for address in invited:
        one.add("ATTENDEE", vCalAddress(f"mailto:{address}"))
    found.add_component(one)
    text: str = found.to_ical().decode()
    return text


def new_uid() -> str:
    return secrets.token_hex(8)
