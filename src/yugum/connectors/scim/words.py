"""The names of schemas (RFC 7643 10.3, RFC 7644 10.3) and the shape of a PATCH operation."""

from __future__ import annotations

from typing import Any

from yugum.core.actions import Action, Arguments
from yugum.core.applications import Duty

USER = "urn:ietf:params:scim:schemas:core:2.0:User"
ENTERPRISE = "urn:ietf:params:scim:schemas:extension:enterprise:2.0:User"
CORE_GROUP = "urn:ietf:params:scim:schemas:core:2.0:Group"
PATCH = "urn:ietf:params:scim:api:messages:2.0:PatchOp"
ACCOUNT = "urn:yugum:scim:schemas:1.0:Account"
OWNED_ITEM = "urn:yugum:scim:schemas:1.0:OwnedItem"
GROUP = "urn:yugum:scim:schemas:1.0:Group"


def replacing(path: str, value: object) -> dict[str, Any]:
    return {"op": "replace", "path": path, "value": value}


def seat_of(license: str, user: str) -> dict[str, Any]:
    return {"license": license, "user": {"value": user}}


def first_sign_in(
    action: Action, item: str, arguments: Arguments, secret: str
) -> list[dict[str, Any]]:
    """What is asked of a user for the next sign-in (RFC 7644 3.5.2): to accept, to do something.

    A credential that has to be changed comes with that duty.
    """
    if action is Action.INVITE:
        return [replacing(f"{ACCOUNT}:invitation.send", value=True)]
    if action is Action.SET_CREDENTIAL:
        return [replacing("password", secret), _duty(Duty.PASSWORD, asked=True)]
    return [_duty(item, asked=bool(arguments.value))]


def _duty(name: str, *, asked: bool) -> dict[str, Any]:
    path = f"{ACCOUNT}:duties"
    if asked:
        return {"op": "add", "path": path, "value": [str(name)]}
    return {"op": "remove", "path": f'{path}[value eq "{name}"]'}
