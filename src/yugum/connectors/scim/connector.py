"""The SCIM connector: capabilities by discovery, accounts as Users, entitlements as Groups.

Seats, owned items, sessions, keys and recoverable deletion exist only where the application
offers our extension; elsewhere its capabilities lack them and plans fall back.
"""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator, Mapping, Sequence
from datetime import datetime
from typing import Any

from yugum.connectors.scim.http import ScimHttp, quoted
from yugum.core.accounts import AccountState, Asset, Observed
from yugum.core.actions import Action
from yugum.core.applications import Capability
from yugum.errors import ApplicationRejected, CannotDo
from yugum.ports import AccountRef, ConnectorSpec, Discovery

USER = "urn:ietf:params:scim:schemas:core:2.0:User"
ENTERPRISE = "urn:ietf:params:scim:schemas:extension:enterprise:2.0:User"
PATCH = "urn:ietf:params:scim:api:messages:2.0:PatchOp"
ACCOUNT = "urn:yugum:scim:schemas:1.0:Account"

BASE = {Capability.SUSPEND, Capability.DELETE, Capability.PURGE, Capability.CREDENTIAL}


def connect(spec: ConnectorSpec) -> ScimConnector:
    """The connector's entry point; ``spec.secret`` is a bearer token."""
    return ScimConnector(
        spec.name, spec.url, spec.secret, timeout=spec.timeout, connections=spec.connections
    )


