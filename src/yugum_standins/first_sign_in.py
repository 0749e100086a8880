"""Invitations of a simulated application, and what a user has to do at the first sign-in."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from yugum_standins.scim_wire import OURS, ScimProblem, Traits
from yugum_standins.state import Store, stamp

ACCOUNT = OURS + "Account"
DUTIES, SEND = "duties", "invitation.send"


def config(traits: Traits) -> dict[str, Any]:
    return {"invites": traits.invites, "duties": list(traits.duties)}


def made(traits: Traits, user: dict[str, Any], body: Mapping[str, Any]) -> None:
    """What a new user has yet to do; whoever is made closed is invited when it is opened."""
    asked = body.get(ACCOUNT, {}).get(DUTIES) or []
    must_be_known(traits, asked)
    if asked:
        user[DUTIES] = sorted(asked)
    if traits.invites and user["kind"] == "person":
        user["invitation"] = {"sentAt": "", "acceptedAt": ""}


def must_be_known(traits: Traits, asked: Any) -> None:
    unknown = [d for d in asked if d not in traits.duties] if isinstance(asked, list) else [asked]
    if unknown:
        raise ScimProblem(400, f"There is no duty {unknown[0]}.", "invalidValue")


def opened(store: Store, user: dict[str, Any], now: datetime | None) -> None:
    """An active user that has never accepted has an invitation; a closed one has none."""
    invitation = user.get("invitation")
    if invitation is None or invitation["acceptedAt"] or now is None:
        return
    if user["active"] and not invitation["sentAt"]:
        send(store, user, now)
    elif not user["active"] and invitation["sentAt"]:
        invitation["sentAt"] = ""
        store.effect("invitation.withdrawn", user["id"])


def send(store: Store, user: dict[str, Any], now: datetime) -> None:
    invitation = user.get("invitation")
    if invitation is None or invitation["acceptedAt"] or not user["active"]:
        raise ScimProblem(400, "There is no open invitation.", "mutability")
    if not user.get("mail"):
        raise ScimProblem(400, "There is no address to invite to.", "invalidValue")
    invitation["sentAt"] = invitation["sentAt"] or stamp(now)
    store.effect("invitation.sent", user["id"], user["mail"])


def patched(
    store: Store,
    traits: Traits,
    user: dict[str, Any],
    asked: tuple[str, str, Any],
    now: datetime | None,
) -> bool:
    """Whether an operation was about any of this, and was done (RFC 7644 3.5.2)."""
    op, name, value = asked
    if name == SEND and op == "replace" and value is True and now is not None:
        send(store, user, now)
        return True
    if not name.startswith(DUTIES) or not traits.duties:
        return False
    mine = set(user.get(DUTIES, ()))
    if op == "add" and name == DUTIES:
        must_be_known(traits, value)
        mine |= set(value)
    elif op == "remove" and name.startswith(f'{DUTIES}[value eq "'):
        mine.discard(name[len(DUTIES) + 11 : -2])
    else:
        return False
    user[DUTIES] = sorted(mine)
    store.effect("duties.changed", user["id"], " ".join(user[DUTIES]))
    return True


def shown(traits: Traits, user: dict[str, Any]) -> dict[str, Any]:
    """What our extension of SCIM shows of it."""
    found: dict[str, Any] = {}
    if traits.duties:
        found[DUTIES] = user.get(DUTIES, [])
    if invitation := user.get("invitation"):
        found["invitation"] = {n: v or None for n, v in invitation.items()}
    return found


def accept(store: Store, user: dict[str, Any], password: str, now: datetime) -> bool:
    """Somebody opens the invitation and chooses a password; whether that was possible."""
    invitation = user.get("invitation")
    if not user["active"] or invitation is None or not invitation["sentAt"]:
        return False
    if invitation["acceptedAt"]:
        return False
    invitation["acceptedAt"] = stamp(now)
    user["password"] = password
    user["lastUsed"] = stamp(now)
    store.put("users", user)
    store.effect("invitation.accepted", user["id"])
    return True


def do(store: Store, user: dict[str, Any], duty: str) -> bool:
    """Somebody does what they were asked for."""
    if duty not in user.get(DUTIES, ()):
        return False
    user[DUTIES] = [d for d in user[DUTIES] if d != duty]
    store.put("users", user)
    store.effect("duty.done", user["id"], duty)
    return True
