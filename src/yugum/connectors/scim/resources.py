"""SCIM resources as accounts and what they own."""

from __future__ import annotations

import re
import sys
from collections.abc import Callable, Iterable, Iterator, Mapping
from datetime import datetime
from typing import Any

from yugum.connectors.scim.attributes import attributes_of, edited
from yugum.connectors.scim.words import ACCOUNT, USER
from yugum.core.accounts import AccountKind, AccountState, Asset, Observed, Unreadable
from yugum.core.actions import Arguments
from yugum.core.invitations import SHOWN, shown

PARKED = re.compile(r" \(parked until ([^)]+)\)$")
"""The visible mark of an account that waits for its end where nothing can be deleted recoverably."""
MARKED = ("displayName", "externalId")
"""Where it stands: in the name, or where that cannot be set in the id that is ours (RFC 7643 3.1)."""


def same(shown: object, wanted: str) -> bool:
    """Whether two logins are one: userName does not tell upper from lower case (RFC 7643 4.1.1)."""
    return isinstance(shown, str) and shown.lower() == wanted.lower()


def new_user(account_id: str, arguments: Arguments) -> dict[str, Any]:
    """A user to be made (RFC 7643 4.1), with our correlation id."""
    body: dict[str, Any] = {
        "schemas": [USER],
        "userName": arguments.login,
        "displayName": arguments.display_name,
        "externalId": account_id,
        "active": not arguments.closed,
    }
    for name, value in {"emails.work": arguments.mail, **arguments.attributes}.items():
        if value:
            body |= edited(body, name, value)
    more: dict[str, Any] = {}
    if settings := {k: v for k, v in arguments.settings.items() if v}:
        more["settings"] = settings
    if arguments.duties:
        more["duties"] = list(arguments.duties)
    if more:
        body["schemas"].append(ACCOUNT)
        body[ACCOUNT] = more
    return body


def truth(value: object) -> bool:
    """A yes or no, also where an application sends it as text."""
    return value if isinstance(value, bool) else str(value).strip().lower() in ("true", "1", "yes")


def groups_shown(user: Mapping[str, Any], names: Mapping[str, str]) -> Iterator[str]:
    """The groups that stand in a user; one shown without its name is looked up in ``names`` by id."""
    for group in user.get("groups") or ():
        if name := group.get("display") or names.get(str(group.get("value", "")), ""):
            yield str(name)


def readable(
    user: Mapping[str, Any],
    assets: list[Asset] | None,
    groups: Iterable[str],
    names: Mapping[str, str],
) -> Observed | Unreadable:
    """A user as seen, or why it cannot be understood: one bad record must not end a reading.

    ``groups`` are those that show the user among their members, ``names`` all groups by id.
    """
    return understood(user, lambda: observed(user, assets, {*groups_shown(user, names), *groups}))


def understood(
    record: Mapping[str, Any], read: Callable[[], Observed], name: str = "userName"
) -> Observed | Unreadable:
    """What is read out of a record, or why nothing can be; ``name`` is the attribute it is known by."""
    try:
        return read()
    except (KeyError, TypeError, ValueError, AttributeError) as error:
        missing = isinstance(error, KeyError)
        reason = f"has no {error.args[0]}" if missing else f"a value cannot be read: {error}"
        return Unreadable(str(record.get("id", "")), str(record.get(name, "")), reason)


def observed(
    user: Mapping[str, Any], assets: list[Asset] | None, groups: Iterable[str]
) -> Observed:
    attributes = dict(attributes_of(user))
    more = user.get(ACCOUNT) or {}
    name = user.get("displayName") or ""
    active = truth(user.get("active", True))
    parked = None
    if not active:
        parked = PARKED.search(name) or PARKED.search(str(user.get("externalId") or ""))
    state = AccountState.ACTIVE if active else AccountState.SUSPENDED
    if more.get("archived") and not active:
        state = AccountState.ARCHIVED
    return Observed(
        external_id=str(user["id"]),
        login=user["userName"],
        state=AccountState.DELETED if parked else state,
        recoverable_until=datetime.fromisoformat(parked[1]) if parked else None,
        entitlements=frozenset(groups),
        seats=frozenset(s["license"] for s in more.get("seats", ())),
        sessions=len(more.get("sessions", ())),
        keys=len(more.get("apiKeys", ())) + len(more.get("waysIn", ())),
        devices=len(more.get("devices", ())),
        correlation=PARKED.sub("", str(user.get("externalId") or "")),
        assets=None if assets is None else tuple(assets),
        display_name=PARKED.sub("", name),
        employee_number=attributes.get("enterprise.employeeNumber", ""),
        settings={k: str(v) for k, v in more.get("settings", {}).items() if k not in SHOWN}
        | attributes
        | _to_do(more),
        mail=attributes.get("emails.work", ""),
        kind=AccountKind(more.get("kind", "person")),
        last_used=datetime.fromisoformat(used) if (used := more.get("lastUsed")) else None,
    )


def _to_do(more: Mapping[str, Any]) -> dict[str, str]:
    """What a user has yet to do, as our extension shows it: an invitation to accept, duties."""
    invitation = more.get("invitation") or {}
    open_one = bool(invitation) and not invitation.get("acceptedAt")
    sent = str(invitation.get("sentAt") or "")
    return shown(sent if open_one else None, more.get("duties") or ())


def deleted(user: Mapping[str, Any]) -> Observed:
    return Observed(
        external_id=user["id"],
        login=user["userName"],
        state=AccountState.DELETED,
        recoverable_until=datetime.fromisoformat(user["recoverableUntil"]),
        correlation=user.get("externalId", ""),
        display_name=user.get("displayName", ""),
        employee_number=user.get("employeeNumber", ""),
        settings=dict(attributes_of(user)) | _to_do(user.get(ACCOUNT) or {}),
    )


def asset(item: Mapping[str, Any]) -> Asset:
    kind, container = sys.intern(str(item["kind"])), sys.intern(str(item.get("container") or ""))
    return Asset(kind, item["id"], item["name"], container)


def renames(schemas: Mapping[str, Any]) -> bool:
    """Whether /Schemas lets a user's name be changed (RFC 7643 7); so it is where nothing is said."""
    for schema in schemas.get("Resources", ()):
        for attribute in schema.get("attributes", ()):
            if schema.get("id") == USER and attribute.get("name") == "userName":
                return bool(attribute.get("mutability", "readWrite") == "readWrite")
    return True
