"""Looking into the applications themselves, past Yugum: SCIM GETs and SQL."""

from __future__ import annotations

import json
import time
from collections.abc import Iterable, Mapping
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit, urlunsplit

import bonsai
import httpx
import psycopg
from bonsai import escape_filter_exp

from yugum_standins.directory import BASE, Directory

ACCOUNT = "urn:yugum:scim:schemas:1.0:Account"


@dataclass(frozen=True, slots=True)
class PostLook:
    """The post office of the stage in ``folder``: what reached whom."""

    folder: Path

    def mails(self, to: str = "") -> list[dict[str, str]]:
        """What arrived for addresses that contain ``to``, the oldest first."""
        port = json.loads((self.folder / "post-office.json").read_text())["port"]
        url = f"http://127.0.0.1:{port}/panel/mails"
        found: list[dict[str, str]] = httpx.get(url, params={"to": to}).json()
        return found

    def fault(self, **faults: float | str) -> None:
        """``refuse`` says why no mail is taken, ``delay_ms`` how long each takes."""
        port = json.loads((self.folder / "post-office.json").read_text())["port"]
        httpx.put(f"http://127.0.0.1:{port}/panel/faults", json=faults).raise_for_status()

    def wait(
        self, to: str, subject: str = "", text: str = "", seconds: float = 20
    ) -> dict[str, str]:
        """The newest mail to ``to`` with these words in it.

        Raises:
            TimeoutError: none arrives.
        """
        deadline = time.monotonic() + seconds
        while time.monotonic() < deadline:
            for mail in reversed(self.mails(to)):
                if subject in mail["subject"] and text in mail["text"]:
                    return mail
            time.sleep(0.1)
        raise TimeoutError(f"no mail with {subject or text!r} reached {to or 'anybody'}")


PATCH = "urn:ietf:params:scim:api:messages:2.0:PatchOp"
USER = "urn:ietf:params:scim:schemas:core:2.0:User"


