"""Who a user of a simulated application is: names, phones, places and work (RFC 7643 4.1, 4.3)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

ENTERPRISE = "urn:ietf:params:scim:schemas:extension:enterprise:2.0:User"
PLAIN = ("nickName", "title", "userType", "preferredLanguage", "locale", "timezone")
NAMES = ("givenName", "familyName", "middleName", "honorificPrefix", "honorificSuffix")
LISTS = ("phoneNumbers", "addresses", "roles")
WORK = ("costCenter", "organization", "division", "department", "manager")
TOP = (*PLAIN, *LISTS, "name")


def schema_of_users(limits: Mapping[str, int], levels: Sequence[str]) -> list[dict[str, Any]]:
    """The attributes of a user besides the name to sign in with (RFC 7643 7)."""

    def text(name: str) -> dict[str, Any]:
        said: dict[str, Any] = {"name": name, "type": "string", "mutability": "readWrite"}
        return said | ({"maxLength": limits[name]} if name in limits else {})

    names = {"name": "name", "type": "complex", "mutability": "readWrite"}
    lists = [
        {"name": n, "type": "complex", "multiValued": True, "mutability": "readWrite"}
        for n in ("emails", *LISTS)
        if n != "roles" or levels
    ]
    for said in lists:
        if said["name"] == "roles":
            said["subAttributes"] = [{"name": "value", "canonicalValues": list(levels)}]
    parts = {**names, "subAttributes": [text(n) for n in NAMES]}
    return [text("displayName"), *(text(n) for n in PLAIN), parts, *lists]


def schema_of_work(limits: Mapping[str, int]) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = []
    for name in ("employeeNumber", *WORK):
        kind = "complex" if name == "manager" else "string"
        said: dict[str, Any] = {"name": name, "type": kind, "mutability": "readWrite"}
        found.append(said | ({"maxLength": limits[name]} if name in limits else {}))
    return found


def too_long(limits: Mapping[str, int], name: str, value: object) -> bool:
    return name in limits and isinstance(value, str) and len(value) > limits[name]


def taken_from(body: Mapping[str, Any]) -> dict[str, Any]:
    """Who a new or replaced user is, by what was sent."""
    found = {name: body[name] for name in TOP if body.get(name)}
    work = body.get(ENTERPRISE) or {}
    return found | {name: work[name] for name in WORK if work.get(name)}


def rendered(more: Mapping[str, Any]) -> tuple[dict[str, Any], dict[str, Any]]:
    """What of it stands in the user, and what in the enterprise extension."""
    return (
        {name: more[name] for name in TOP if more.get(name)},
        {name: more[name] for name in WORK if more.get(name)},
    )


def patched(more: dict[str, Any], op: str, path: str, value: Any) -> bool:
    """Change it as a PATCH says; False where the path is about something else."""
    name = path.removeprefix(f"{ENTERPRISE}:")
    if name == ENTERPRISE and isinstance(value, dict):
        for key, inner in value.items():
            patched(more, op, key, inner)
        return True
    if name == "manager.value":
        name, value = "manager", {"value": value}
    if name.startswith("name.") and name[5:] in NAMES:
        parts = dict(more.get("name") or {})
        parts.pop(name[5:], None)
        more["name"] = parts if op == "remove" or not value else {**parts, name[5:]: value}
        return True
    if name not in (*TOP, *WORK):
        return False
    if op == "remove" or not value:
        more.pop(name, None)
    else:
        more[name] = value
    return True
