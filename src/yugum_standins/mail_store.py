"""The mail store: a real Dovecot (IMAP, LMTP, ManageSieve) started privately, on loopback.

Mailboxes are rows of a PostgreSQL table; Dovecot asks it who may sign in and where mail goes.
"""

from __future__ import annotations

import json
import os
import pwd
import secrets
import shutil
import smtplib
import socket
import subprocess
import time
from collections.abc import Iterable
from dataclasses import dataclass
from email.message import EmailMessage
from imaplib import IMAP4
from pathlib import Path
from typing import Any
from urllib.parse import unquote, urlsplit

import psycopg

from yugum.cluster import end, free_port, log_of
from yugum.connectors.dovecot.layout import TABLES
from yugum.errors import ConfigError

PROGRAM = Path("/usr/sbin/dovecot")
MASTER = "yugum"
SERVICE = "yugum-calendars"
PORTS = ("imap", "lmtp", "sieve", "doveadm")
CONFIG = """
base_dir = {folder}/run
state_dir = {folder}/state
log_path = {folder}/server.log
protocols = imap lmtp sieve
listen = 127.0.0.1
ssl = no
disable_plaintext_auth = no
default_internal_user = {user}
default_internal_group = {group}
default_login_user = {user}
default_vsz_limit = 1G
auth_username_chars =
auth_username_format = %Ln
auth_master_user_separator = *
auth_cache_size = 0
auth_failure_delay = 0
mail_uid = {user}
mail_gid = {group}
first_valid_uid = 1
mail_location = maildir:~/Maildir:LAYOUT=fs
mail_fsync = never
lmtp_save_to_detail_mailbox = no
submission_host = 127.0.0.1:{smtp}
postmaster_address = postmaster@{domain}
hostname = mail.{domain}
namespace inbox {{
  inbox = yes
  separator = /
}}
passdb {{
  driver = passwd-file
  args = {folder}/masters
  master = yes
}}
passdb {{
  driver = sql
  args = {folder}/users.conf
}}
passdb {{
  driver = sql
  args = {folder}/app-passwords.conf
}}
passdb {{
  driver = passwd-file
  args = {folder}/services
}}
userdb {{
  driver = sql
  args = {folder}/users.conf
}}
plugin {{
  sieve = file:~/sieve;active=~/active.sieve
  sieve_vacation_send_from_recipient = yes
  sieve_redirect_envelope_from = orig_recipient
  quota = maildir:User quota
}}
mail_plugins = $mail_plugins quota
protocol lmtp {{
  mail_plugins = $mail_plugins sieve
}}
doveadm_api_key = {key}
service auth {{
  unix_listener auth-calendars {{
    mode = 0666
  }}
}}
service anvil {{
  chroot =
}}
service stats {{
  chroot =
}}
service imap-login {{
  chroot =
  inet_listener imap {{
    port = {imap}
  }}
  inet_listener imaps {{
    port = 0
  }}
}}
service managesieve-login {{
  chroot =
  inet_listener sieve {{
    port = {sieve}
  }}
}}
service lmtp {{
  chroot =
  inet_listener lmtp {{
    port = {lmtp}
  }}
}}
service doveadm {{
  chroot =
  inet_listener http {{
    port = {doveadm}
  }}
}}
"""
USERS = """
driver = pgsql
connect = {connect}
password_query = SELECT login AS user, password FROM mailboxes \
  WHERE login = '%u' AND state = 'active' AND password <> ''
user_query = SELECT '{folder}/mail/' || id AS home, \
  '*:storage=' || quota_mb || 'M' AS quota_rule, login AS user \
  FROM mailboxes WHERE (login = '%u' OR alias = '%u' OR unseen = '%u') \
    AND (state IN ('active', 'suspended') OR '%s' = 'doveadm')
iterate_query = SELECT login AS user FROM mailboxes WHERE state IN ('active', 'suspended')
"""
APP_PASSWORDS = """
driver = pgsql
connect = {connect}
password_query = SELECT b.login AS user, NULL AS password, 'Y' AS nopassword \
  FROM mailboxes b JOIN app_passwords a ON a.mailbox = b.id \
  WHERE b.login = '%u' AND b.state = 'active' AND a.secret = crypt('%w', a.secret) LIMIT 1
"""