@dataclass(frozen=True, slots=True)
class CrewLook:
    """The crew-roster stand-in, asked directly."""

    url: str
    headers: Mapping[str, str]

    def _get(self, path: str, **params: str) -> httpx.Response:
        return httpx.get(f"{self.url}{path}", params=params, headers=dict(self.headers))

    def user(self, login: str) -> dict[str, Any] | None:
        rows = self._get("/scim/v2/Users", filter=f'userName eq "{login}"').json()["Resources"]
        return rows[0] if rows else None

    def deleted(self, login: str) -> dict[str, Any] | None:
        reply = self._get("/scim/v2/DeletedUsers", filter=f'userName eq "{login}"')
        rows = reply.json()["Resources"]
        return rows[0] if rows else None

    def groups(self, login: str) -> set[str]:
        return {g["display"] for g in (self.user(login) or {}).get("groups", [])}

    def seats(self, login: str) -> list[str]:
        return [s["license"] for s in (self.user(login) or {})[ACCOUNT]["seats"]]

    def taken(self, license: str) -> int:
        """How many seats of a license the application counts as taken."""
        rows = self._get("/scim/v2/Licenses").json()["Resources"]
        return next(int(r["held"]) for r in rows if r["name"] == license)

    def ways_in(self, login: str) -> int:
        more = (self.user(login) or {})[ACCOUNT]
        return len(more["sessions"]) + len(more["apiKeys"])

    def rosters(self, login: str) -> set[str]:
        key = (self.user(login) or {})["id"]
        reply = self._get("/scim/v2/OwnedItems", filter=f'owner.value eq "{key}"', count="500")
        return {i["name"] for i in reply.json()["Resources"]}

    def add_roster(self, login: str, name: str) -> None:
        body = {"userName": login, "kind": "roster", "name": name}
        httpx.post(f"{self.url}/panel/items", json=body, headers=dict(self.headers))

    def sign_in(self, login: str, password: str) -> bool:
        body = {"userName": login, "password": password}
        reply = httpx.post(f"{self.url}/panel/sign-in", json=body, headers=dict(self.headers))
        return reply.status_code == 200

    def accept(self, login: str, password: str) -> bool:
        """What somebody does who was invited."""
        body = {"userName": login, "password": password}
        reply = httpx.post(f"{self.url}/panel/accept", json=body, headers=dict(self.headers))
        return reply.status_code == 200

    def do_duty(self, login: str, duty: str) -> bool:
        """What somebody does who was asked for it at the first sign-in."""
        body = {"userName": login, "duty": duty}
        reply = httpx.post(f"{self.url}/panel/duties", json=body, headers=dict(self.headers))
        return reply.status_code == 200

    def account(self, login: str) -> Mapping[str, Any]:
        """What our extension of SCIM shows of a user."""
        found: Mapping[str, Any] = (self.user(login) or {}).get(ACCOUNT, {})
        return found

    def suspend(self, login: str) -> None:
        """What an administrator of the application does there, past Yugum."""
        key = (self.user(login) or {})["id"]
        self._patch(f"/scim/v2/Users/{key}", op="replace", path="active", value=False)

    def leave(self, login: str, group: str) -> None:
        """Take somebody out of a group there, past Yugum."""
        user = self.user(login) or {}
        key = next(g["value"] for g in user["groups"] if g["display"] == group)
        self._patch(f"/scim/v2/Groups/{key}", op="remove", path=f'members[value eq "{user["id"]}"]')

    def join(self, login: str, group: str) -> None:
        """Put somebody into a group there, past Yugum."""
        rows = self._get("/scim/v2/Groups", filter=f'displayName eq "{group}"').json()["Resources"]
        value = [{"value": (self.user(login) or {})["id"]}]
        self._patch(f"/scim/v2/Groups/{rows[0]['id']}", op="add", path="members", value=value)

    def hand_on(self, login: str, names: Iterable[str], to: str) -> None:
        """Give things somebody owns to another there, past Yugum."""
        reply = self._get(
            "/scim/v2/OwnedItems",
            filter=f'owner.value eq "{(self.user(login) or {})["id"]}"',
            count="500",
        )
        owner = (self.user(to) or {})["id"]
        for item in reply.json()["Resources"]:
            if item["name"] in names:
                where = f"/scim/v2/OwnedItems/{item['id']}"
                self._patch(where, op="replace", path="owner", value={"value": owner})

    def _patch(self, where: str, **operation: object) -> None:
        body = {"schemas": [PATCH], "Operations": [operation]}
        reply = httpx.patch(f"{self.url}{where}", json=body, headers=dict(self.headers))
        reply.raise_for_status()

    def add(self, login: str, name: str, kind: str = "person") -> None:
        """An account made there, past Yugum."""
        body = {
            "schemas": [USER, ACCOUNT],
            "userName": login,
            "displayName": name,
            ACCOUNT: {"kind": kind},
        }
        httpx.post(
            f"{self.url}/scim/v2/Users", json=body, headers=dict(self.headers)
        ).raise_for_status()

    def log(self, after: int = 0) -> list[dict[str, Any]]:
        rows: list[dict[str, Any]] = self._get("/panel/log", after=str(after)).json()
        return rows

    def fault(self, **faults: float) -> None:
        httpx.put(f"{self.url}/panel/faults", json=faults, headers=dict(self.headers))


