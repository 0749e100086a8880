"""Groups of a simulated application: who is in them, and, with the extension, what they are themselves."""

from __future__ import annotations

import uuid
from typing import Any

from aiohttp import web

from yugum_standins.scim_wire import (
    GROUP,
    OURS,
    Resources,
    ScimProblem,
    check_match,
    json_of,
    members_in,
    meta,
    operations,
    reply,
)

OWN_GROUP = OURS + "Group"
SAID = ("owner", "address", "outsideSenders", "description", "retiredUntil")


class GroupPages(Resources):
    """The routes below ``/Groups``."""

    def render_group(self, group: dict[str, Any]) -> dict[str, Any]:
        body: dict[str, Any] = {
            "schemas": [GROUP],
            "id": group["id"],
            "displayName": group["displayName"],
            "members": [{"value": m} for m in group["members"]],
            "meta": meta("Group", f"/Groups/{group['id']}", group["version"]),
        }
        if group.get("externalId"):
            body["externalId"] = group["externalId"]
        if self.traits.extended:
            body["schemas"].append(OWN_GROUP)
            more = {name: value for name in SAID if (value := group.get(name))}
            if owner := more.get("owner"):
                more["owner"] = {"value": owner}
            body[OWN_GROUP] = more
        return body

    async def list_groups(self, request: web.Request) -> web.Response:
        lean = "members" in request.query.get("excludedAttributes", "")

        def render(group: dict[str, Any]) -> dict[str, Any]:
            body = self.render_group(group)
            if lean:
                del body["members"]
            return body

        text = request.query.get("filter", "")
        return self.listed(request, list(self.store.docs["groups"].values()), render, text)

    async def get_group(self, request: web.Request) -> web.Response:
        group = self.find("groups", request.match_info["id"])
        return reply(self.render_group(group), version=group["version"])

    async def create_group(self, request: web.Request) -> web.Response:
        body = await json_of(request)
        name = body.get("displayName")
        if not isinstance(name, str) or not name.strip():
            raise ScimProblem(400, "displayName is required.", "invalidValue")
        self._must_be_free(name)
        group: dict[str, Any] = {
            "id": str(uuid.uuid4()),
            "displayName": name,
            "externalId": str(body.get("externalId", "")),
            "members": [],
        }
        for field, value in body.get(OWN_GROUP, {}).items():
            self._say(group, field, value)
        self.store.put("groups", group)
        self._own(group)
        self.store.effect("group.created", "", name)
        return reply(self.render_group(group), 201, group["version"])

    async def delete_group(self, request: web.Request) -> web.Response:
        group = self.find("groups", request.match_info["id"])
        for member in list(group["members"]):
            self.store.leave(group, member)
        group["owner"] = ""
        self._own(group)
        self.store.drop("groups", group["id"])
        self.store.effect("group.purged", "", group["displayName"])
        return web.Response(status=204)

    async def put_group(self, request: web.Request) -> web.Response:
        group = self.find("groups", request.match_info["id"])
        check_match(request, group)
        wanted = [m["value"] for m in (await json_of(request)).get("members", [])]
        for member in [m for m in group["members"] if m not in wanted]:
            self.store.leave(group, member)
        for member in wanted:
            self._join(group, member)
        return reply(self.render_group(group), version=group["version"])

    async def patch_group(self, request: web.Request) -> web.Response:
        if not self.traits.patch:
            raise ScimProblem(501, "PATCH is not supported; use PUT.", "")
        group = self.find("groups", request.match_info["id"])
        check_match(request, group)
        for op, path, value in operations(await json_of(request)):
            if op == "add" and path == "members":
                for member in value:
                    self._join(group, member["value"])
            elif op == "remove" and path.startswith("members"):
                for member in members_in(path, group, value):
                    self.store.leave(group, member)
            elif op == "replace" and path == "displayName" and self.traits.extended:
                self._must_be_free(str(value))
                group["displayName"] = str(value)
                self.store.put_group(group)
            elif path.startswith(f"{OWN_GROUP}:") and self.traits.extended:
                self._say(
                    group, path.removeprefix(f"{OWN_GROUP}:"), value if op != "remove" else ""
                )
                self.store.put_group(group)
                self._own(group)
            else:
                raise ScimProblem(400, f"{op} {path} is not supported here.", "invalidPath")
        return web.Response(status=204)

    def _must_be_free(self, name: str) -> None:
        if any(g["displayName"] == name for g in self.store.docs["groups"].values()):
            raise ScimProblem(409, f"There is a group {name}.", "uniqueness")

    def _join(self, group: dict[str, Any], member: str) -> None:
        if group.get("retiredUntil"):
            raise ScimProblem(409, f"{group['displayName']} is retired.", "mutability")
        self.store.join(group, member)

    def _say(self, group: dict[str, Any], name: str, value: Any) -> None:
        if name not in SAID:
            raise ScimProblem(400, f"A group has no {name}.", "invalidPath")
        if name == "owner":
            value = value.get("value", "") if isinstance(value, dict) else ""
            if value:
                self.find("users", value)
        group[name] = value

    def _own(self, group: dict[str, Any]) -> None:
        """A group is among what its owner owns."""
        key, owner = group["id"], group.get("owner", "")
        item = self.store.docs["items"].get(key)
        if item is not None and not owner:
            self.store.items_of.get(item["owner"], set()).discard(key)
            self.store.drop("items", key)
        elif item is not None:
            self.store.move_item(item, owner)
        elif owner:
            self.store.items_of.setdefault(owner, set()).add(key)
            named = {"id": key, "kind": "group", "name": group["displayName"], "owner": owner}
            self.store.put("items", named)
