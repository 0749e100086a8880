"""The LDAP connector: entries as accounts, groupOfNames as entitlements, TLS, everything escaped.

A directory deletes for good, so accounts are parked: locked, marked, moved to the leavers'
container, and removed when their window is over.
"""

from __future__ import annotations

import secrets
from collections.abc import AsyncIterator, Collection, Mapping, Sequence
from dataclasses import replace
from datetime import datetime

import bonsai
from bonsai import LDAPEntry, LDAPSearchScope
from bonsai.asyncio import AIOLDAPConnection

from yugum.connectors.ldap.directory import Directory, dn_of, modify, move
from yugum.connectors.ldap.entries import group_names, must_reset, observed
from yugum.connectors.ldap.groups import SAID, Groups, owned_by
from yugum.connectors.ldap.layout import (
    CAPABILITIES,
    HOME,
    PERMANENT,
    PERSON,
    Layout,
    first,
    parent,
)
from yugum.connectors.ldap.numbers import Numbers
from yugum.connectors.ldap.pointers import Pointers
from yugum.connectors.ldap.schema import attributes_known
from yugum.core.accounts import AccountKind, Observed, Unreadable
from yugum.core.actions import NOTHING_DONE, Action, Arguments, Done
from yugum.errors import ApplicationRejected, CannotDo
from yugum.ports.connectors import AccountRef, ConnectorSpec, Discovery

PAGE = 500


def connect(spec: ConnectorSpec) -> LdapConnector:
    """The connector's entry point; ``spec.secret`` is the password of ``options.bind``."""
    return LdapConnector(spec, Layout.of(spec.options))


