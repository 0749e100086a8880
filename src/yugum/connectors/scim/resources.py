"""SCIM resources as accounts and what they own."""

from __future__ import annotations

import re
from collections.abc import Mapping
from datetime import datetime
from typing import Any

from yugum.core.accounts import AccountKind, AccountState, Asset, Observed, Unreadable
from yugum.core.actions import Arguments

USER = "urn:ietf:params:scim:schemas:core:2.0:User"
ENTERPRISE = "urn:ietf:params:scim:schemas:extension:enterprise:2.0:User"
PATCH = "urn:ietf:params:scim:api:messages:2.0:PatchOp"
ACCOUNT = "urn:yugum:scim:schemas:1.0:Account"
PARKED = re.compile(r" \(parked until ([^)]+)\)$")
"""The visible mark of an account that waits for its end where nothing can be deleted recoverably."""


def same(shown: object, wanted: str) -> bool:
    """Whether two logins are one: userName does not tell upper from lower case (RFC 7643 4.1.1)."""
    return isinstance(shown, str) and shown.lower() == wanted.lower()


def replacing(path: str, value: object) -> dict[str, Any]:
    return {"op": "replace", "path": path, "value": value}


def new_user(account_id: str, arguments: Arguments) -> dict[str, Any]:
    """A user to be made (RFC 7643 4.1), with our correlation id."""
    body: dict[str, Any] = {
        "schemas": [USER],
        "userName": arguments.login,
        "displayName": arguments.display_name,
        "externalId": account_id,
        "active": not arguments.closed,
    }
    if mail := arguments.mail:
        body["emails"] = [{"value": mail, "primary": True}]
    if number := arguments.employee_number:
        body["schemas"].append(ENTERPRISE)
        body[ENTERPRISE] = {"employeeNumber": number}
    if settings := {k: v for k, v in arguments.settings.items() if v}:
        body["schemas"].append(ACCOUNT)
        body[ACCOUNT] = {"settings": settings}
    return body


def readable(user: Mapping[str, Any], assets: list[Asset] | None) -> Observed | Unreadable:
    """A user as seen, or why it cannot be understood: one bad record must not end a reading."""
    try:
        return observed(user, assets)
    except (KeyError, TypeError, ValueError, AttributeError) as error:
        missing = isinstance(error, KeyError)
        reason = f"has no {error.args[0]}" if missing else f"a value cannot be read: {error}"
        return Unreadable(str(user.get("id", "")), str(user.get("userName", "")), reason)


def observed(user: Mapping[str, Any], assets: list[Asset] | None) -> Observed:
    more = user.get(ACCOUNT, {})
    name = user.get("displayName", "")
    active = user.get("active", True)
    parked = None if active else PARKED.search(name)
    state = AccountState.ACTIVE if active else AccountState.SUSPENDED
    if more.get("archived") and not active:
        state = AccountState.ARCHIVED
    return Observed(
        external_id=user["id"],
        login=user["userName"],
        state=AccountState.DELETED if parked else state,
        recoverable_until=datetime.fromisoformat(parked[1]) if parked else None,
        entitlements=frozenset(g["display"] for g in user.get("groups", ()) if g.get("display")),
        seats=frozenset(s["license"] for s in more.get("seats", ())),
        sessions=len(more.get("sessions", ())),
        keys=len(more.get("apiKeys", ())) + len(more.get("waysIn", ())),
        devices=len(more.get("devices", ())),
        correlation=user.get("externalId", ""),
        assets=None if assets is None else tuple(assets),
        display_name=PARKED.sub("", name),
        employee_number=user.get(ENTERPRISE, {}).get("employeeNumber", ""),
        settings={k: str(v) for k, v in more.get("settings", {}).items()},
        mail=next((str(m["value"]) for m in user.get("emails", ()) if m.get("value")), ""),
        kind=AccountKind(more.get("kind", "person")),
        last_used=datetime.fromisoformat(used) if (used := more.get("lastUsed")) else None,
    )


def deleted(user: Mapping[str, Any]) -> Observed:
    return Observed(
        external_id=user["id"],
        login=user["userName"],
        state=AccountState.DELETED,
        recoverable_until=datetime.fromisoformat(user["recoverableUntil"]),
        correlation=user.get("externalId", ""),
        display_name=user.get("displayName", ""),
        employee_number=user.get("employeeNumber", ""),
    )


def asset(item: Mapping[str, Any]) -> Asset:
    return Asset(item["kind"], item["id"], item["name"], item.get("container", ""))


def renames(schemas: Mapping[str, Any]) -> bool:
    """Whether /Schemas lets a user's name be changed (RFC 7643 7); so it is where nothing is said."""
    for schema in schemas.get("Resources", ()):
        for attribute in schema.get("attributes", ()):
            if schema.get("id") == USER and attribute.get("name") == "userName":
                return bool(attribute.get("mutability", "readWrite") == "readWrite")
    return True
