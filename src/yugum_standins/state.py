"""What a stand-in holds: documents in memory, written through to SQLite so that a kill loses nothing."""

from __future__ import annotations

import sqlite3
import time
import uuid
from collections.abc import Iterable
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import orjson
import psycopg

from yugum_standins.keys import give_key

KINDS = ("users", "groups", "seats", "items", "settings", "deleted", "licenses", "log", "meta")


class Store:
    """Documents by kind and id, and the log of effects that really changed something."""

    def __init__(self, path: Path | None) -> None:
        self._db = sqlite3.connect(str(path) if path else ":memory:", isolation_level=None)
        self._db.execute("PRAGMA journal_mode = WAL")
        self._db.execute("PRAGMA synchronous = NORMAL")
        self._db.execute(
            "CREATE TABLE IF NOT EXISTS docs (kind TEXT, id TEXT, body BLOB, PRIMARY KEY (kind, id))"
        )
        self.docs: dict[str, dict[str, dict[str, Any]]] = {kind: {} for kind in KINDS}
        for kind, key, body in self._db.execute("SELECT kind, id, body FROM docs ORDER BY rowid"):
            self.docs[kind][key] = orjson.loads(body)
        self.groups_of: dict[str, set[str]] = {}
        self.seats_of: dict[str, set[str]] = {}
        self.items_of: dict[str, set[str]] = {}
        self.by_name: dict[str, str] = {}
        self.rendered: dict[str, bytes] = {}
        self.timed: set[str] = set()
        """Users with a key that ends by itself."""
        self.stale_seconds = 0.0
        self._before: dict[str, tuple[float, bytes]] = {}
        self._index()

    def _index(self) -> None:
        for group in self.docs["groups"].values():
            for member in group["members"]:
                self.groups_of.setdefault(member, set()).add(group["id"])
        for seat in self.docs["seats"].values():
            self.seats_of.setdefault(seat["user"], set()).add(seat["id"])
        for item in self.docs["items"].values():
            self.items_of.setdefault(item["owner"], set()).add(item["id"])
        self.by_name = {u["userName"].lower(): u["id"] for u in self.docs["users"].values()}
        users = self.docs["users"].values()
        self.timed = {u["id"] for u in users if any(k.get("until") for k in u.get("apiKeys", ()))}

    @property
    def empty(self) -> bool:
        return not self.docs["meta"]

    def begin(self) -> None:
        self._db.execute("BEGIN")

    def commit(self) -> None:
        self._db.execute("COMMIT")

    def put(self, kind: str, doc: dict[str, Any]) -> None:
        doc["version"] = doc.get("version", 0) + 1
        if kind == "users":
            doc["modified"] = stamp(datetime.now(UTC))
            if any(k.get("until") for k in doc.get("apiKeys", ())):
                self.timed.add(doc["id"])
        self.docs[kind][doc["id"]] = doc
        self._db.execute(
            "INSERT OR REPLACE INTO docs VALUES (?, ?, ?)", (kind, doc["id"], orjson.dumps(doc))
        )
        if kind == "users":
            self.by_name[doc["userName"].lower()] = doc["id"]
            self._changed(doc["id"])

    def _changed(self, user: str) -> None:
        """A user's representation is out of date; a stale application shows the old one on."""
        old = self.rendered.pop(user, None)
        if self.stale_seconds and old is not None:
            self._before[user] = (time.monotonic() + self.stale_seconds, old)

    def stale_view(self, user: str) -> bytes | None:
        """What is still shown of a user although it has changed; None when it is up to date."""
        until, old = self._before.get(user, (0.0, b""))
        if until > time.monotonic():
            return old
        self._before.pop(user, None)
        return None

    def drop(self, kind: str, key: str) -> None:
        doc = self.docs[kind].pop(key, None)
        self._db.execute("DELETE FROM docs WHERE kind = ? AND id = ?", (kind, key))
        if kind == "users" and doc is not None:
            self.by_name.pop(doc["userName"].lower(), None)
            self._changed(key)

    def effect(self, what: str, user: str, detail: str = "") -> None:
        """Write down a change that really happened, with the machine's time."""
        number = len(self.docs["log"]) + 1
        entry = {"id": f"{number:09d}", "t": time.time(), "effect": what, "user": user}
        if detail:
            entry["detail"] = detail
        self.put("log", entry)

    # --- relations ---------------------------------------------------------------------------

    def join(self, group: dict[str, Any], user: str) -> None:
        if user in group["members"] or user not in self.docs["users"]:
            return
        group["members"].append(user)
        self.groups_of.setdefault(user, set()).add(group["id"])
        self.put("groups", group)
        self._changed(user)
        self.effect("group.added", user, group["displayName"])

    def leave(self, group: dict[str, Any], user: str) -> None:
        if user not in group["members"]:
            return
        group["members"].remove(user)
        self.groups_of.get(user, set()).discard(group["id"])
        self.put("groups", group)
        self._changed(user)
        self.effect("group.removed", user, group["displayName"])

    def put_group(self, group: dict[str, Any]) -> None:
        """A group is called otherwise, or is of no use any more: who is in it looks otherwise."""
        self.put("groups", group)
        for member in group["members"]:
            self._changed(member)

    def take_seat(self, license: str, user: str) -> dict[str, Any]:
        seat = {"id": str(uuid.uuid4()), "license": license, "user": user}
        self.put("seats", seat)
        self.seats_of.setdefault(user, set()).add(seat["id"])
        self._changed(user)
        self.effect("seat.taken", user, license)
        return seat

    def free_seat(self, key: str) -> None:
        seat = self.docs["seats"].get(key)
        if seat is None:
            return
        self.seats_of.get(seat["user"], set()).discard(key)
        self.drop("seats", key)
        self._changed(seat["user"])
        self.effect("seat.freed", seat["user"], seat["license"])

    def move_item(self, item: dict[str, Any], owner: str) -> None:
        if item["owner"] == owner:
            return
        self.items_of.get(item["owner"], set()).discard(item["id"])
        self.items_of.setdefault(owner, set()).add(item["id"])
        before, item["owner"] = item["owner"], owner
        self.put("items", item)
        self.effect("item.moved", before, f"{item['name']} to {owner}")

    def copy_item(self, item: dict[str, Any], owner: str) -> dict[str, Any]:
        made = {
            "id": str(uuid.uuid4()),
            "kind": item["kind"],
            "name": item["name"],
            "owner": owner,
            "copyOf": item["id"],
        }
        self.put("items", made)
        self.items_of.setdefault(owner, set()).add(made["id"])
        self.effect("item.copied", item["owner"], f"{item['name']} for {owner}")
        return made

    def add_setting(self, said: dict[str, Any]) -> dict[str, Any]:
        """A place with text; what is not said of it is usual. With a ``secret`` it is a key of whom the text names."""
        usual = {"kind": "setting", "text": "", "effect": "", "writable": True}
        setting = {"id": str(uuid.uuid4()), **usual, **said}
        secret = setting.pop("secret", "")
        self.put("settings", setting)
        if secret:
            give_key(self, setting, secret)
        return setting

    def held(self, license: str) -> int:
        return sum(s["license"] == license for s in self.docs["seats"].values())

    # --- deletion ----------------------------------------------------------------------------

    def strip(self, user: dict[str, Any], *, seats_stay: bool = False) -> None:
        """Take a user out of all groups and off all seats."""
        for group in [self.docs["groups"][g] for g in self.groups_of.get(user["id"], set()).copy()]:
            self.leave(group, user["id"])
        if not seats_stay:
            for seat in self.seats_of.get(user["id"], set()).copy():
                self.free_seat(seat)

    def delete(
        self, user: dict[str, Any], now: datetime, window_days: int, *, seats_stay: bool = False
    ) -> None:
        held = [self.docs["seats"][s]["license"] for s in self.seats_of.get(user["id"], ())]
        self.strip(user, seats_stay=seats_stay)
        user = {**user, "hadSeats": sorted(held)}
        self.drop("users", user["id"])
        until = now + timedelta(days=window_days)
        self.put("deleted", {**user, "deletedAt": stamp(now), "recoverableUntil": stamp(until)})
        self.effect("user.deleted", user["id"], user["userName"])

    def restore(
        self, gone: dict[str, Any], *, seats: bool = False, settings: bool = True
    ) -> dict[str, Any]:
        left = ("deletedAt", "recoverableUntil", "hadSeats")
        user = {k: v for k, v in gone.items() if k not in left}
        user |= {"active": False, "sessions": [], "apiKeys": []}
        if not settings:
            user["settings"] = {}
        mine = {self.docs["seats"][s]["license"] for s in self.seats_of.get(user["id"], ())}
        for license in gone.get("hadSeats", ()) if seats else ():
            if license not in mine:
                self.take_seat(license, user["id"])
        self.drop("deleted", gone["id"])
        self.put("users", user)
        self.effect("user.restored", user["id"], user["userName"])
        return user

    def purge(self, key: str) -> None:
        gone = self.docs["deleted"].get(key)
        if gone is not None:
            for seat in self.seats_of.get(key, set()).copy():
                self.free_seat(seat)
            self.drop("deleted", key)
            self.effect("user.purged", key, gone["userName"])

    def purge_over(self, now: datetime) -> None:
        """What the application does by itself: the window's end is the first moment gone."""
        over = [
            d["id"]
            for d in self.docs["deleted"].values()
            if datetime.fromisoformat(d["recoverableUntil"]) <= now
        ]
        for key in over:
            self.purge(key)

    def seed(self, document: dict[str, Any]) -> None:
        """Fill an empty store: groups, licenses, users with memberships, seats and items."""
        self.begin()
        self.put("meta", {"id": "meta", "seeded": stamp(datetime.now(UTC))})
        for name, bought in document.get("licenses", {}).items():
            self.put(
                "licenses", {"id": name.lower().replace(" ", "-"), "name": name, "bought": bought}
            )
        groups: dict[str, dict[str, Any]] = {}
        for name in document.get("groups", []):
            groups[name] = {"id": str(uuid.uuid4()), "displayName": name, "members": []}
        for u in document.get("users", []):
            key = u.get("id") or str(uuid.uuid4())
            self.put(
                "users",
                {
                    "id": key,
                    "userName": u["userName"],
                    "displayName": u.get("displayName", ""),
                    "employeeNumber": u.get("employeeNumber", ""),
                    "active": u.get("active", True),
                    "kind": u.get("kind", "person"),
                    "settings": u.get("settings", {}),
                    "lastUsed": u.get("lastUsed", ""),
                    "sessions": [{"id": str(uuid.uuid4())} for _ in range(u.get("sessions", 0))],
                    "apiKeys": [{"id": str(uuid.uuid4())} for _ in range(u.get("apiKeys", 0))],
                    "devices": [{"id": str(uuid.uuid4())} for _ in range(u.get("devices", 0))],
                    "mail": u.get("mail", ""),
                    "more": u.get("more", {}),
                    "waysIn": [{"kind": k, "id": str(uuid.uuid4())} for k in u.get("waysIn", ())],
                },
            )
            for name in u.get("groups", []):
                groups[name]["members"].append(key)
            for license in u.get("seats", []):
                self.put("seats", {"id": str(uuid.uuid4()), "license": license, "user": key})
            for kind, name in u.get("items", []):
                self.put(
                    "items", {"id": str(uuid.uuid4()), "kind": kind, "name": name, "owner": key}
                )
        for number, setting in enumerate(document.get("settings", []), 1):
            self.add_setting({"id": f"setting-{number:04d}", **setting})
        ids = {d["userName"]: i for i, d in self.docs["users"].items()}
        for name, owner in document.get("owners", {}).items():
            group = groups[name]
            group["owner"] = ids[owner]
            key = group["id"]
            self.put("items", {"id": key, "kind": "group", "name": name, "owner": ids[owner]})
        for group in groups.values():
            self.put("groups", group)
        self.commit()
        self._index()

    def log(self, after: int) -> Iterable[dict[str, Any]]:
        return list(self.docs["log"].values())[after:]


class BusinessClock:
    """Reads Yugum's business time; real time when there is none."""

    def __init__(self, url: str) -> None:
        self._url = url
        self._connection: psycopg.AsyncConnection[Any] | None = None

    async def now(self) -> datetime:
        if not self._url:
            return datetime.now(UTC)
        for attempt in (1, 2):
            try:
                if self._connection is None or self._connection.closed:
                    self._connection = await psycopg.AsyncConnection.connect(
                        self._url, autocommit=True
                    )
                row = await (
                    await self._connection.execute("SELECT now_at FROM clock WHERE simulated")
                ).fetchone()
                return row[0] if row else datetime.now(UTC)
            except psycopg.OperationalError:
                self._connection = None
                if attempt == 2:
                    raise
        raise AssertionError("not reached")


def stamp(moment: datetime) -> str:
    return moment.astimezone(UTC).isoformat().replace("+00:00", "Z")
