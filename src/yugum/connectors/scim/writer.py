"""Changing SCIM resources: by PATCH, or by PUT of the whole where there is none."""

from __future__ import annotations

import asyncio
from abc import ABC, abstractmethod
from collections.abc import Callable, Mapping
from typing import Any
from weakref import WeakValueDictionary

from yugum.connectors.scim.attributes import edited, operations
from yugum.connectors.scim.http import ScimHttp
from yugum.connectors.scim.resources import PARKED
from yugum.connectors.scim.words import PATCH, replacing
from yugum.errors import ApplicationUnavailable, CannotDo

LISTS = ("emails", "phoneNumbers")
REWRITES = 5
"""How often a resource that others change as well is read again before a step has to wait."""


class Writer(ABC):
    def __init__(self, name: str, http: ScimHttp) -> None:
        self._name = name
        self._http = http
        self._patches = True
        self._writing: WeakValueDictionary[str, asyncio.Lock] = WeakValueDictionary()

    @abstractmethod
    async def _known(self) -> None:
        """What the application offers is known afterwards."""

    async def _patch(self, path: str, operations: list[dict[str, Any]], etag: str = "") -> None:
        await self._http.send(
            "PATCH", path, {"schemas": [PATCH], "Operations": operations}, etag=etag
        )

    async def _patched(self, path: str, changes: list[dict[str, Any]], etag: str = "") -> bool:
        """PATCH where it is understood; some offer it and know only part of it (501)."""
        if not self._patches:
            return False
        try:
            await self._patch(path, changes, etag)
        except CannotDo:
            return False
        return True

    async def _change(self, path: str, values: Mapping[str, Any]) -> None:
        """Replace attributes of a user, by PATCH or, where there is none, by PUT of the whole."""
        await self._known()
        if not await self._patched(path, [replacing(k, v) for k, v in values.items()]):
            await self._rewrite(path, lambda _: values)

    async def _rewrite(
        self, path: str, edit: Callable[[Mapping[str, Any]], Mapping[str, Any]]
    ) -> None:
        """Read a resource and PUT it whole with what ``edit`` gives for what was read.

        Steps of ours take turns, and when somebody else was faster (412) it is read again: a group
        is changed by many at once.
        """
        async with self._writing.setdefault(path, asyncio.Lock()):
            for _ in range(REWRITES):
                found = await self._http.send("GET", path)
                body = _whole({**found.body, **edit(found.body)})
                reply = await self._http.send("PUT", path, body, etag=found.etag, allow=(412,))
                if reply.status != 412:
                    return
        raise ApplicationUnavailable(f"{self._name} changes {path} faster than it can be written.")

    async def _update(self, path: str, name: str, value: str) -> None:
        """One attribute; the entries of a list and the parts of a name beside it stay as they are."""
        await self._known()
        if self._patches:
            found = await self._http.send("GET", path)
            if await self._patched(path, operations(found.body, name, value), found.etag):
                return
        await self._rewrite(path, lambda body: edited(body, name, value))

    async def _park(self, user: str, until: str) -> None:
        """Suspended, with a mark in the name; where names cannot be set it is in our own id there."""
        found = await self._http.send("GET", user)
        name = PARKED.sub("", found.body.get("displayName") or "")
        mark = f" (parked until {until})"
        await self._change(user, {"active": False, "displayName": name + mark})
        found = await self._http.send("GET", user)
        if not PARKED.search(found.body.get("displayName") or ""):
            key = PARKED.sub("", str(found.body.get("externalId") or ""))
            await self._change(user, {"externalId": key + mark})


def _whole(body: Mapping[str, Any]) -> dict[str, Any]:
    """A resource to be sent back: some show entries without a value that they do not take again."""
    return {
        name: [v for v in value if v.get("value", True)] if name in LISTS and value else value
        for name, value in body.items()
    }
