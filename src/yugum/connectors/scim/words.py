"""The names of schemas (RFC 7643 10.3, RFC 7644 10.3) and the shape of a PATCH operation."""

from __future__ import annotations

from typing import Any

USER = "urn:ietf:params:scim:schemas:core:2.0:User"
ENTERPRISE = "urn:ietf:params:scim:schemas:extension:enterprise:2.0:User"
CORE_GROUP = "urn:ietf:params:scim:schemas:core:2.0:Group"
PATCH = "urn:ietf:params:scim:api:messages:2.0:PatchOp"
ACCOUNT = "urn:yugum:scim:schemas:1.0:Account"
GROUP = "urn:yugum:scim:schemas:1.0:Group"


def replacing(path: str, value: object) -> dict[str, Any]:
    return {"op": "replace", "path": path, "value": value}


def duty(name: str, *, asked: bool) -> dict[str, Any]:
    """One duty of a user's first sign-in asked for, or let go (RFC 7644 3.5.2)."""
    path = f"{ACCOUNT}:duties"
    if asked:
        return {"op": "add", "path": path, "value": [str(name)]}
    return {"op": "remove", "path": f'{path}[value eq "{name}"]'}