class LdapConnector:
    """Speaks LDAPv3 to one directory, through a few pooled connections."""

    def __init__(self, spec: ConnectorSpec, layout: Layout) -> None:
        self.call_timeout = spec.timeout
        self._name = spec.name
        self._layout = layout
        self._numbers = Numbers(spec, layout)
        self._directory = Directory(
            spec.name,
            spec.url,
            spec.secret,
            layout,
            timeout=spec.timeout,
            connections=min(spec.connections, 16),
        )
        self._connect = self._directory.connect
        self._groups = Groups(spec.name, layout, spec.timeout)
        self._pointers = Pointers(spec.name, layout, self._connect, spec.timeout)
        self.mentions, self.mention = self._pointers.mentions, self._pointers.mention

    async def close(self) -> None:
        await self._directory.close()

    # --- looking -----------------------------------------------------------------------------

    async def discover(self) -> Discovery:
        """Whether the containers are there and the password policy is in force."""
        layout = self._layout
        async with self._connect() as connection:
            for name in ("people", "leavers"):
                await self._must_exist(connection, layout.container(name))
            await self._must_exist(connection, f"{layout.groups},{layout.base}")
            root = await connection.search("", LDAPSearchScope.BASE, attrlist=["supportedControl"])
            controls = {str(c) for r in root for c in r.get("supportedControl", [])}
            known = await attributes_known(connection, layout)
        if "1.3.6.1.4.1.42.2.27.8.5.1" not in controls:
            raise CannotDo(
                f"{self._name} has no password policy, without which nobody can be locked out.",
                remedy="Load the directory server's password policy overlay.",
            )
        return Discovery(CAPABILITIES, attributes=known, groups=SAID)

    async def _must_exist(self, connection: AIOLDAPConnection, dn: str) -> None:
        try:
            found = await connection.search(dn, LDAPSearchScope.BASE, attrlist=["1.1"])
        except bonsai.NoSuchObjectError:
            found = []
        if not found:
            raise ApplicationRejected(
                f"{self._name} has no container {dn}.",
                remedy="Create it, or name the right one in the application's options.",
            )

    async def read(
        self,
        since: datetime | None = None,  # noqa: ARG002 - every account is looked at
    ) -> AsyncIterator[Sequence[Observed | Unreadable]]:
        """Entries by pages (RFC 2696), then groups."""
        async with self._connect() as connection:
            layout = self._layout
            owned = await self._groups.owned(connection)
            result = await connection.paged_search(
                layout.base,
                LDAPSearchScope.SUB,
                layout.accounts,
                layout.attributes,
                page_size=PAGE,
            )
            page: list[Observed | Unreadable] = []
            numbers: set[int] = set()
            async for entry in result:
                numbers |= self._numbers.of(entry)
                page.append(replace(observed(layout, entry), assets=owned_by(entry, owned)))
                if len(page) == PAGE:
                    yield page
                    page = []
            if page:
                yield page
            if groups := await self._groups.read(connection):
                yield groups
        await self._numbers.seen(numbers)

    async def nesting(self) -> Mapping[str, Sequence[str]]:
        """Groups that are members of groups, as the directory's memberOf shows them."""
        layout = self._layout
        base = f"{layout.groups},{layout.base}"
        async with self._connect() as connection:
            found = await connection.search(
                base,
                LDAPSearchScope.SUB,
                "(&(objectClass=groupOfNames)(memberOf=*))",
                ["cn", "memberOf"],
                timeout=self.call_timeout,
            )
        return {first(entry, "cn"): group_names(self._layout, entry) for entry in found}

    async def entitlements(self) -> Collection[str]:
        """The groups below the layout's place for them."""
        layout = self._layout
        async with self._connect() as connection:
            found = await connection.search(
                f"{layout.groups},{layout.base}",
                LDAPSearchScope.SUB,
                "(objectClass=groupOfNames)",
                ["cn"],
                timeout=self.call_timeout,
            )
        return [first(entry, "cn") for entry in found]

    async def observe(self, ref: AccountRef, *, assets: bool = False) -> Observed | None:
        async with self._connect() as connection:
            if ref.kind is AccountKind.GROUP:
                return await self._groups.observe(connection, ref)
            entry = await self._entry(connection, ref)
            if entry is None:
                return None
            owned = await self._groups.owned(connection, str(entry.dn)) if assets else {}
        mine = owned_by(entry, owned) if assets else None
        return replace(observed(self._layout, entry), assets=mine)

    async def _entry(self, connection: AIOLDAPConnection, ref: AccountRef) -> LDAPEntry | None:
        layout = self._layout
        if ref.external_id:
            condition = layout.named("entryUUID", ref.external_id)
        else:
            condition = layout.named(layout.login, ref.login)
            if layout.correlation:
                condition = f"(|{layout.named(layout.correlation, ref.account_id)}{condition})"
        found = await connection.search(
            layout.base,
            LDAPSearchScope.SUB,
            f"(&{layout.accounts}{condition})",
            layout.attributes,
            timeout=self.call_timeout,
        )
        ours = [e for e in found if first(e, layout.correlation) == ref.account_id]
        entry: LDAPEntry | None = next(iter([*ours, *found]), None)
        return entry

    # --- acting ------------------------------------------------------------------------------

    async def act(
        self,
        action: Action,
        ref: AccountRef,
        item: str,
        arguments: Arguments,
        secret: str = "",
    ) -> Done:
        async with self._connect() as connection:
            if ref.kind is AccountKind.GROUP:
                return await self._groups.act(connection, action, ref, item, arguments)
            if action is Action.REDIRECT:
                return await self._pointers.redirect(connection, arguments)
            return await self._act(connection, action, ref, item, arguments, secret)

    async def _act(  # noqa: C901, PLR0912 - a case for each action
        self,
        connection: AIOLDAPConnection,
        action: Action,
        ref: AccountRef,
        item: str,
        arguments: Arguments,
        secret: str,
    ) -> Done:
        layout = self._layout
        if action is Action.CREATE:
            return await self._create(connection, ref, arguments)
        entry = await self._entry(connection, ref)
        if entry is None:
            if action is Action.PURGE:
                return NOTHING_DONE
            raise ApplicationRejected(f"{self._name} has no entry {ref.login}.")
        match action:
            case Action.CUT_OFF:
                # In this order: a new password makes the server lift a lock that was there.
                await self._modify(connection, entry, {"userPassword": [secrets.token_urlsafe(32)]})
                await self._modify(connection, entry, {"pwdAccountLockedTime": [PERMANENT]})
                return Done(suspended=True, password_replaced=True)
            case Action.LOCK:
                await self._modify(connection, entry, {"userPassword": [secrets.token_urlsafe(32)]})
                return Done(password_replaced=True)
            case Action.RESUME:
                await self._modify(connection, entry, {"pwdAccountLockedTime": []})
            case Action.SET_CREDENTIAL:
                await self._password(connection, entry, secret, arguments.must_change)
            case Action.REQUIRE:
                await self._modify(connection, entry, {"pwdReset": must_reset(arguments.value)})
            case Action.TRY_SIGN_IN:
                shut, dn = arguments.closed, str(entry.dn)
                await self._directory.try_as(connection, dn, secret, closed=shut)
                return Done(note="signed in", password_replaced=True)
            case Action.GRANT:
                await self._groups.join(connection, entry, item)
            case Action.REVOKE:
                await self._groups.leave(connection, entry, item)
            case Action.TRANSFER:
                ids = arguments.from_external_id, arguments.to_external_id
                dns = [await self._owner_dn(connection, i, entry) for i in ids]
                return await self._groups.hand_over(connection, dns[0], dns[1], arguments)
            case Action.SET | Action.UPDATE:
                await self._set(connection, entry, item, arguments.value)
            case Action.PARK:
                mark = f"parked until {arguments.until}"
                changes = {"pwdAccountLockedTime": [PERMANENT], layout.mark: [mark]}
                await self._modify(connection, entry, changes)
                return Done(until=arguments.until)
            case Action.RESTORE:
                await self._modify(connection, entry, {layout.mark: []})
            case Action.RENAME:
                return await self._new_name(connection, entry, item, arguments)
            case Action.PURGE:
                await connection.delete(entry.dn, self.call_timeout)  # type: ignore[no-untyped-call]
            case _:
                raise CannotDo(f"{self._name} cannot {action.value.replace('_', ' ')}.")
        return NOTHING_DONE

    async def _password(
        self, connection: AIOLDAPConnection, entry: LDAPEntry, secret: str, must: bool | None
    ) -> None:
        """A new password; whether it has to be changed is else as the server's policy says."""
        await connection.modify_password(entry.dn, new_password=secret, timeout=self.call_timeout)
        if must is not None:
            await self._modify(connection, entry, {"pwdReset": must_reset(must)})

    async def _owner_dn(self, connection: AIOLDAPConnection, key: str, entry: LDAPEntry) -> str:
        """Where the entry of an id stands; of none this one."""
        found = await self._entry(connection, AccountRef("", key, "")) if key else entry
        if found is None:
            raise ApplicationRejected(
                f"{self._name} has no entry {key} any more.", remedy="Name another successor."
            )
        return str(found.dn)

    async def _modify(
        self,
        connection: AIOLDAPConnection,
        entry: LDAPEntry,
        values: Mapping[str, Sequence[str]],
    ) -> None:
        await modify(connection, entry.dn, values, self.call_timeout)

    async def _create(
        self, connection: AIOLDAPConnection, ref: AccountRef, arguments: Arguments
    ) -> Done:
        layout, login = self._layout, arguments.login
        settings = arguments.settings
        entry = LDAPEntry(layout.entry_dn(login, settings.get("container", "people")))
        entry["objectClass"] = layout.classes.split()
        said = {
            "cn": arguments.display_name,
            "sn": arguments.family_name or arguments.display_name,
            "mail": arguments.mail,
            "givenName": arguments.given_name,
            "employeeNumber": arguments.employee_number,
        }
        more = dict(arguments.attributes)
        if boss := await self._boss(connection, more.pop("manager", "")):
            entry["manager"] = boss
        for attribute, value in {**said, **more}.items():
            if value:
                entry[attribute] = [value]
        if "posixAccount" in layout.classes:
            number = await self._numbers.give(connection, ref.account_id)
            entry["uidNumber"], entry["gidNumber"] = [number], [100]
            entry["homeDirectory"] = [f"{layout.home}/{login}"]
        if layout.correlation:
            entry["objectClass"].append("yugumPerson")
            entry[layout.correlation] = [ref.account_id]
        if await connection.search(
            layout.base, LDAPSearchScope.SUB, layout.named(layout.login, login), ["1.1"]
        ):
            raise self._taken(login)
        try:
            await connection.add(entry, timeout=self.call_timeout)
        except bonsai.AlreadyExists as error:
            raise self._taken(login) from error
        made = await self._entry(connection, AccountRef(ref.account_id, "", login))
        assert made is not None
        if arguments.closed:
            await self._modify(connection, made, {"pwdAccountLockedTime": [PERMANENT]})
        for name, value in settings.items():
            if name != "container" and value:
                await self._set(connection, made, name, value)
        return Done(external_id=first(made, "entryUUID"), login=login)

    async def _new_name(
        self,
        connection: AIOLDAPConnection,
        entry: LDAPEntry,
        login: str,
        arguments: Arguments,
    ) -> Done:
        """The names first, then the entry's own: a crash in between is seen by the old login."""
        layout = self._layout
        said = {
            "cn": arguments.display_name,
            "sn": arguments.family_name,
            "givenName": arguments.given_name,
            "mail": arguments.mail,
        }
        names = {attribute: [value] for attribute, value in said.items() if value}
        if names:
            await self._modify(connection, entry, names)
        below = layout.container_name(parent(str(entry.dn)))
        await self._move(connection, entry, layout.entry_dn(login, below))
        return Done(login=login)

    def _taken(self, login: str) -> ApplicationRejected:
        return ApplicationRejected(
            f"{self._name} has an entry {login} already that is not ours.",
            remedy="Link that account to the person, or choose another login.",
        )

    async def _set(
        self, connection: AIOLDAPConnection, entry: LDAPEntry, name: str, value: str
    ) -> None:
        layout = self._layout
        match name:
            case "container":
                rdn = str(entry.dn)[: -len(parent(str(entry.dn))) - 1]
                await self._move(connection, entry, f"{rdn},{layout.container(value)}")
            case "login":
                below = layout.container_name(parent(str(entry.dn)))
                await self._move(connection, entry, layout.entry_dn(value, below))
            case "manager":
                boss = await self._boss(connection, value)
                await self._modify(connection, entry, {"manager": boss})
            case "hidden" if layout.hidden:
                flag = "TRUE" if value == "yes" else "FALSE"
                await self._modify(connection, entry, {layout.hidden: [flag]})
            case "alias" if layout.alias:
                await self._modify(connection, entry, {layout.alias: value.split()})
            case "mark":
                await self._modify(connection, entry, {layout.mark: [value] if value else []})
            case "cn" | "sn" if not value:
                raise CannotDo(f"{self._name} needs every entry to have {name}.")
            case _ if name in PERSON or (name == HOME and value):
                await self._modify(connection, entry, {name: [value] if value else []})
            case _:
                raise CannotDo(
                    f"{self._name} has no setting {name}.",
                    remedy="Use: alias, container, hidden, login, manager or mark.",
                )

    async def _move(self, connection: AIOLDAPConnection, entry: LDAPEntry, dn: str) -> None:
        await move(connection, entry, dn, self.call_timeout, self._taken)

    async def _boss(self, connection: AIOLDAPConnection, login: str) -> list[str]:
        return await dn_of(connection, self._layout, self._name, login, "manager")
