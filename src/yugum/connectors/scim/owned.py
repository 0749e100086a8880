"""What users own, as resources: handed over and copied (docs/reference/scim-extension.md)."""

from __future__ import annotations

from collections.abc import AsyncIterator, Mapping
from dataclasses import dataclass
from typing import Any, Protocol

from yugum.connectors.each import each
from yugum.connectors.scim.http import ScimHttp, at
from yugum.connectors.scim.words import OWNED_ITEM, PATCH
from yugum.core.accounts import Asset
from yugum.core.actions import Action, Arguments, Done
from yugum.errors import ApplicationUnavailable
from yugum.ports.connectors import AccountRef


@dataclass(frozen=True, slots=True)
class Thing:
    """What is needed of an owned item: there may be a hundred thousand."""

    id: str
    name: str
    version: str


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
        wanted = None if only is None else frozenset(only)
        found = [
            Thing(item["id"], item["name"], item.get("meta", {}).get("version", ""))
            async for item in self._of(source)
            if item["kind"] == kind and (wanted is None or item["id"] in wanted)
        ]
        if action is Action.COPY:
            return await self._copy(kind, found, target, arguments)
        operation = {"op": "replace", "path": "owner", "value": {"value": target}}
        body = {"schemas": [PATCH], "Operations": [operation]}

        async def move(thing: Thing) -> None:
            await self._http.send("PATCH", at("OwnedItems", thing.id), body, etag=thing.version)

        await each(found, move)
        moved = tuple(Asset(kind, thing.id, thing.name) for thing in found)
        return Done(assets=moved, to=arguments.to_name)

    async def _copy(
        self, kind: str, things: list[Thing], target: str, arguments: Arguments
    ) -> Done:
        """A copy of each for another user, once; they are looked at afterwards."""
        there = await self._copies(target)

        async def copy(thing: Thing) -> None:
            body = {
                "schemas": [OWNED_ITEM],
                "copyOf": thing.id,
                "owner": {"value": target},
                "externalId": f"{thing.id}:{target}",
            }
            await self._http.send("POST", "/OwnedItems", body, allow=(409,))

        await each([thing for thing in things if thing.id not in there], copy)
        made = await self._copies(target)
        if missing := [thing.name for thing in things if thing.id not in made]:
            raise ApplicationUnavailable(
                f"{self._name} took the copying of {missing[0]} and does not show a copy."
            )
        return Done(
            assets=tuple(Asset(kind, made[t.id].id, made[t.id].name) for t in things),
            copied=tuple(t.id for t in things),
            to=arguments.to_name,
        )

    async def _copies(self, owner: str) -> dict[str, Thing]:
        """What somebody has that is a copy, by the id of what it was made of."""
        return {
            item["copyOf"]: Thing(item["id"], item["name"], "")
            async for item in self._of(owner)
            if "copyOf" in item
        }

    def _of(self, owner: str) -> AsyncIterator[Mapping[str, Any]]:
        return self._found("/OwnedItems", ("owner", "value"), owner)
