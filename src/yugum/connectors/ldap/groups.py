"""Groups of names (RFC 4519 3.5): who is in which, and what they are themselves.

A group that is retired is moved to the leavers' container and marked there until when it can come back.
"""

from __future__ import annotations

from collections.abc import Mapping

import bonsai
from bonsai import LDAPEntry, LDAPModOp, LDAPSearchScope, escape_attribute_value
from bonsai.asyncio import AIOLDAPConnection

from yugum.connectors.ldap.directory import dn_of, modify, move
from yugum.connectors.ldap.entries import parked_until
from yugum.connectors.ldap.layout import Layout, first, rdn_value
from yugum.core.accounts import AccountKind, AccountState, Asset, Observed
from yugum.core.actions import NOTHING_DONE, Action, Arguments, Done
from yugum.core.attributes import Shape
from yugum.core.groups import OWNED_GROUP
from yugum.errors import ApplicationRejected, CannotDo
from yugum.ports.connectors import AccountRef

MARK = "businessCategory"
"""Where a retired group says until when it can come back; nothing else of a group of names is free for it."""
SAID = {"owner_login": Shape(), "description": Shape()}
"""What can be said of a group."""


class Groups:
    def __init__(self, name: str, layout: Layout, timeout: float) -> None:
        self._name = name
        self._layout = layout
        self._timeout = timeout
        self._known: dict[str, str] = {}

    async def dn(self, connection: AIOLDAPConnection, name: str) -> str:
        """Where a group stands.

        Raises:
            ApplicationRejected: there is none of that name.
        """
        if name not in self._known:
            layout = self._layout
            condition = f"(&(objectClass=groupOfNames){layout.named('cn', name)})"
            base = f"{layout.groups},{layout.base}"
            found = await connection.search(base, LDAPSearchScope.SUB, condition, ["1.1"])
            if not found:
                raise ApplicationRejected(
                    f"{self._name} has no group {name}.",
                    remedy="Create it there, or correct the role that gives it.",
                )
            self._known[name] = str(found[0].dn)
        return self._known[name]

    async def read(self, connection: AIOLDAPConnection) -> list[Observed]:
        """Every group, those that are retired among them."""
        return [self._seen(e) for e in await self._found(connection, "")]

    async def owned(self, connection: AIOLDAPConnection, dn: str = "") -> dict[str, list[Asset]]:
        """The groups in use that somebody (everybody, when empty) owns, by the owner's DN in lower case."""
        found: dict[str, list[Asset]] = {}
        for entry in await self._owned(connection, dn):
            found.setdefault(first(entry, "owner").lower(), []).append(self._asset(entry))
        return found

    async def _owned(self, connection: AIOLDAPConnection, dn: str) -> list[LDAPEntry]:
        found = await self._found(
            connection, self._layout.named("owner", dn) if dn else "(owner=*)"
        )
        return [e for e in found if str(e.dn).lower().endswith(self._below)]

    def _asset(self, entry: LDAPEntry) -> Asset:
        key, name = first(entry, "entryUUID"), first(entry, "cn")
        return Asset(OWNED_GROUP, key, name, self._layout.groups)

    async def observe(self, connection: AIOLDAPConnection, ref: AccountRef) -> Observed | None:
        entry = await self._entry(connection, ref)
        return None if entry is None else self._seen(entry)

    async def act(
        self,
        connection: AIOLDAPConnection,
        action: Action,
        ref: AccountRef,
        item: str,
        arguments: Arguments,
    ) -> Done:
        """Carry out one action on a group itself."""
        self._known.clear()
        if action is Action.CREATE:
            return await self._create(connection, ref, arguments)
        entry = await self._entry(connection, ref)
        if entry is None:
            if action is Action.PURGE:
                return NOTHING_DONE
            raise ApplicationRejected(f"{self._name} has no group {ref.login}.")
        layout, name = self._layout, escape_attribute_value(first(entry, "cn"))
        match action:
            case Action.UPDATE if item == "owner_login":
                owner = await self._owner(connection, arguments.value)
                await modify(connection, entry.dn, {"owner": owner}, self._timeout)
            case Action.UPDATE if item == "description":
                said = [arguments.value] if arguments.value else []
                await modify(connection, entry.dn, {"description": said}, self._timeout)
            case Action.RENAME:
                await self._move(
                    connection, entry, f"cn={escape_attribute_value(item)}{self._below}"
                )
                return Done(login=item)
            case Action.PARK:
                mark = [f"parked until {arguments.until}"]
                await modify(connection, entry.dn, {MARK: mark}, self._timeout)
                await self._move(connection, entry, f"cn={name},{layout.container('leavers')}")
                return Done(until=arguments.until)
            case Action.RESTORE:
                await self._move(connection, entry, f"cn={name}{self._below}")
                again = await self._entry(connection, ref)
                if again is not None:
                    await modify(connection, again.dn, {MARK: []}, self._timeout)
            case Action.PURGE:
                await connection.delete(entry.dn, self._timeout)  # type: ignore[no-untyped-call]
            case _:
                raise CannotDo(f"{self._name} cannot {action.value.replace('_', ' ')} a group.")
        return NOTHING_DONE

    async def hand_over(
        self, connection: AIOLDAPConnection, source: str, target: str, arguments: Arguments
    ) -> Done:
        """What somebody owns gets another owner; both are DNs."""
        only, moved = arguments.only, []
        for entry in await self._owned(connection, source):
            asset = self._asset(entry)
            if only is None or asset.external_id in only:
                await modify(connection, entry.dn, {"owner": [target]}, self._timeout)
                moved.append(asset)
        return Done(assets=tuple(moved), to=arguments.to_name)

    @property
    def _below(self) -> str:
        return f",{self._layout.groups},{self._layout.base}".lower()

    async def _found(self, connection: AIOLDAPConnection, condition: str) -> list[LDAPEntry]:
        asked = ["cn", "owner", "description", MARK, "entryUUID"]
        asked += [c for c in [self._layout.correlation] if c]
        return list(
            await connection.search(
                self._layout.base,
                LDAPSearchScope.SUB,
                f"(&(objectClass=groupOfNames){condition})",
                asked,
                timeout=self._timeout,
            )
        )

    async def _entry(self, connection: AIOLDAPConnection, ref: AccountRef) -> LDAPEntry | None:
        layout = self._layout
        condition = layout.named("entryUUID", ref.external_id)
        if not ref.external_id:
            condition = layout.named(layout.correlation or "cn", ref.account_id)
        return next(iter(await self._found(connection, condition)), None)

    async def _create(
        self, connection: AIOLDAPConnection, ref: AccountRef, arguments: Arguments
    ) -> Done:
        layout, said = self._layout, arguments.attributes
        entry = LDAPEntry(
            f"cn={escape_attribute_value(arguments.login)},{layout.groups},{layout.base}"
        )
        entry["objectClass"], entry["cn"] = ["groupOfNames"], [arguments.login]
        entry["member"] = [layout.base]  # a group of names must have a member
        if owner := await self._owner(connection, said.get("owner_login", "")):
            entry["owner"] = owner
        if said.get("description"):
            entry["description"] = [said["description"]]
        if layout.correlation:
            entry["objectClass"].append("yugumPerson")
            entry[layout.correlation] = [ref.account_id]
        condition = f"(&(objectClass=groupOfNames){layout.named('cn', arguments.login)})"
        if await connection.search(layout.base, LDAPSearchScope.SUB, condition, ["1.1"]):
            raise self._taken(arguments.login)
        try:
            await connection.add(entry, timeout=self._timeout)
        except bonsai.AlreadyExists as error:
            raise self._taken(arguments.login) from error
        made = await self._found(connection, layout.named("cn", arguments.login))
        return Done(external_id=first(made[0], "entryUUID"), login=arguments.login)

    async def _move(self, connection: AIOLDAPConnection, entry: LDAPEntry, dn: str) -> None:
        await move(connection, entry, dn, self._timeout, self._taken)

    def _taken(self, name: str) -> ApplicationRejected:
        return ApplicationRejected(
            f"{self._name} has a group {name} already.",
            remedy="Read the application, and change that one; or choose another name.",
        )

    async def _owner(self, connection: AIOLDAPConnection, login: str) -> list[str]:
        return await dn_of(connection, self._layout, self._name, login, "owner")

    def _seen(self, entry: LDAPEntry) -> Observed:
        parked = parked_until(first(entry, MARK))
        settings = {
            "owner_login": rdn_value(first(entry, "owner")),
            "description": first(entry, "description"),
        }
        return Observed(
            external_id=first(entry, "entryUUID"),
            login=first(entry, "cn"),
            state=AccountState.DELETED if parked else AccountState.ACTIVE,
            recoverable_until=parked,
            correlation=first(entry, self._layout.correlation),
            settings={name: value for name, value in settings.items() if value},
            display_name=first(entry, "cn"),
            kind=AccountKind.GROUP,
            assets=(),
        )

    async def join(self, connection: AIOLDAPConnection, entry: LDAPEntry, name: str) -> None:
        group = LDAPEntry(await self.dn(connection, name), connection)
        group.change_attribute("member", LDAPModOp.ADD, str(entry.dn))  # type: ignore[arg-type]
        try:
            await group.modify(timeout=self._timeout)
        except bonsai.TypeOrValueExists:
            return

    async def leave(self, connection: AIOLDAPConnection, entry: LDAPEntry, name: str) -> None:
        dn = await self.dn(connection, name)
        group = LDAPEntry(dn, connection)
        group.change_attribute("member", LDAPModOp.DELETE, str(entry.dn))  # type: ignore[arg-type]
        try:
            await group.modify(timeout=self._timeout)
        except bonsai.NoSuchAttribute:
            return
        except bonsai.ObjectClassViolation:
            # A group of names must have a member: its last one is replaced by the base's own name.
            await modify(connection, dn, {"member": [self._layout.base]}, self._timeout)


def owned_by(entry: LDAPEntry, owned: Mapping[str, list[Asset]]) -> tuple[Asset, ...]:
    """The groups that an entry owns, out of what `Groups.owned` found."""
    return tuple(owned.get(str(entry.dn).lower(), ()))
