"""Groups of names (RFC 4519 3.5): who is in which."""

from __future__ import annotations

import bonsai
from bonsai import LDAPEntry, LDAPModOp, LDAPSearchScope
from bonsai.asyncio import AIOLDAPConnection

from yugum.connectors.ldap.directory import modify
from yugum.connectors.ldap.layout import Layout
from yugum.errors import ApplicationRejected


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
