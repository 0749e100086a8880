"""Who is in which group: applications keep it in the user, in the group, or in both.

What a schema declares says little: one that lists ``groups`` in users may never fill it. So a look
decides, and as long as nobody is in any group both are asked.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from yugum.connectors.scim.http import ScimHttp, at, quoted
from yugum.connectors.scim.words import GROUP
from yugum.errors import ApplicationRejected, CannotDo

FEW = 20
"""Users, or groups, that are looked at to find out."""


class Members:
    def __init__(self, http: ScimHttp) -> None:
        self._http = http
        self._in_users: bool | None = None
        self._by_member = True
        self.names: dict[str, str] = {}

    async def learn(self) -> None:
        """Find out where membership is seen, unless that is known."""
        if self._in_users:
            return
        page = await self._http.first("/Users", FEW)
        if any(u.get("groups") for u in page):
            self._in_users = True
            return
        for group in await self._http.first("/Groups", FEW):
            for member in group.get("members") or ():
                found = await self._http.send(
                    "GET", at("Users", str(member.get("value", ""))), allow=(404,)
                )
                if found.status != 404:
                    shown = {str(g.get("value", "")) for g in found.body.get("groups") or ()}
                    self._in_users = str(group["id"]) in shown
                    return

    async def everybody(self) -> Mapping[str, set[str]]:
        """Groups by user's id, where they have to be asked of the groups."""
        if self._in_users:
            return {}
        found: dict[str, set[str]] = {}
        async for page in self._http.listed("/Groups"):
            for group in page:
                if retired(group):
                    continue
                name = self._name(group)
                for member in group.get("members") or ():
                    found.setdefault(str(member.get("value", "")), set()).add(name)
        return found

    async def of(self, key: str) -> set[str]:
        """The groups that show a user, by id, among their members, where that has to be asked."""
        if self._in_users:
            return set()
        return {
            self._name(group)
            for group in await self._holding(key)
            if not retired(group)
            and any(str(m.get("value", "")) == key for m in group.get("members") or ())
        }

    async def _holding(self, key: str) -> list[Mapping[str, Any]]:
        """The groups that may hold a user: by filter where that is understood, else all."""
        if self._by_member:
            found: list[Mapping[str, Any]] = []
            try:
                async for page in self._http.listed("/Groups", f"members.value eq {quoted(key)}"):
                    found += page
            except (ApplicationRejected, CannotDo):
                self._by_member = False
            else:
                if found:
                    return found
        found = []
        async for page in self._http.listed("/Groups"):
            found += page
        return found

    def _name(self, group: Mapping[str, Any]) -> str:
        name = str(group.get("displayName") or group["id"])
        self.names[str(group["id"])] = name
        return name


def retired(group: Mapping[str, Any]) -> bool:
    """Whether a group is of no use to anybody until it is brought back."""
    return bool((group.get(GROUP) or {}).get("retiredUntil"))
