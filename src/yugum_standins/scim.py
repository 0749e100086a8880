"""A SCIM 2.0 service provider (RFC 7643, 7644) with the extension for seats, items and deletion.

Reading one user is answered from rendered bytes, so that the stand-in is never what is measured.
"""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from datetime import datetime
from typing import Any

import orjson
from aiohttp import web

from yugum_standins import first_sign_in
from yugum_standins import scim_attributes as who
from yugum_standins.keys import end_keys
from yugum_standins.scim_groups import OWN_GROUP, GroupPages
from yugum_standins.scim_settings import SettingPages
from yugum_standins.scim_wire import (
    GROUP,
    OURS,
    ScimProblem,
    Traits,
    check_match,
    json_of,
    listing,
    meta,
    operations,
    reply,
)
from yugum_standins.state import BusinessClock, Store

USER = "urn:ietf:params:scim:schemas:core:2.0:User"
ENTERPRISE = "urn:ietf:params:scim:schemas:extension:enterprise:2.0:User"
ACCOUNT = OURS + "Account"


class Provider(GroupPages, SettingPages):
    """The routes of one application."""

    def __init__(self, store: Store, clock: BusinessClock, traits: Traits) -> None:
        self.store = store
        self.clock = clock
        self.traits = traits
        self.extended = traits.extended
        self.recoverable = traits.extended and traits.window_days > 0

    def routes(self) -> list[web.RouteDef]:
        routes = [
            web.get("/scim/v2/ServiceProviderConfig", self.config),
            web.get("/scim/v2/ResourceTypes", self.types),
            web.get("/scim/v2/Schemas", self.schemas),
            web.get("/scim/v2/Users", self.list_users),
            web.post("/scim/v2/Users", self.create_user),
            web.get("/scim/v2/Users/{id}", self.get_user),
            web.patch("/scim/v2/Users/{id}", self.patch_user),
            web.put("/scim/v2/Users/{id}", self.put_user),
            web.delete("/scim/v2/Users/{id}", self.delete_user),
            web.get("/scim/v2/Groups", self.list_groups),
            web.get("/scim/v2/Groups/{id}", self.get_group),
            web.patch("/scim/v2/Groups/{id}", self.patch_group),
            web.put("/scim/v2/Groups/{id}", self.put_group),
        ]
        if self.extended:
            routes += [
                web.post("/scim/v2/Groups", self.create_group),
                web.delete("/scim/v2/Groups/{id}", self.delete_group),
                web.get("/scim/v2/Licenses", self.list_licenses),
                web.get("/scim/v2/Seats", self.list_seats),
                web.post("/scim/v2/Seats", self.create_seat),
                web.delete("/scim/v2/Seats/{id}", self.delete_seat),
                web.get("/scim/v2/OwnedItems", self.list_items),
                web.post("/scim/v2/OwnedItems", self.copy_item),
                web.get("/scim/v2/OwnedItems/{id}", self.get_item),
                web.patch("/scim/v2/OwnedItems/{id}", self.patch_item),
                *self.settings_routes(),
            ]
        if self.recoverable:
            routes += [
                web.get("/scim/v2/DeletedUsers", self.list_deleted),
                web.get("/scim/v2/DeletedUsers/{id}", self.get_deleted),
                web.patch("/scim/v2/DeletedUsers/{id}", self.patch_deleted),
                web.delete("/scim/v2/DeletedUsers/{id}", self.delete_deleted),
            ]
        return routes

    # --- discovery ---------------------------------------------------------------------------

    async def config(self, _: web.Request) -> web.Response:
        yes, no = {"supported": True}, {"supported": False}
        return reply(
            {
                "schemas": ["urn:ietf:params:scim:schemas:core:2.0:ServiceProviderConfig"],
                "patch": yes if self.traits.patch else no,
                "bulk": {**no, "maxOperations": 0, "maxPayloadSize": 0},
                "filter": {**(yes if self.traits.filters else no), "maxResults": 1000},
                "pagination": {"index": True, "cursor": self.traits.cursors},
                "changePassword": yes,
                "sort": no,
                "etag": yes,
                ACCOUNT: {
                    "archive": self.traits.archive,
                    "waysIn": self.traits.archive,
                    "devices": self.traits.devices,
                    "copies": self.extended,
                    **first_sign_in.config(self.traits),
                },
                "authenticationSchemes": [
                    {"type": "oauthbearertoken", "name": "Bearer", "description": "RFC 6750"}
                ],
            }
        )

    async def types(self, _: web.Request) -> web.Response:
        kinds = [("User", "/Users", USER), ("Group", "/Groups", GROUP)]
        if self.extended:
            names = [
                "License",
                "Seat",
                "OwnedItem",
                "Setting",
                *(["DeletedUser"] if self.recoverable else []),
            ]
            kinds += [(n, f"/{n}s", OURS + n) for n in names]
        resources = []
        for name, endpoint, schema in kinds:
            resource: dict[str, Any] = {
                "schemas": ["urn:ietf:params:scim:schemas:core:2.0:ResourceType"],
                "id": name,
                "name": name,
                "endpoint": endpoint,
                "schema": schema,
            }
            if name == "User":
                more = [ENTERPRISE, *([ACCOUNT] if self.extended else [])]
                resource["schemaExtensions"] = [{"schema": s, "required": False} for s in more]
            if name == "Group" and self.extended:
                resource["schemaExtensions"] = [{"schema": OWN_GROUP, "required": False}]
            resources.append(resource)
        return reply(listing(resources, len(resources), 1))

    async def schemas(self, _: web.Request) -> web.Response:
        ids = [USER, GROUP, ENTERPRISE]
        if self.extended:
            ids += [
                OURS + n
                for n in (
                    "Account",
                    "Group",
                    "License",
                    "Seat",
                    "OwnedItem",
                    "Setting",
                    "DeletedUser",
                )
            ]
        resources = [
            {
                "schemas": ["urn:ietf:params:scim:schemas:core:2.0:Schema"],
                "id": i,
                "name": i.rsplit(":", 1)[-1],
                "attributes": self._attributes(i),
            }
            for i in ids
        ]
        return reply(listing(resources, len(resources), 1))

    def _attributes(self, schema: str) -> list[dict[str, Any]]:
        if schema == USER:
            return [self._user_name(), *who.schema_of_users(self.traits.limits, self.traits.levels)]
        return who.schema_of_work(self.traits.limits) if schema == ENTERPRISE else []

    def _user_name(self) -> dict[str, Any]:
        """What may be done with a user's name (RFC 7643 7)."""
        mutability = "readWrite" if self.traits.renames else "immutable"
        return {"name": "userName", "type": "string", "required": True, "mutability": mutability}

    # --- users -------------------------------------------------------------------------------

    def render_user(self, user: dict[str, Any]) -> dict[str, Any]:
        store = self.store
        body: dict[str, Any] = {
            "schemas": [USER],
            "id": user["id"],
            "userName": user["userName"],
            "displayName": user.get("displayName", ""),
            "active": user["active"],
            "groups": [
                {"value": g, "display": store.docs["groups"][g]["displayName"]}
                for g in sorted(store.groups_of.get(user["id"], ()))
                if not store.docs["groups"][g].get("retiredUntil")
            ],
            "meta": {
                **meta("User", f"/Users/{user['id']}", user["version"]),
                "lastModified": user.get("modified", ""),
            },
        }
        if user.get("externalId"):
            body["externalId"] = user["externalId"]
        if user.get("mail"):
            body["emails"] = [{"value": user["mail"], "type": "work", "primary": True}]
        more, work = who.rendered(user.get("more") or {})
        body |= more
        if number := user.get("employeeNumber"):
            work = {"employeeNumber": number, **work}
        if work:
            body["schemas"].append(ENTERPRISE)
            body[ENTERPRISE] = work
        if self.extended:
            body["schemas"].append(ACCOUNT)
            seats = [store.docs["seats"][s] for s in sorted(store.seats_of.get(user["id"], ()))]
            body[ACCOUNT] = {
                "kind": user.get("kind", "person"),
                **({"lastUsed": user["lastUsed"]} if user.get("lastUsed") else {}),
                "sessions": user.get("sessions", []),
                "apiKeys": [
                    {n: k[n] for n in ("id", "until") if n in k} for k in user.get("apiKeys", [])
                ],
                "recovery": user.get("recovery", []),
                **(
                    {"archived": user.get("archived", False), "waysIn": user.get("waysIn", [])}
                    if self.traits.archive
                    else {}
                ),
                **({"devices": user.get("devices", [])} if self.traits.devices else {}),
                **first_sign_in.shown(self.traits, user),
                "seats": [{"value": s["id"], "license": s["license"]} for s in seats],
                "settings": user.get("settings", {}),
            }
            if self.traits.settings:
                body[ACCOUNT]["settings"] = {
                    n: body[ACCOUNT]["settings"].get(n, "") for n in self.traits.settings
                }
        return body

    async def get_user(self, request: web.Request) -> web.Response:
        key = request.match_info["id"]
        if self.store.timed:
            end_keys(self.store, await self.clock.now())
        user = self.find("users", key)
        stale = self.store.stale_view(key)
        if stale is not None:
            return reply(stale)
        raw = self.store.rendered.get(key)
        if raw is None:
            raw = self.store.rendered[key] = orjson.dumps(self.render_user(user))
        return reply(raw, version=user["version"])

    async def list_users(self, request: web.Request) -> web.Response:
        text = request.query.get("filter", "")
        users = self.store.docs["users"]
        if self.store.timed:
            end_keys(self.store, await self.clock.now())
        if text.startswith('userName eq "') and text.count('"') == 2:
            found = self.store.by_name.get(text[13:-1].lower())
            return self.listed(request, [users[found]] if found else [], self.render_user, "")
        return self.listed(request, list(users.values()), self.render_user, text)

    async def create_user(self, request: web.Request) -> web.Response:
        body = await json_of(request)
        name = body.get("userName")
        if not isinstance(name, str) or not name.strip():
            raise ScimProblem(400, "userName is required.", "invalidValue")
        if name.lower() in self.store.by_name:
            raise ScimProblem(409, f"userName {name} is taken.", "uniqueness")
        user = {
            "id": str(uuid.uuid4()),
            "userName": name,
            "displayName": body.get("displayName", ""),
            "externalId": body.get("externalId", ""),
            "employeeNumber": body.get(ENTERPRISE, {}).get("employeeNumber", ""),
            "active": body.get("active", True) is True,
            "kind": str(body.get(ACCOUNT, {}).get("kind", "person")),
            "sessions": [],
            "apiKeys": [],
            "settings": dict(body.get(ACCOUNT, {}).get("settings", {})),
            "mail": next((e.get("value", "") for e in body.get("emails", [])), ""),
            "more": who.taken_from(body),
        }
        self._must_fit(body)
        now = await self._now()
        first_sign_in.made(self.traits, user, body)
        if self.traits.invites and not user["mail"]:
            raise ScimProblem(400, "There is no address to invite to.", "invalidValue")
        self.store.effect("user.created", user["id"], name)
        first_sign_in.opened(self.store, user, now)
        self.store.put("users", user)
        return reply(self.render_user(user), 201, user["version"])

    async def _now(self) -> datetime | None:
        """The business time where invitations need one; asked for before anything is changed."""
        return await self.clock.now() if self.traits.invites else None

    async def put_user(self, request: web.Request) -> web.Response:
        """Replace a user; what is left out of our extension is taken away (RFC 7644 3.5.1)."""
        user = self.find("users", request.match_info["id"])
        check_match(request, user)
        body = await json_of(request)
        more = body.get(ACCOUNT, {})
        self._must_fit(body)
        self.store.begin()
        try:
            user["more"] = who.taken_from(body)
            user["employeeNumber"] = (body.get(ENTERPRISE) or {}).get("employeeNumber", "")
            for name in ("active", "password", "displayName", "userName", "externalId", "emails"):
                if name in body and user.get(name) != body[name]:
                    self._patch_user(user, "replace", name, body[name])
            for name in ("sessions", "apiKeys", "recovery"):
                if not more.get(name) and user.get(name):
                    self._patch_user(user, "remove", name, None)
            self.store.put("users", user)
        finally:
            self.store.commit()
        return reply(self.render_user(user), version=user["version"])

    def _must_be_a_level(self, roles: Any) -> None:
        for role in roles if isinstance(roles, list) else ():
            if role.get("value") not in self.traits.levels:
                raise ScimProblem(400, f"There is no role {role.get('value')}.", "invalidValue")

    def _must_fit(self, body: Mapping[str, Any]) -> None:
        self._must_be_a_level(body.get("roles"))
        for part in (body, body.get("name") or {}, body.get(ENTERPRISE) or {}):
            for name, value in part.items():
                if who.too_long(self.traits.limits, name, value):
                    raise ScimProblem(400, f"{name} is too long.", "invalidValue")

    async def patch_user(self, request: web.Request) -> web.Response:
        if not self.traits.patch:
            raise ScimProblem(501, "PATCH is not supported; use PUT.", "")
        user = self.find("users", request.match_info["id"])
        check_match(request, user)
        asked = operations(await json_of(request))
        now = await self._now()
        self.store.begin()
        try:
            for op, path, value in asked:
                mine = (op, path.removeprefix(f"{ACCOUNT}:"), value)
                if not first_sign_in.patched(self.store, self.traits, user, mine, now):
                    self._patch_user(user, op, path, value)
            first_sign_in.opened(self.store, user, now)
            self.store.put("users", user)
        finally:
            self.store.commit()
        return reply(self.render_user(user), version=user["version"])

    def _patch_user(self, user: dict[str, Any], op: str, path: str, value: Any) -> None:  # noqa: C901, PLR0912, PLR0915 - a case for each path of the patch
        effect = self.store.effect
        if not path and isinstance(value, dict):
            for name, inner in value.items():
                self._patch_user(user, op, name, inner)
            return
        name = path.removeprefix(f"{ACCOUNT}:").removeprefix(f"{USER}:")
        if name == "roles":
            self._must_be_a_level(value)
        last = name.rpartition(":")[2].rpartition(".")[2]
        if who.too_long(self.traits.limits, last, value):
            raise ScimProblem(400, f"{last} is too long.", "invalidValue")
        ends = (
            "sessions",
            "apiKeys",
            "recovery",
            *(["waysIn"] if self.traits.archive else []),
            *(["devices"] if self.traits.devices else []),
        )
        if name in ends and op == "remove" and self.extended:
            if user.get(name):
                effect(f"{name}.ended", user["id"], str(len(user[name])))
            user[name] = []
        elif name == "active" and op != "remove":
            if not isinstance(value, bool):
                raise ScimProblem(400, "active is a boolean.", "invalidValue")
            if user["active"] is not value:
                user["active"] = value
                effect("user.resumed" if value else "user.suspended", user["id"])
        elif name == "archived" and op != "remove" and self.traits.archive:
            if user.get("archived", False) is not bool(value):
                user["archived"] = bool(value)
                effect("user.archived" if value else "user.reopened", user["id"])
        elif name == "password" and op != "remove":
            user["password"] = str(value)
            effect("password.set", user["id"])
        elif name.startswith("settings.") and name[9:] in self.traits.settings:
            user.setdefault("settings", {})[name[9:]] = str(value or "")
            effect("setting.changed", user["id"], name[9:])
        elif name == "userName" and op != "remove" and not self.traits.renames:
            raise ScimProblem(400, "userName cannot be changed.", "mutability")
        elif name == "userName" and op != "remove":
            taken = self.store.by_name.get(str(value).lower())
            if taken not in (None, user["id"]):
                raise ScimProblem(409, f"userName {value} is taken.", "uniqueness")
            if user["userName"] != value:
                self.store.by_name.pop(user["userName"].lower(), None)
                user["userName"] = str(value)
                effect("user.renamed", user["id"], str(value))
        elif name == "emails":
            user["mail"] = next((e.get("value", "") for e in value or []), "")
            effect("user.changed", user["id"], name)
        elif name in ("displayName", "externalId") and op != "remove":
            user[name] = str(value)
            effect("user.changed", user["id"], name)
        elif name == f"{ENTERPRISE}:employeeNumber":
            user["employeeNumber"] = str(value or "")
            effect("user.changed", user["id"], name)
        elif who.patched(user.setdefault("more", {}), op, name, value):
            effect("user.changed", user["id"], name)
        else:
            raise ScimProblem(400, f"{path} cannot be changed so.", "invalidPath")

    async def delete_user(self, request: web.Request) -> web.Response:
        now = await self.clock.now()  # before the transaction, which must not be interrupted
        user = self.find("users", request.match_info["id"])
        self.store.begin()
        try:
            user["active"] = False
            first_sign_in.opened(self.store, user, now)
            if self.recoverable:
                self.store.delete(
                    user, now, self.traits.window_days, seats_stay=self.traits.seats_stay
                )
            else:
                self.store.strip(user)
                self.store.drop("users", user["id"])
                self.store.effect("user.purged", user["id"], user["userName"])
        finally:
            self.store.commit()
        return web.Response(status=204)

    # --- licenses, seats, items --------------------------------------------------------------

    async def list_licenses(self, request: web.Request) -> web.Response:
        def render(doc: dict[str, Any]) -> dict[str, Any]:
            return {
                "schemas": [OURS + "License"],
                "id": doc["id"],
                "name": doc["name"],
                "bought": doc["bought"],
                "held": self.store.held(doc["name"]),
            }

        return self.listed(request, list(self.store.docs["licenses"].values()), render, "")

    def render_seat(self, seat: dict[str, Any]) -> dict[str, Any]:
        return {
            "schemas": [OURS + "Seat"],
            "id": seat["id"],
            "license": seat["license"],
            "user": {"value": seat["user"]},
        }

    async def list_seats(self, request: web.Request) -> web.Response:
        text = request.query.get("filter", "")
        return self.listed(request, list(self.store.docs["seats"].values()), self.render_seat, text)

    async def create_seat(self, request: web.Request) -> web.Response:
        body = await json_of(request)
        license, user = str(body.get("license")), str(body.get("user", {}).get("value", ""))
        self.find("users", user)
        bought = {d["name"]: d["bought"] for d in self.store.docs["licenses"].values()}
        if license not in bought:
            raise ScimProblem(400, f"There is no license {license}.", "invalidValue")
        mine = self.store.seats_of.get(user, set())
        if any(self.store.docs["seats"][s]["license"] == license for s in mine):
            raise ScimProblem(409, "The user has such a seat already.", "uniqueness")
        if self.store.held(license) >= bought[license]:
            raise ScimProblem(409, f"No seat of {license} is free.", "tooMany")
        return reply(self.render_seat(self.store.take_seat(license, user)), 201)

    async def delete_seat(self, request: web.Request) -> web.Response:
        self.find("seats", request.match_info["id"])
        self.store.free_seat(request.match_info["id"])
        return web.Response(status=204)

    def render_item(self, item: dict[str, Any]) -> dict[str, Any]:
        return {
            "schemas": [OURS + "OwnedItem"],
            "id": item["id"],
            "kind": item["kind"],
            "name": item["name"],
            **({"copyOf": item["copyOf"]} if "copyOf" in item else {}),
            "owner": {"value": item["owner"]},
            "meta": meta("OwnedItem", f"/OwnedItems/{item['id']}", item["version"]),
        }

    async def list_items(self, request: web.Request) -> web.Response:
        text = request.query.get("filter", "")
        items = self.store.docs["items"]
        if text.startswith('owner.value eq "') and text.count('"') == 2:
            mine = sorted(self.store.items_of.get(text[16:-1], ()))
            return self.listed(request, [items[i] for i in mine], self.render_item, "")
        return self.listed(request, list(items.values()), self.render_item, text)

    async def get_item(self, request: web.Request) -> web.Response:
        item = self.find("items", request.match_info["id"])
        return reply(self.render_item(item), version=item["version"])

    async def copy_item(self, request: web.Request) -> web.Response:
        body = await json_of(request)
        item = self.find("items", str(body.get("copyOf")))
        owner = str(body.get("owner", {}).get("value", ""))
        self.find("users", owner)
        if any(
            self.store.docs["items"][i].get("copyOf") == item["id"]
            for i in self.store.items_of.get(owner, ())
        ):
            raise ScimProblem(409, "The user has such a copy already.", "uniqueness")
        made = self.store.copy_item(item, owner)
        return reply(self.render_item(made), 201, version=made["version"])

    async def patch_item(self, request: web.Request) -> web.Response:
        item = self.find("items", request.match_info["id"])
        check_match(request, item)
        for op, path, value in operations(await json_of(request)):
            if op != "replace" or path != "owner":
                raise ScimProblem(400, "Only the owner can be replaced.", "mutability")
            self.find("users", value["value"])
            self.store.move_item(item, value["value"])
            if item["kind"] == "group":
                group = self.find("groups", item["id"])
                group["owner"] = value["value"]
                self.store.put_group(group)
        return reply(self.render_item(item), version=item["version"])

    # --- deleted users -----------------------------------------------------------------------

    def render_deleted(self, gone: dict[str, Any]) -> dict[str, Any]:
        more, work = who.rendered(gone.get("more") or {})
        if mail := gone.get("mail"):
            more["emails"] = [{"value": mail, "type": "work", "primary": True}]
        if number := gone.get("employeeNumber"):
            work = {"employeeNumber": number, **work}
        return {
            "schemas": [OURS + "DeletedUser"],
            **more,
            **({ENTERPRISE: work} if work else {}),
            **({ACCOUNT: to_do} if (to_do := first_sign_in.shown(self.traits, gone)) else {}),
            **{
                k: gone.get(k, "")
                for k in (
                    "id",
                    "userName",
                    "displayName",
                    "externalId",
                    "employeeNumber",
                    "deletedAt",
                    "recoverableUntil",
                )
            },
        }

    async def list_deleted(self, request: web.Request) -> web.Response:
        self.store.purge_over(await self.clock.now())
        text = request.query.get("filter", "")
        return self.listed(
            request, list(self.store.docs["deleted"].values()), self.render_deleted, text
        )

    async def get_deleted(self, request: web.Request) -> web.Response:
        self.store.purge_over(await self.clock.now())
        return reply(self.render_deleted(self.find("deleted", request.match_info["id"])))

    async def patch_deleted(self, request: web.Request) -> web.Response:
        self.store.purge_over(await self.clock.now())
        gone = self.find("deleted", request.match_info["id"])
        asked = operations(await json_of(request))
        if [(op, path, value) for op, path, value in asked] != [("replace", "restore", True)]:
            raise ScimProblem(400, "Replace restore with true.", "invalidPath")
        if gone["userName"].lower() in self.store.by_name:
            raise ScimProblem(409, f"userName {gone['userName']} is taken.", "uniqueness")
        user = self.store.restore(
            gone, seats=self.traits.seats_return, settings=self.traits.settings_return
        )
        return reply(self.render_user(user), version=user["version"])

    async def delete_deleted(self, request: web.Request) -> web.Response:
        self.find("deleted", request.match_info["id"])
        self.store.purge(request.match_info["id"])
        return web.Response(status=204)
