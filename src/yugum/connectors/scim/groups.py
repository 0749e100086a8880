"""Groups themselves, where an application offers our extension of them: made, changed, retired, purged."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from datetime import datetime
from typing import Any

from yugum.connectors.scim.http import ScimHttp, at, quoted
from yugum.connectors.scim.resources import understood
from yugum.connectors.scim.words import CORE_GROUP, GROUP, PATCH, replacing
from yugum.core.accounts import AccountKind, AccountState, Observed, Unreadable
from yugum.core.actions import NOTHING_DONE, Action, Arguments, Done
from yugum.core.attributes import Shape
from yugum.errors import ApplicationRejected, CannotDo
from yugum.ports.connectors import AccountRef

NAMES = {
    "owner_id": "owner",
    "address": "address",
    "outside_senders": "outsideSenders",
    "description": "description",
}
"""What can be said of a group: our names, and those of the extension."""
SHAPES = dict.fromkeys(NAMES, Shape())


def offered(types: Iterator[Mapping[str, Any]] | list[Any]) -> bool:
    """Whether groups can be made and changed, by /ResourceTypes (RFC 7643 6)."""
    return any(
        e["schema"] == GROUP
        for r in types
        if r["name"] == "Group"
        for e in r.get("schemaExtensions", [])
    )


class ScimGroups:
    def __init__(self, name: str, http: ScimHttp) -> None:
        self._name = name
        self._http = http

    async def observe(self, ref: AccountRef) -> Observed | None:
        if ref.external_id:
            reply = await self._http.send("GET", at("Groups", ref.external_id), allow=(404,))
            return None if reply.status == 404 else self._readable(reply.body)
        async for page in self._http.listed("/Groups", f"externalId eq {quoted(ref.account_id)}"):
            for group in page:
                if group.get("externalId") == ref.account_id:
                    return self._readable(group)
        return None

    def _readable(self, group: Mapping[str, Any]) -> Observed:
        found = understood(group, lambda: seen(group), "displayName")
        if isinstance(found, Unreadable):
            raise ApplicationRejected(f"The record of {found.login} {found.reason}.")
        return found

    async def act(self, action: Action, ref: AccountRef, item: str, arguments: Arguments) -> Done:
        path = at("Groups", ref.external_id)
        match action:
            case Action.CREATE:
                return await self._create(ref, arguments)
            case Action.UPDATE if item in NAMES:
                value = said({item: arguments.value})[NAMES[item]]
                await self._patch(path, f"{GROUP}:{NAMES[item]}", value)
            case Action.RENAME:
                await self._patch(path, "displayName", item)
                return Done(login=item)
            case Action.PARK:
                await self._patch(path, f"{GROUP}:retiredUntil", arguments.until)
                return Done(until=arguments.until)
            case Action.RESTORE:
                await self._patch(path, f"{GROUP}:retiredUntil", "")
            case Action.PURGE:
                await self._http.send("DELETE", path, allow=(404,))
            case _:
                raise CannotDo(f"{self._name} cannot {action.value.replace('_', ' ')} a group.")
        return NOTHING_DONE

    async def _create(self, ref: AccountRef, arguments: Arguments) -> Done:
        body = {
            "schemas": [CORE_GROUP, GROUP],
            "displayName": arguments.login,
            "externalId": ref.account_id,
            GROUP: said(arguments.attributes),
        }
        reply = await self._http.send("POST", "/Groups", body, allow=(409,))
        if reply.status == 409:
            raise ApplicationRejected(
                f"{self._name} has a group {arguments.login} already.",
                remedy="Read the application, and change that one; or choose another name.",
            )
        return Done(external_id=str(reply.body["id"]), login=arguments.login)

    async def _patch(self, path: str, name: str, value: object) -> None:
        operation = replacing(name, value)
        if value == "":
            operation = {"op": "remove", "path": name}
        await self._http.send("PATCH", path, {"schemas": [PATCH], "Operations": [operation]})


def said(settings: Mapping[str, str]) -> dict[str, Any]:
    """Settings of a group as the extension has them."""
    found: dict[str, Any] = {}
    for name, value in settings.items():
        if name == "owner_id":
            found["owner"] = {"value": value} if value else ""
        elif name == "outside_senders":
            found["outsideSenders"] = value == "yes"
        else:
            found[NAMES[name]] = value
    return found


def seen(group: Mapping[str, Any]) -> Observed:
    """What a group resource shows."""
    more = group.get(GROUP) or {}
    settings = {
        "owner_id": str((more.get("owner") or {}).get("value", "")),
        "address": str(more.get("address") or ""),
        "outside_senders": "yes" if more.get("outsideSenders") else "no",
        "description": str(more.get("description") or ""),
    }
    until = more.get("retiredUntil")
    return Observed(
        external_id=str(group["id"]),
        login=str(group.get("displayName") or group["id"]),
        state=AccountState.DELETED if until else AccountState.ACTIVE,
        recoverable_until=datetime.fromisoformat(until) if until else None,
        correlation=str(group.get("externalId") or ""),
        settings={name: value for name, value in settings.items() if value},
        display_name=str(group.get("displayName") or ""),
        kind=AccountKind.GROUP,
        assets=(),
    )
