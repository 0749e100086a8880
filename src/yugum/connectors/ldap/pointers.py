"""Attributes of other entries that point at somebody: seeAlso, secretary, roleOccupant (RFC 4519, RFC 2798)."""

from __future__ import annotations

from collections.abc import AsyncIterator, Callable, Collection, Sequence
from contextlib import AbstractAsyncContextManager

from bonsai import LDAPEntry, LDAPSearchScope
from bonsai.asyncio import AIOLDAPConnection

from yugum.connectors.ldap.directory import dn_of, modify
from yugum.connectors.ldap.layout import Layout, first, rdn_value
from yugum.core.actions import Arguments, Done
from yugum.core.mentions import Mention, swapped
from yugum.errors import ApplicationRejected

POINTERS = {
    "seeAlso": "who asks about it is sent to somebody who is gone",
    "secretary": "nobody answers for them",
    "roleOccupant": "nobody does it",
}
BETWEEN = "; "
PAGE = 500
MOST_NAMES = 50
"""How many logins a filter is made of; for more of them every pointer is read."""
ASKED = ["cn", "entryUUID", *POINTERS]
Connect = Callable[[], AbstractAsyncContextManager[AIOLDAPConnection]]


class Pointers:
    """A place is one attribute of one entry; its text are the logins that it points at."""

    def __init__(self, name: str, layout: Layout, connect: Connect, timeout: float) -> None:
        self._name = name
        self._layout = layout
        self._connect = connect
        self._timeout = timeout

    async def mentions(self, names: Collection[str] = ()) -> AsyncIterator[Sequence[Mention]]:
        """All of them, or those that point at one of the logins, in use or among the leavers."""
        logins = sorted(n for n in names if "@" not in n)
        if names and not logins:
            return
        condition = "".join(f"({attribute}=*)" for attribute in POINTERS)
        if 0 < len(logins) <= MOST_NAMES:
            layout = self._layout
            dns = [layout.entry_dn(n, c) for n in logins for c in ("people", "leavers")]
            condition = "".join(layout.named(a, dn) for a in POINTERS for dn in dns)
        async with self._connect() as connection:
            found = await connection.paged_search(
                self._layout.base, LDAPSearchScope.SUB, f"(|{condition})", ASKED, page_size=PAGE
            )
            page: list[Mention] = []
            async for entry in found:
                page += [_mention(entry, a) for a in POINTERS if entry.get(a)]
                if len(page) >= PAGE:
                    yield page
                    page = []
            if page:
                yield page

    async def mention(self, key: str) -> Mention | None:
        """One attribute of one entry as it is now; without values its text is empty."""
        async with self._connect() as connection:
            entry, attribute = await self._found(connection, key)
        return None if entry is None else _mention(entry, attribute)

    async def redirect(self, connection: AIOLDAPConnection, arguments: Arguments) -> Done:
        """Point at others: whoever stays is pointed at as before."""
        entry, attribute = await self._found(connection, arguments.place)
        if entry is None:
            return Done(note="the entry is gone")
        held = {rdn_value(str(dn)): str(dn) for dn in entry.get(attribute, [])}
        text, now = arguments.value, BETWEEN.join(held)
        if now != arguments.was:
            text = swapped(now, arguments.swaps)
            if text == now and not arguments.swaps:
                raise ApplicationRejected(
                    f"{attribute} of {first(entry, 'cn')} in {self._name} was changed since.",
                    remedy="Leave the step out; it stays as it is.",
                )
        values: list[str] = []
        for login in filter(None, text.split(BETWEEN)):
            known = [held[login]] if login in held else None
            values += known or await dn_of(connection, self._layout, self._name, login, attribute)
        await modify(connection, entry.dn, {attribute: values}, self._timeout)
        return Done(values={arguments.place: text})

    async def _found(self, connection: AIOLDAPConnection, key: str) -> tuple[LDAPEntry | None, str]:
        attribute, _, uuid = key.partition(" ")
        condition = self._layout.named("entryUUID", uuid)
        found = await connection.search(
            self._layout.base, LDAPSearchScope.SUB, condition, ASKED, timeout=self._timeout
        )
        there = bool(found) and attribute in POINTERS
        return (found[0] if there else None), attribute


def _mention(entry: LDAPEntry, attribute: str) -> Mention:
    return Mention(
        application_id="",
        key=f"{attribute} {first(entry, 'entryUUID')}",
        kind=attribute,
        place=f"{first(entry, 'cn') or rdn_value(str(entry.dn))} › {attribute}",
        text=BETWEEN.join(rdn_value(str(dn)) for dn in entry.get(attribute, [])),
        effect=POINTERS[attribute],
        fixable=True,
    )