@dataclass(frozen=True, slots=True)
class ReportingLook:
    """The reporting database, asked directly; ``url`` is its administrator's."""

    url: str

    def _rows(
        self, query: str, *values: object, database: str = "postgres"
    ) -> list[tuple[Any, ...]]:
        with psycopg.connect(self.as_user(None, database), autocommit=True) as connection:
            return connection.execute(query, values).fetchall()

    def as_user(self, login: str | None, database: str, password: str = "") -> str:
        """A connection URL for the administrator (None) or somebody else."""
        parts = urlsplit(self.url)
        netloc = parts.netloc
        if login is not None:
            netloc = f"{login}:{password}@{parts.hostname}:{parts.port}"
        return urlunsplit(parts._replace(netloc=netloc, path=f"/{database}"))

    def role(self, login: str) -> bool | None:
        """None without such a role, else whether it can log in."""
        rows = self._rows("SELECT rolcanlogin FROM pg_roles WHERE rolname = %s", login)
        return bool(rows[0][0]) if rows else None

    def groups(self, login: str) -> set[str]:
        rows = self._rows(
            """SELECT g.rolname FROM pg_auth_members m JOIN pg_roles g ON g.oid = m.roleid
               JOIN pg_roles r ON r.oid = m.member WHERE r.rolname = %s""",
            login,
        )
        return {r[0] for r in rows}

    def sessions(self, login: str) -> int:
        return int(
            self._rows("SELECT count(*) FROM pg_stat_activity WHERE usename = %s", login)[0][0]
        )

    def owner(self, database: str, relation: str) -> str:
        rows = self._rows(
            "SELECT pg_get_userbyid(relowner) FROM pg_class WHERE relname = %s",
            relation,
            database=database,
        )
        return str(rows[0][0]) if rows else ""

    def function_owner(self, database: str, name: str) -> str:
        rows = self._rows(
            "SELECT pg_get_userbyid(proowner) FROM pg_proc WHERE proname = %s",
            name,
            database=database,
        )
        return str(rows[0][0]) if rows else ""

    def roles(self) -> list[tuple[Any, ...]]:
        """Every role, whether it can log in, and what it is a member of."""
        return self._rows(
            """SELECT r.rolname, r.rolcanlogin, (SELECT array_agg(m.roleid ORDER BY m.roleid)
                 FROM pg_auth_members m WHERE m.member = r.oid)
               FROM pg_roles r WHERE r.rolname NOT LIKE 'pg\\_%%' AND r.rolname <> %s
               ORDER BY 1""",
            "",
        )

    def mark(self, login: str) -> str:
        rows = self._rows(
            "SELECT shobj_description(oid, 'pg_authid') FROM pg_roles WHERE rolname = %s", login
        )
        return str(rows[0][0] or "") if rows else ""

    def sign_in(self, login: str, password: str, database: str = "timetables") -> bool:
        with suppress(psycopg.OperationalError):
            psycopg.connect(self.as_user(login, database, password), connect_timeout=3).close()
            return True
        return False


@dataclass(frozen=True, slots=True)
class DirectoryLook:
    """The staff directory, asked by LDAP."""

    directory: Directory

    def entry(self, login: str) -> dict[str, list[Any]]:
        """An entry's attributes; empty when there is none."""
        wanted = ["*", "memberOf", "pwdAccountLockedTime"]
        with self.directory.client().connect(timeout=5) as connection:
            found = connection.search(BASE, 2, f"(uid={escape_filter_exp(login)})", wanted)
        return {**dict(found[0]), "dn": [str(found[0].dn)]} if found else {}

    def container(self, login: str) -> str:
        dn = self.entry(login).get("dn", [""])[0]
        return dn.split(",")[1].removeprefix("ou=") if dn else ""

    def groups(self, login: str) -> set[str]:
        names = self.entry(login).get("memberOf", [])
        return {str(g).split(",")[0].removeprefix("cn=") for g in names}

    def open(self, login: str) -> bool:
        """Whether there is an entry that is not locked."""
        entry = self.entry(login)
        return bool(entry) and "pwdAccountLockedTime" not in entry

    def locked(self, login: str) -> bool:
        """Whether there is an entry that nobody can sign in with."""
        return "pwdAccountLockedTime" in self.entry(login)

    def sign_in(self, login: str, password: str) -> bool:
        user = self.entry(login).get("dn", [""])[0]
        try:
            self.directory.client(user, password).connect(timeout=5).close()
        except bonsai.AuthenticationError:
            return False
        return True
