"""What users own, as resources: handed over and copied (docs/reference/scim-extension.md)."""

from __future__ import annotations

from collections.abc import AsyncIterator, Mapping
from typing import Any, Protocol

from yugum.connectors.each import each
from yugum.connectors.scim.http import ScimHttp, at
from yugum.connectors.scim.words import OWNED_ITEM, PATCH
from yugum.core.accounts import Asset
from yugum.core.actions import Action, Arguments, Done
from yugum.errors import ApplicationUnavailable
from yugum.ports.connectors import AccountRef


class Finding(Protocol):
    def __call__(
        self, path: str, attribute: tuple[str, ...], value: str
    ) -> AsyncIterator[dict[str, Any]]:
        """The resources in which an attribute is a value."""


class Owned:
    def __init__(self, name: str, http: ScimHttp, found: Finding) -> None:
        self._name = name
        self._http = http
        self._found = found

    async def act(self, action: Action, ref: AccountRef, kind: str, arguments: Arguments) -> Done:
        source = arguments.from_external_id or ref.external_id
        target = arguments.to_external_id or ref.external_id
        only = arguments.only
        found = [
            item
            for item in await self._of(source)
            if item["kind"] == kind and (only is None or item["id"] in only)
        ]
        if action is Action.COPY:
            return await self._copy(found, target, arguments)
        operation = {"op": "replace", "path": "owner", "value": {"value": target}}

        async def move(item: Mapping[str, Any]) -> None:
            etag = item.get("meta", {}).get("version", "")
            body = {"schemas": [PATCH], "Operations": [operation]}
            await self._http.send("PATCH", at("OwnedItems", item["id"]), body, etag=etag)

        await each(found, move)
        moved = tuple(Asset(kind, item["id"], item["name"]) for item in found)
        return Done(assets=moved, to=arguments.to_name)

    async def _copy(
        self, items: list[Mapping[str, Any]], target: str, arguments: Arguments
    ) -> Done:
        """A copy of each for another user, once; they are looked at afterwards."""
        there = {item.get("copyOf") for item in await self._of(target)}

        async def copy(item: Mapping[str, Any]) -> None:
            body = {
                "schemas": [OWNED_ITEM],
                "copyOf": item["id"],
                "owner": {"value": target},
                "externalId": f"{item['id']}:{target}",
            }
            await self._http.send("POST", "/OwnedItems", body, allow=(409,))

        await each([item for item in items if item["id"] not in there], copy)
        made = {item.get("copyOf"): item for item in await self._of(target)}
        if missing := [item["name"] for item in items if item["id"] not in made]:
            raise ApplicationUnavailable(
                f"{self._name} took the copying of {missing[0]} and does not show a copy."
            )
        return Done(
            assets=tuple(
                Asset(i["kind"], made[i["id"]]["id"], made[i["id"]]["name"]) for i in items
            ),
            copied=tuple(i["id"] for i in items),
            to=arguments.to_name,
        )

    async def _of(self, owner: str) -> list[Mapping[str, Any]]:
        return [item async for item in self._found("/OwnedItems", ("owner", "value"), owner)]