class ScimConnector:
    """Speaks SCIM 2.0 to one application."""

    def __init__(
        self, name: str, url: str, token: str, *, timeout: float = 8.0, connections: int = 16
    ) -> None:
        self.call_timeout = timeout
        self._http = ScimHttp(name, url, token, timeout=timeout, connections=connections)
        self._name = name
        self._groups: dict[str, str] = {}
        self._capabilities: frozenset[Capability] | None = None
        self._discovering = asyncio.Lock()

    async def close(self) -> None:
        await self._http.close()

    async def discover(self) -> Discovery:
        """Capabilities from /ServiceProviderConfig and /ResourceTypes (RFC 7643 5, 6)."""
        config = (await self._http.send("GET", "/ServiceProviderConfig")).body
        types = (await self._http.send("GET", "/ResourceTypes")).body
        listed = types.get("Resources", types if isinstance(types, list) else [])
        names = {r["name"] for r in listed}
        extensions = {
            e["schema"]
            for r in listed
            if r["name"] == "User"
            for e in r.get("schemaExtensions", [])
        }
        found = set(BASE)
        if not config.get("patch", {}).get("supported"):
            raise CannotDo(f"{self._name} does not support PATCH, which this connector needs.")
        if not config.get("changePassword", {}).get("supported", True):
            found.discard(Capability.CREDENTIAL)
        if "Group" in names:
            found.add(Capability.ENTITLEMENTS)
        if "Seat" in names:
            found.add(Capability.SEATS)
        if "OwnedItem" in names:
            found.add(Capability.ASSETS)
        if "DeletedUser" in names:
            found.add(Capability.RESTORE)
        if ACCOUNT in extensions:
            found |= {Capability.SESSIONS, Capability.KEYS}
        self._capabilities = frozenset(found)
        licenses: dict[str, int] = {}
        if Capability.SEATS in found:
            async for page in self._http.listed("/Licenses"):
                licenses |= {r["name"]: int(r["bought"]) for r in page}
        return Discovery(self._capabilities, licenses)

    async def _can(self, capability: Capability) -> bool:
        if self._capabilities is None:
            async with self._discovering:  # many lanes ask at once, the application is asked once
                if self._capabilities is None:
                    await self.discover()
        assert self._capabilities is not None
        return capability in self._capabilities

    async def read(self) -> AsyncIterator[Sequence[Observed]]:
        owned: dict[str, list[Asset]] = {}
        has_assets = await self._can(Capability.ASSETS)
        if has_assets:
            async for page in self._http.listed("/OwnedItems"):
                for item in page:
                    owned.setdefault(item["owner"]["value"], []).append(_asset(item))
        async for page in self._http.listed("/Users"):
            yield [_observed(u, owned.get(u["id"], []) if has_assets else None) for u in page]
        if await self._can(Capability.RESTORE):
            async for page in self._http.listed("/DeletedUsers"):
                yield [_deleted(u) for u in page]

    async def observe(self, ref: AccountRef, *, assets: bool = False) -> Observed | None:
        user = await self._user(ref)
        if user is None:
            return await self._gone(ref)
        owned = None
        if assets and await self._can(Capability.ASSETS):
            condition = f"owner.value eq {quoted(user['id'])}"
            owned = [
                _asset(i)
                async for page in self._http.listed("/OwnedItems", condition)
                for i in page
            ]
        return _observed(user, owned)

    async def _user(self, ref: AccountRef) -> dict[str, Any] | None:
        if ref.external_id:
            reply = await self._http.send("GET", f"/Users/{ref.external_id}", allow=(404,))
            return None if reply.status == 404 else reply.body
        for condition in (
            f"externalId eq {quoted(ref.account_id)}",
            f"userName eq {quoted(ref.login)}",
        ):
            async for page in self._http.listed("/Users", condition):
                return page[0]
        return None

    async def _gone(self, ref: AccountRef) -> Observed | None:
        if not ref.external_id or not await self._can(Capability.RESTORE):
            return None
        reply = await self._http.send("GET", f"/DeletedUsers/{ref.external_id}", allow=(404,))
        return None if reply.status == 404 else _deleted(reply.body)

    async def act(
        self,
        action: Action,
        ref: AccountRef,
        item: str,
        arguments: Mapping[str, Any],
        secret: str = "",
    ) -> Mapping[str, Any]:
        user = f"/Users/{ref.external_id}"
        match action:
            case Action.CREATE:
                return await self._create(ref, arguments)
            case Action.CUT_OFF:
                return await self._cut_off(user)
            case Action.RESUME:
                await self._patch(user, [_replace("active", True)])
            case Action.SET_CREDENTIAL:
                await self._patch(user, [_replace("password", secret)])
            case Action.GRANT:
                value = [{"value": ref.external_id}]
                operation = {"op": "add", "path": "members", "value": value}
                await self._patch(await self._group(item), [operation])
            case Action.REVOKE:
                path = f"members[value eq {quoted(ref.external_id)}]"
                await self._patch(await self._group(item), [{"op": "remove", "path": path}])
            case Action.TAKE_SEAT:
                body = {"license": item, "user": {"value": ref.external_id}}
                await self._http.send("POST", "/Seats", body)
            case Action.FREE_SEAT:
                return await self._free_seat(ref, item)
            case Action.TRANSFER:
                return await self._transfer(ref, item, arguments)
            case Action.DELETE:
                await self._http.send("DELETE", user, allow=(404,))
            case Action.RESTORE:
                await self._restore(ref)
            case Action.PURGE:
                await self._purge(ref)
            case _:
                raise CannotDo(f"{self._name} cannot {action.value.replace('_', ' ')}.")
        return {}

    async def _patch(self, path: str, operations: list[dict[str, Any]], etag: str = "") -> None:
        await self._http.send(
            "PATCH", path, {"schemas": [PATCH], "Operations": operations}, etag=etag
        )

    async def _create(self, ref: AccountRef, arguments: Mapping[str, Any]) -> Mapping[str, Any]:
        body = {
            "schemas": [USER],
            "userName": arguments["login"],
            "displayName": arguments["display_name"],
            "externalId": ref.account_id,
            "active": True,
        }
        if number := arguments.get("employee_number"):
            body["schemas"].append(ENTERPRISE)
            body[ENTERPRISE] = {"employeeNumber": number}
        reply = await self._http.send("POST", "/Users", body, allow=(409,))
        if reply.status == 409:
            raise ApplicationRejected(
                f"{self._name} has an account {arguments['login']} already that is not ours.",
                remedy="Link that account to the person, or choose another login.",
            )
        return {"external_id": reply.body["id"], "login": reply.body["userName"]}

    async def _cut_off(self, user: str) -> Mapping[str, Any]:
        operations = [_replace("active", False)]
        if await self._can(Capability.SESSIONS):
            operations += [
                {"op": "remove", "path": f"{ACCOUNT}:sessions"},
                {"op": "remove", "path": f"{ACCOUNT}:apiKeys"},
            ]
        await self._patch(user, operations)
        return {"suspended": True, "ways_in_ended": len(operations) > 1}

    async def _group(self, name: str) -> str:
        if name not in self._groups:
            condition = f"displayName eq {quoted(name)}"
            async for page in self._http.listed("/Groups?excludedAttributes=members", condition):
                self._groups |= {g["displayName"]: g["id"] for g in page}
        if name not in self._groups:
            raise ApplicationRejected(
                f"{self._name} has no group {name}.",
                remedy="Create it there, or correct the role that gives it.",
            )
        return f"/Groups/{self._groups[name]}"

    async def _free_seat(self, ref: AccountRef, item: str) -> Mapping[str, Any]:
        condition = f"user.value eq {quoted(ref.external_id)}"
        async for page in self._http.listed("/Seats", condition):
            for seat in page:
                if seat["license"] == item:
                    await self._http.send("DELETE", f"/Seats/{seat['id']}", allow=(404,))
        return {"license": item}

    async def _transfer(
        self, ref: AccountRef, kind: str, arguments: Mapping[str, Any]
    ) -> Mapping[str, Any]:
        source = arguments.get("from_external_id") or ref.external_id
        target = arguments["to_external_id"] or ref.external_id
        only = arguments.get("only")
        moved = []
        condition = f"owner.value eq {quoted(source)}"
        found = [i async for page in self._http.listed("/OwnedItems", condition) for i in page]
        for item in found:
            if item["kind"] != kind or (only is not None and item["id"] not in only):
                continue
            operation = {"op": "replace", "path": "owner", "value": {"value": target}}
            etag = item.get("meta", {}).get("version", "")
            await self._patch(f"/OwnedItems/{item['id']}", [operation], etag)
            moved.append({"external_id": item["id"], "kind": kind, "name": item["name"]})
        return {"assets": moved, "to": arguments["to_name"]}

    async def _restore(self, ref: AccountRef) -> None:
        if not await self._can(Capability.RESTORE):
            raise CannotDo(f"{self._name} cannot restore what was deleted.")
        await self._patch(f"/DeletedUsers/{ref.external_id}", [_replace("restore", True)])

    async def _purge(self, ref: AccountRef) -> None:
        path = f"/DeletedUsers/{ref.external_id}"
        if not await self._can(Capability.RESTORE):
            path = f"/Users/{ref.external_id}"
        await self._http.send("DELETE", path, allow=(404,))


