"""The SCIM connector: capabilities by discovery, accounts as Users, entitlements as Groups.

Seats, owned items, sessions, keys and recoverable deletion exist only where the application
offers our extension; elsewhere its capabilities lack them and plans fall back.
"""

from __future__ import annotations

import asyncio
import secrets
from collections.abc import AsyncIterator, Collection, Mapping, Sequence
from datetime import datetime
from functools import partial
from typing import Any

from yugum.connectors.scim.attributes import shapes
from yugum.connectors.scim.discovery import offers
from yugum.connectors.scim.groups import SHAPES, ScimGroups, seen
from yugum.connectors.scim.http import ClientCredentials, ScimHttp, at, quoted
from yugum.connectors.scim.members import Members
from yugum.connectors.scim.owned import Owned
from yugum.connectors.scim.resources import (
    MARKED,
    PARKED,
    asset,
    deleted,
    new_user,
    readable,
    same,
    understood,
)
from yugum.connectors.scim.settings import ScimSettings
from yugum.connectors.scim.words import ACCOUNT, first_sign_in, replacing, seat_of
from yugum.connectors.scim.writer import Writer
from yugum.core.accounts import AccountKind, Asset, Observed, Unreadable
from yugum.core.actions import NOTHING_DONE, Action, Arguments, Done
from yugum.core.applications import Capability
from yugum.core.mentions import Mention
from yugum.errors import ApplicationRejected, CannotDo
from yugum.ports.connectors import AccountRef, ConnectorSpec, Discovery


def connect(spec: ConnectorSpec) -> ScimConnector:
    """The connector's entry point; ``spec.secret`` is a bearer token.

    With the options ``token_url`` and ``client_id`` it is a client secret (RFC 6749 4.4).
    """
    credentials = None
    if "token_url" in spec.options:
        credentials = ClientCredentials(**spec.options)
    return ScimConnector(
        spec.name,
        spec.url,
        spec.secret,
        timeout=spec.timeout,
        connections=spec.connections,
        credentials=credentials,
    )


