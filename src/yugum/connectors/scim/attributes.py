"""Attributes of SCIM users as accounts have them: read, written, and which of them there are."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any

from yugum.connectors.scim.words import ENTERPRISE, USER, replacing
from yugum.core.attributes import Shape

PLAIN = ("displayName", "nickName", "title", "userType", "preferredLanguage", "locale", "timezone")
OF_NAME = (
    "name.givenName",
    "name.familyName",
    "name.middleName",
    "name.honorificPrefix",
    "name.honorificSuffix",
)
OF_ENTERPRISE = ("employeeNumber", "costCenter", "organization", "division", "department")
MANAGER = "enterprise.manager"
TYPED: Mapping[str, tuple[str, str, str]] = {
    "emails.work": ("emails", "work", "value"),
    "phoneNumbers.work": ("phoneNumbers", "work", "value"),
    "phoneNumbers.mobile": ("phoneNumbers", "mobile", "value"),
    "addresses.work.locality": ("addresses", "work", "locality"),
    "roles": ("roles", "", "value"),
}
"""Values of a list, by the list, the type of its entry and what of the entry is meant."""
CORE = ("displayName", *OF_NAME[:2], "emails.work")
"""What every user has where the application tells nothing (RFC 7643 4.1)."""


def shapes(schemas: Mapping[str, Any]) -> dict[str, Shape]:
    """Which attributes /Schemas lets be written (RFC 7643 7), by our names, and what they take."""
    listed = schemas.get("Resources") or ()
    if not listed:
        return dict.fromkeys(CORE, Shape())
    found: dict[str, Shape] = {}
    for schema in listed:
        attributes = {a.get("name"): a for a in schema.get("attributes", ())}
        if schema.get("id") == USER:
            found |= _of_core(attributes)
        elif schema.get("id") == ENTERPRISE:
            for name in OF_ENTERPRISE:
                if _written(attributes.get(name)):
                    found[f"enterprise.{name}"] = _shape(attributes[name])
            if _written(attributes.get("manager")):
                found[MANAGER] = Shape()
    return found


def _of_core(attributes: Mapping[str, Any]) -> dict[str, Shape]:
    found = {n: _shape(attributes[n]) for n in PLAIN if _written(attributes.get(n))}
    if _written(attributes.get("name")):
        parts = {p.get("name"): p for p in attributes["name"].get("subAttributes", ())}
        for name in OF_NAME:
            if _written(parts.get(name.partition(".")[2])):
                found[name] = _shape(parts[name.partition(".")[2]])
    for name, (listed, _, _) in TYPED.items():
        if _written(attributes.get(listed)):
            parts = {p.get("name"): p for p in attributes[listed].get("subAttributes", ())}
            found[name] = _shape(parts.get("value", {})) if name == "roles" else Shape()
    return found


def _written(attribute: Mapping[str, Any] | None) -> bool:
    return attribute is not None and attribute.get("mutability", "readWrite") != "readOnly"


def _shape(attribute: Mapping[str, Any]) -> Shape:
    """``maxLength`` is no word of the standard, but the usual one where a length is told."""
    values = attribute.get("canonicalValues") or ()
    return Shape(int(attribute.get("maxLength") or 0), tuple(str(v) for v in values))


def attributes_of(user: Mapping[str, Any]) -> Iterator[tuple[str, str]]:
    """The attributes that a user has, by our names; those without a value are left out."""
    for name in PLAIN:
        if value := user.get(name):
            yield name, str(value)
    names = _mapping(user.get("name"))
    for name in OF_NAME:
        if value := names.get(name.partition(".")[2]):
            yield name, str(value)
    enterprise = _mapping(user.get(ENTERPRISE))
    for name in OF_ENTERPRISE:
        if value := enterprise.get(name):
            yield f"enterprise.{name}", str(value)
    manager = enterprise.get("manager")
    if value := manager if isinstance(manager, str) else _mapping(manager).get("value"):
        yield MANAGER, str(value)
    for name, (listed, kind, part) in TYPED.items():
        entry = _entry(user.get(listed), kind)
        if entry is not None and (value := entry.get(part)):
            yield name, str(value)


def _mapping(value: object) -> Mapping[str, Any]:
    return value if isinstance(value, Mapping) else {}


def _entry(entries: object, kind: str) -> Mapping[str, Any] | None:
    """The entry of a type; for work also the primary or first of those that have no type at all.

    Without a type it is the primary one, or the first.
    """
    listed = [e for e in entries if isinstance(e, Mapping)] if isinstance(entries, list) else []
    if not kind:
        return next((e for e in listed if e.get("primary")), next(iter(listed), None))
    typed = next((e for e in listed if e.get("type") == kind), None)
    if typed is not None or kind != "work":
        return typed
    rest = [e for e in listed if not e.get("type")]
    return next((e for e in rest if e.get("primary")), next(iter(rest), None))


def edited(user: Mapping[str, Any], name: str, value: str) -> dict[str, Any]:
    """The top-level attributes of a user that change when one of ours does, whole."""
    if name in TYPED:
        listed, kind, part = TYPED[name]
        return {listed: _with_entry(user.get(listed), kind, part, value)}
    if name.startswith("enterprise."):
        more = dict(_mapping(user.get(ENTERPRISE)))
        key = name.partition(".")[2]
        more.pop(key, None)
        if value:
            more[key] = {"value": value} if name == MANAGER else value
        schemas = dict.fromkeys([*user.get("schemas", (USER,)), ENTERPRISE])
        return {ENTERPRISE: more, "schemas": list(schemas)}
    if name in OF_NAME:
        names = dict(_mapping(user.get("name")))
        names[name.partition(".")[2]] = value
        return {"name": {k: v for k, v in names.items() if v}}
    return {name: value}


def _with_entry(entries: object, kind: str, part: str, value: str) -> list[dict[str, Any]]:
    listed = (
        [dict(e) for e in entries if isinstance(e, Mapping)] if isinstance(entries, list) else []
    )
    mine = _entry(listed, kind)
    kept = [e for e in listed if e is not mine]
    entry = dict(mine or ({"type": kind} if kind else {}))
    entry[part] = value
    if not mine and kind in ("work", "") and not any(e.get("primary") for e in kept):
        entry["primary"] = True
    if not value:
        entry.pop(part)
        if part == "value" or not set(entry) - {"type", "primary"}:
            return kept
    return [*kept, entry] if mine is None else [entry if e is mine else e for e in listed]


def operations(user: Mapping[str, Any], name: str, value: str) -> list[dict[str, Any]]:
    """What changes one attribute by PATCH (RFC 7644 3.5.2); a list is replaced as it then is."""
    if name in TYPED:
        listed, entries = next(iter(edited(user, name, value).items()))
        if not entries:
            return [{"op": "remove", "path": listed}]
        return [replacing(listed, entries)]
    path = name
    if name.startswith("enterprise."):
        path = f"{ENTERPRISE}:{name.partition('.')[2]}"
    if not value:
        return [{"op": "remove", "path": path}]
    return [replacing(path, {"value": value} if name == MANAGER else value)]