def _replace(path: str, value: object) -> dict[str, Any]:
    return {"op": "replace", "path": path, "value": value}


def _observed(user: Mapping[str, Any], assets: list[Asset] | None) -> Observed:
    more = user.get(ACCOUNT, {})
    return Observed(
        external_id=user["id"],
        login=user["userName"],
        state=AccountState.ACTIVE if user.get("active", True) else AccountState.SUSPENDED,
        entitlements=frozenset(g["display"] for g in user.get("groups", ()) if g.get("display")),
        seats=frozenset(s["license"] for s in more.get("seats", ())),
        sessions=len(more.get("sessions", ())),
        keys=len(more.get("apiKeys", ())),
        correlation=user.get("externalId", ""),
        assets=None if assets is None else tuple(assets),
        display_name=user.get("displayName", ""),
        employee_number=user.get(ENTERPRISE, {}).get("employeeNumber", ""),
        named=more.get("kind", "person") == "person",
    )


def _deleted(user: Mapping[str, Any]) -> Observed:
    return Observed(
        external_id=user["id"],
        login=user["userName"],
        state=AccountState.DELETED,
        recoverable_until=datetime.fromisoformat(user["recoverableUntil"]),
        correlation=user.get("externalId", ""),
        display_name=user.get("displayName", ""),
        employee_number=user.get("employeeNumber", ""),
    )


def _asset(item: Mapping[str, Any]) -> Asset:
    return Asset(item["kind"], item["id"], item["name"], item.get("container", ""))