class ScimConnector(Writer):
    """Speaks SCIM 2.0 to one application."""

    def __init__(
        self,
        name: str,
        url: str,
        token: str,
        *,
        timeout: float = 8.0,
        connections: int = 16,
        credentials: ClientCredentials | None = None,
    ) -> None:
        self.call_timeout = timeout
        super().__init__(
            name,
            ScimHttp(
                name, url, token, timeout=timeout, connections=connections, credentials=credentials
            ),
        )
        self._members = Members(self._http)
        self._own_groups = ScimGroups(name, self._http)
        self._owned = Owned(name, self._http, self._found)
        self._settings = ScimSettings(name, self._http)
        self.mention = self._settings.mention
        self._filters = True
        self._groups: dict[str, str] = {}
        self._capabilities: frozenset[Capability] | None = None
        self._discovering = asyncio.Lock()

    async def close(self) -> None:
        await self._http.close()

    async def discover(self) -> Discovery:
        """Capabilities from /ServiceProviderConfig, /ResourceTypes and /Schemas (RFC 7643 5, 6, 7)."""
        config = (await self._http.send("GET", "/ServiceProviderConfig")).body
        types = (await self._http.send("GET", "/ResourceTypes")).body
        listed = types.get("Resources", types if isinstance(types, list) else [])
        self._patches = bool(config.get("patch", {}).get("supported"))
        self._filters = bool(config.get("filter", {}).get("supported", True))
        self._http.by_cursor = bool(config.get("pagination", {}).get("cursor"))
        schemas = await self._http.send("GET", "/Schemas", allow=(403, 404, 501))
        found = offers(config, listed, schemas.body)
        if Capability.ENTITLEMENTS in found:
            await self._members.learn()
        self._capabilities = found
        licenses: dict[str, int] = {}
        if Capability.SEATS in found:
            async for page in self._http.listed("/Licenses"):
                licenses |= {r["name"]: int(r["bought"]) for r in page}
        of_groups = SHAPES if Capability.GROUPS in found else {}
        return Discovery(found, licenses, shapes(schemas.body), of_groups)

    async def _known(self) -> None:
        await self._can(Capability.SUSPEND)

    async def _can(self, capability: Capability) -> bool:
        if self._capabilities is None:
            async with self._discovering:  # many lanes ask at once, the application is asked once
                if self._capabilities is None:
                    await self.discover()
        assert self._capabilities is not None
        return capability in self._capabilities

    async def read(
        self, since: datetime | None = None
    ) -> AsyncIterator[Sequence[Observed | Unreadable]]:
        await self._can(Capability.SUSPEND)
        changed = ""
        if since is not None and self._filters:
            changed = f'meta.lastModified gt "{since.isoformat()}"'
        owned: dict[str, list[Asset]] = {}
        has_assets = await self._can(Capability.ASSETS)
        if has_assets:
            async for page in self._http.listed("/OwnedItems"):
                for item in page:
                    owned.setdefault(item["owner"]["value"], []).append(asset(item))
        groups: Mapping[str, set[str]] = {}
        if await self._can(Capability.ENTITLEMENTS):
            groups = await self._members.everybody()
        async for page in self._http.listed("/Users", changed):
            yield [
                readable(
                    u,
                    owned.get(u.get("id", ""), []) if has_assets else None,
                    groups.get(str(u.get("id")), ()),
                    self._members.names,
                )
                for u in page
            ]
        if await self._can(Capability.RESTORE):
            async for page in self._http.listed("/DeletedUsers"):
                yield [understood(u, partial(deleted, u)) for u in page]
        if await self._can(Capability.GROUPS):
            async for page in self._http.listed("/Groups?excludedAttributes=members"):
                yield [understood(g, partial(seen, g), "displayName") for g in page]

    async def entitlements(self) -> Collection[str]:
        """The groups, without their members (RFC 7644 3.9)."""
        pages = self._http.listed("/Groups?excludedAttributes=members")
        return [str(group["displayName"]) async for page in pages for group in page]

    async def mentions(self, names: Collection[str] = ()) -> AsyncIterator[Sequence[Mention]]:
        """Places with text in them, of our extension; by filter (RFC 7644 3.4.2.2, co) where there are some."""
        await self._can(Capability.MENTIONS)
        async for page in self._settings.listed(names if self._filters else ()):
            yield page

    async def observe(self, ref: AccountRef, *, assets: bool = False) -> Observed | None:
        if ref.kind is AccountKind.GROUP:
            return await self._own_groups.observe(ref)
        user = await self._user(ref)
        if user is None:
            return await self._gone(ref)
        owned = None
        if assets and await self._can(Capability.ASSETS):
            owned = [
                asset(i) async for i in self._found("/OwnedItems", ("owner", "value"), user["id"])
            ]
        groups: set[str] = set()
        if await self._can(Capability.ENTITLEMENTS):
            groups = await self._members.of(str(user["id"]))
        shown = readable(user, owned, groups, self._members.names)
        if isinstance(shown, Unreadable):
            raise ApplicationRejected(f"The record of {shown.login or ref.login} {shown.reason}.")
        return shown

    async def _user(self, ref: AccountRef) -> dict[str, Any] | None:
        if ref.external_id:
            reply = await self._http.send("GET", at("Users", ref.external_id), allow=(404,))
            return None if reply.status == 404 else reply.body
        for name, value in (("externalId", ref.account_id), ("userName", ref.login)):
            async for user in self._found("/Users", (name,), value):
                return user
        return None

    async def _found(
        self, path: str, attribute: tuple[str, ...], value: str
    ) -> AsyncIterator[dict[str, Any]]:
        """Resources with a value, by filter, or by a scan where there are no filters."""
        await self._can(Capability.SUSPEND)  # whether filters are offered comes from discovery
        condition = f"{'.'.join(attribute)} eq {quoted(value)}" if self._filters else ""
        async for page in self._http.listed(path, condition):
            for resource in page:
                shown: Any = resource
                for name in attribute:
                    shown = shown.get(name, {}) if isinstance(shown, dict) else {}
                if shown == value or (attribute == ("userName",) and same(shown, value)):
                    yield resource

    async def _gone(self, ref: AccountRef) -> Observed | None:
        if not ref.external_id or not await self._can(Capability.RESTORE):
            return None
        reply = await self._http.send("GET", at("DeletedUsers", ref.external_id), allow=(404,))
        return None if reply.status == 404 else deleted(reply.body)

    async def act(
        self,
        action: Action,
        ref: AccountRef,
        item: str,
        arguments: Arguments,
        secret: str = "",
    ) -> Done:
        if ref.kind is AccountKind.GROUP:
            self._groups.clear()
            return await self._own_groups.act(action, ref, item, arguments)
        if action is Action.REDIRECT:
            return await self._settings.redirect(arguments)
        if action is Action.REPLACE_KEY:
            return await self._settings.replace_key(arguments, secret)
        return await self._act(action, ref, item, arguments, secret)

    async def _act(  # noqa: C901, PLR0912 - a case for each action
        self, action: Action, ref: AccountRef, item: str, arguments: Arguments, secret: str
    ) -> Done:
        user = at("Users", ref.external_id)
        match action:
            case Action.CREATE:
                return await self._create(ref, arguments)
            case Action.CUT_OFF:
                ways = ("sessions",) if arguments.keys_kept else ("sessions", "apiKeys")
                return await self._shut(user, {"active": False}, *ways)
            case Action.LOCK:  # still active, so that it takes mail
                secret = secrets.token_urlsafe(32)
                more = ("sessions", "apiKeys", "recovery")
                return await self._shut(user, {"password": secret}, *more)
            case Action.END_DEVICES:
                await self._patch(user, [{"op": "remove", "path": f"{ACCOUNT}:devices"}])
            case Action.RESUME:
                await self._change(user, {"active": True})
            case Action.SET_CREDENTIAL if not arguments.must_change:
                await self._change(user, {"password": secret})
            case Action.SET_CREDENTIAL | Action.INVITE | Action.REQUIRE:
                await self._patch(user, first_sign_in(action, item, arguments, secret))
            case Action.SET:
                await self._patch(user, [replacing(f"{ACCOUNT}:settings.{item}", arguments.value)])
            case Action.UPDATE:
                await self._update(user, item, arguments.value)
            case Action.GRANT | Action.REVOKE:
                await self._member(item, ref.external_id, joins=action is Action.GRANT)
            case Action.TAKE_SEAT:
                await self._http.send("POST", "/Seats", seat_of(item, ref.external_id))
            case Action.FREE_SEAT:
                return await self._free_seat(ref, item)
            case Action.TRANSFER | Action.COPY:
                return await self._owned.act(action, ref, item, arguments)
            case Action.PARK:
                await self._park(user, arguments.until)
                return Done(until=arguments.until)
            case Action.ARCHIVE | Action.REOPEN:
                archived = replacing(f"{ACCOUNT}:archived", action is Action.ARCHIVE)
                await self._patch(user, [replacing("active", False), archived])
            case Action.RENAME:
                await self._rename(user, item, arguments)
            case Action.DELETE:
                await self._http.send("DELETE", user, allow=(404,))
            case Action.RESTORE:
                await self._restore(ref)
            case Action.PURGE:
                await self._purge(ref)
            case _:
                raise CannotDo(f"{self._name} cannot {action.value.replace('_', ' ')}.")
        return NOTHING_DONE

    async def _member(self, name: str, user: str, *, joins: bool) -> None:
        await self._can(Capability.SUSPEND)
        group = await self._group(name)
        member = [{"value": user}]
        ways = [{"op": "add", "path": "members", "value": member}]
        if not joins:
            ways = [{"op": "remove", "path": f"members[value eq {quoted(user)}]"}]
            ways.append(
                {"op": "remove", "path": "members", "value": member}
            )  # where no filter is known
        for operation in ways:
            if await self._patched(group, [operation]):
                return

        def edit(found: Mapping[str, Any]) -> Mapping[str, Any]:
            members = [m for m in found.get("members") or [] if str(m["value"]) != user]
            return {"members": [*members, {"value": user}] if joins else members}

        await self._rewrite(group, edit)

    async def _create(self, ref: AccountRef, arguments: Arguments) -> Done:
        body = new_user(ref.account_id, arguments)
        reply = await self._http.send("POST", "/Users", body, allow=(409,))
        if reply.status == 409:
            raise ApplicationRejected(
                f"{self._name} has an account {arguments.login} already that is not ours.",
                remedy="Link that account to the person, or choose another login.",
            )
        made = reply.body
        if not made.get("id"):  # RFC 7644 3.3: the representation may be left out
            found = await self._user(AccountRef(ref.account_id, "", arguments.login))
            made = found or {}
        return Done(external_id=str(made["id"]), login=made.get("userName", arguments.login))

    async def _rename(self, user: str, login: str, arguments: Arguments) -> None:
        values: dict[str, Any] = {"userName": login}
        if name := arguments.display_name:
            values["displayName"] = name
        if mail := arguments.mail:
            values["emails"] = [{"value": mail, "primary": True}]
        try:
            await self._change(user, values)
        except ApplicationRejected as error:
            if "409" in error.message or "uniqueness" in error.message:
                raise ApplicationRejected(
                    f"{self._name} has an account {login} already.", remedy="Choose another login."
                ) from error
            raise

    async def _shut(self, user: str, values: Mapping[str, Any], *ways: str) -> Done:
        """Change a user and end ways in, in one call."""
        ends = ways if await self._can(Capability.SESSIONS) else ()
        if not self._patches:

            def edit(found: Mapping[str, Any]) -> Mapping[str, Any]:
                more = {**found.get(ACCOUNT, {}), **{way: [] for way in ends}}
                return {**values, **({ACCOUNT: more} if ends else {})}

            await self._rewrite(user, edit)
        else:
            archives = ends and "apiKeys" in ends and await self._can(Capability.ARCHIVE)
            ends = (*ends, "waysIn") if archives else ends
            operations = [replacing(name, value) for name, value in values.items()]
            operations += [{"op": "remove", "path": f"{ACCOUNT}:{way}"} for way in ends]
            await self._patch(user, operations)
        return Done(suspended="active" in values, password_replaced="password" in values)

    async def _group(self, name: str) -> str:
        if name not in self._groups:
            path = "/Groups?excludedAttributes=members"
            async for group in self._found(path, ("displayName",), name):
                self._groups[group["displayName"]] = group["id"]
        if name not in self._groups:
            raise ApplicationRejected(
                f"{self._name} has no group {name}.",
                remedy="Create it there, or correct the role that gives it.",
            )
        return at("Groups", self._groups[name])

    async def _free_seat(self, ref: AccountRef, item: str) -> Done:
        mine = self._found("/Seats", ("user", "value"), ref.external_id)
        for seat in [s async for s in mine if s["license"] == item]:
            await self._http.send("DELETE", at("Seats", seat["id"]), allow=(404,))
        return Done(license=item)

    async def _restore(self, ref: AccountRef) -> None:
        if not await self._can(Capability.RESTORE):  # then it can only have been parked
            found = await self._http.send("GET", at("Users", ref.external_id))
            marked = {n: v for n in MARKED if PARKED.search(v := str(found.body.get(n) or ""))}
            values = {n: PARKED.sub("", v) for n, v in marked.items()}
            await self._change(at("Users", ref.external_id), values or {"active": False})
            return
        await self._patch(at("DeletedUsers", ref.external_id), [replacing("restore", True)])

    async def _purge(self, ref: AccountRef) -> None:
        path = at("DeletedUsers", ref.external_id)
        if not await self._can(Capability.RESTORE):
            path = at("Users", ref.external_id)
        await self._http.send("DELETE", path, allow=(404,))