@dataclass(slots=True)
class MailStore:
    """One Dovecot in ``folder``, its table in the database ``url``; ends with its parent."""

    folder: Path
    url: str
    domain: str
    smtp_port: int = 0
    process: subprocess.Popen[bytes] | None = None

    @property
    def _file(self) -> Path:
        return self.folder / "mail-store.json"

    @property
    def notes(self) -> dict[str, Any]:
        found: dict[str, Any] = json.loads(self._file.read_text())
        return found

    @property
    def secret(self) -> str:
        """What the connector signs in with, in one document."""
        notes = self.notes
        return json.dumps(
            {"database": self.url, "doveadm": notes["key"], "master": notes["master"]}
        )

    @property
    def options(self) -> dict[str, str]:
        return {
            "domain": self.domain,
            "sieve": f"127.0.0.1:{self.notes['sieve']}",
            "master": MASTER,
        }

    @property
    def sign_in(self) -> Path:
        """The socket at which another server asks whether somebody may sign in (Dovecot's auth protocol)."""
        return self.folder / "run" / "auth-calendars"

    @property
    def doveadm(self) -> str:
        return f"http://127.0.0.1:{self.notes['doveadm']}/doveadm/v1"

    def start(self, mailboxes: Iterable[tuple[str, str]] = ()) -> None:
        """Start it; a new one is given ``mailboxes`` (login and name)."""
        if not PROGRAM.exists():
            raise ConfigError("Dovecot is not installed.", remedy="Install dovecot-imapd.")
        fresh = not self._file.exists()
        self.folder.mkdir(parents=True, exist_ok=True)
        notes = {} if fresh else self.notes
        notes.setdefault("key", secrets.token_urlsafe(18))
        notes.setdefault("master", secrets.token_urlsafe(18))
        notes.setdefault("service", secrets.token_urlsafe(18))
        for name in PORTS:
            notes[name] = free_port(notes.get(name) or 0)
        self._file.touch(mode=0o600)
        self._file.write_text(json.dumps(notes))
        if fresh:
            self._fill(mailboxes)
        self._configure(notes)
        words = ["setpriv", "--pdeathsig", "TERM"]
        if os.geteuid() == 0:
            words += ["--reuid=postgres", "--regid=postgres", "--init-groups"]
        with log_of(self.folder / "start.log") as log:
            self.process = subprocess.Popen(
                [*words, "--", str(PROGRAM), "-F", "-c", str(self.folder / "dovecot.conf")],
                stdout=log,
                stderr=log,
                stdin=subprocess.DEVNULL,
                start_new_session=True,
            )
        self._wait()

    def _configure(self, notes: dict[str, Any]) -> None:
        user = pwd.getpwnam("postgres") if os.geteuid() == 0 else pwd.getpwuid(os.geteuid())
        group = subprocess.run(
            ["id", "-gn", user.pw_name], capture_output=True, text=True, check=True
        ).stdout.strip()
        shutil.rmtree(self.folder / "run", ignore_errors=True)  # sockets of the last time
        for name in ("run", "state", "mail"):
            (self.folder / name).mkdir(exist_ok=True)
        words = {
            "folder": self.folder,
            "user": user.pw_name,
            "group": group,
            "domain": self.domain,
            "smtp": self.smtp_port or 25,
            "connect": _libpq(self.url),
            **notes,
        }
        texts = {
            "dovecot.conf": CONFIG.format(**words),
            "users.conf": USERS.format(**words),
            "app-passwords.conf": APP_PASSWORDS.format(**words),
            "masters": f"{MASTER}:{{PLAIN}}{notes['master']}\n",
            # The calendar server asks here who signs in to it; it signs in itself as this one.
            "services": f"{SERVICE}:{{PLAIN}}{notes['service']}\n",
        }
        for name, text in texts.items():
            (self.folder / name).write_text(text)
            (self.folder / name).chmod(0o600)
        if os.geteuid() == 0:
            for path in (self.folder, *self.folder.rglob("*")):
                os.chown(path, user.pw_uid, user.pw_gid)

    def _fill(self, mailboxes: Iterable[tuple[str, str]]) -> None:
        with psycopg.connect(self.url, autocommit=True) as connection:
            connection.execute("CREATE EXTENSION IF NOT EXISTS pgcrypto")
            connection.execute(TABLES.encode())
            for login, name in mailboxes:
                connection.execute(
                    "INSERT INTO mailboxes (login, display_name, address) VALUES (%s, %s, %s)",
                    (login, name, f"{login}@{self.domain}"),
                )

    def _wait(self) -> None:
        deadline = time.monotonic() + 20
        while True:
            try:
                for name in PORTS:
                    socket.create_connection(("127.0.0.1", self.notes[name]), 2).close()
            except OSError as error:
                ended = self.process is not None and self.process.poll() is not None
                if ended or time.monotonic() > deadline:
                    log = self.folder / "server.log"
                    tail = log.read_text(errors="replace")[-1500:] if log.exists() else ""
                    tail += (self.folder / "start.log").read_text(errors="replace")[-1500:]
                    raise ConfigError(f"Dovecot does not start:\n{tail}") from error
                time.sleep(0.05)
            else:
                return

    def stop(self) -> None:
        end(self.process)

    # --- what people do with it ---------------------------------------------------------------

    def send(self, to: str, sender: str, subject: str, text: str = "Hello.") -> None:
        """Deliver one message, as the mail exchanger does (LMTP, RFC 2033)."""
        mail = EmailMessage()
        mail["From"], mail["To"], mail["Subject"] = sender, f"{to}@{self.domain}", subject
        mail["Message-ID"] = f"<{secrets.token_hex(8)}@{sender.split('@')[1]}>"
        mail.set_content(text)
        with smtplib.LMTP("127.0.0.1", self.notes["lmtp"]) as connection:
            connection.send_message(mail, sender, [f"{to}@{self.domain}"])

    def imap(self, login: str, password: str = "") -> IMAP4:
        """Sign in as its owner, or (without a password) as the store's administrator does.

        Raises:
            IMAP4.error: refused.
        """
        connection = IMAP4("127.0.0.1", self.notes["imap"], timeout=10)
        user = login if password else f"{login}*{MASTER}"
        try:
            connection.login(user, password or self.notes["master"])
        except IMAP4.error:
            connection.shutdown()
            raise
        return connection

    def subjects(self, login: str, folder: str = "INBOX") -> list[str]:
        """The subjects in a folder; none when there is no such folder."""
        connection = self.imap(login)
        try:
            if connection.select(f'"{folder}"', readonly=True)[0] != "OK":
                return []
            found = connection.search(None, "ALL")[1][0].split()
            lines = []
            for number in found:
                got = connection.fetch(number.decode(), "(BODY[HEADER.FIELDS (SUBJECT)])")[1]
                part = got[0]
                assert isinstance(part, tuple)
                lines.append(part[1].decode().strip().removeprefix("Subject: "))
            return lines
        finally:
            connection.logout()


def _libpq(url: str) -> str:
    """The same connection as key=value, which is what Dovecot reads."""
    parts = urlsplit(url)
    words = {
        "host": parts.hostname or "",
        "port": str(parts.port or 5432),
        "dbname": parts.path.lstrip("/"),
        "user": unquote(parts.username or ""),
        "password": unquote(parts.password or ""),
    }
    return " ".join(f"{k}={v}" for k, v in words.items() if v)
