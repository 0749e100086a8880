"""Keys with which programs run, as a simulated application keeps them: whose each is, and until when."""

from __future__ import annotations

import hashlib
import uuid
from datetime import datetime
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from yugum_standins.state import Store


def digest(secret: str) -> str:
    return hashlib.sha256(secret.encode()).hexdigest()


def give_key(store: Store, setting: dict[str, Any], secret: str) -> None:
    """The program of a place has a key of the account that its text names."""
    user = _owner(store, setting["text"])
    made = {"id": str(uuid.uuid4()), "digest": digest(secret), "setting": setting["id"]}
    user["apiKeys"] = [*user["apiKeys"], made]
    store.put("users", user)
    setting["replaceable"] = True
    store.put("settings", setting)


def replace_key(store: Store, setting: dict[str, Any], login: str, secret: str, until: str) -> None:
    """A new key, of another account; the old one goes on until then, or ends at once."""
    user, before = _owner(store, login), setting["text"]
    if not user["active"] or len(secret) < 12:
        raise ValueError(f"{login} cannot have such a key.")
    for old in store.docs["users"].values():
        mine = [k for k in old["apiKeys"] if k.get("setting") == setting["id"]]
        if not mine:
            continue
        rest = [k for k in old["apiKeys"] if k not in mine]
        if old is not user and until:
            rest += [{**k, "until": k.get("until") or until} for k in mine]
        old["apiKeys"] = rest
        store.put("users", old)
    setting["text"] = user["userName"]
    give_key(store, setting, secret)
    store.effect("key.replaced", user["id"], f"{setting['place']}: {before} to {login}")


def whose_key(store: Store, secret: str, now: datetime) -> str:
    """The login whose key a secret is; "" where it is nobody's, or has ended."""
    for user in store.docs["users"].values():
        for key in user["apiKeys"]:
            until = key.get("until")
            over = until and datetime.fromisoformat(until) <= now
            if key.get("digest") == digest(secret) and user["active"] and not over:
                return str(user["userName"])
    return ""


def end_keys(store: Store, now: datetime) -> None:
    """What the application does by itself: a key ends with its last moment."""
    for user_id in sorted(store.timed):
        user = store.docs["users"].get(user_id, {"apiKeys": []})
        keys = user["apiKeys"]
        left = [k for k in keys if not k.get("until") or datetime.fromisoformat(k["until"]) > now]
        if not any(k.get("until") for k in left):
            store.timed.discard(user_id)
        if len(left) < len(keys):
            user["apiKeys"] = left
            store.put("users", user)


def _owner(store: Store, login: str) -> dict[str, Any]:
    user = store.docs["users"].get(store.by_name.get(login.lower(), ""))
    if user is None:
        raise ValueError(f"There is no user {login}.")
    return user
