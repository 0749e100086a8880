"""The numbers of accounts that are made: unique, from a stated range, never given again."""

from __future__ import annotations

from collections.abc import Set

from bonsai import LDAPEntry, LDAPSearchScope
from bonsai.asyncio import AIOLDAPConnection

from yugum.connectors.ldap.layout import Layout, first
from yugum.errors import ApplicationRejected, ConfigError
from yugum.ports.connectors import ConnectorSpec


class Numbers:
    """What is kept of one directory's numbers in Yugum's own database."""

    def __init__(self, spec: ConnectorSpec, layout: Layout) -> None:
        self._spec = spec
        self._layout = layout

    async def give(self, connection: AIOLDAPConnection, account_id: str) -> int:
        """The number of an account, which nobody else has had, here or in the directory.

        Raises:
            ApplicationRejected: none is left.
            ConfigError: the connector was made without a database.
        """
        layout, beyond = self._layout, 0
        while True:
            number = await self._take(account_id, beyond)
            if number is None:
                raise ApplicationRejected(
                    f"{self._spec.name} has no number left for an account in {layout.numbers}.",
                    remedy="Name a wider range: the option numbers of yugum apps connect.",
                )
            used = await connection.search(
                layout.base,
                LDAPSearchScope.SUB,
                layout.named("uidNumber", str(number)),
                ["1.1"],
                timeout=self._spec.timeout,
            )
            if not used:
                return number
            beyond = number

    async def _take(self, account_id: str, beyond: int) -> int | None:
        if self._spec.database is None:
            raise ConfigError("A directory whose accounts have numbers needs the database.")
        low, high = self._layout.range
        async with self._spec.database.unit() as unit:
            return await unit.numbers.take(self._spec.application_id, account_id, low, high, beyond)

    def of(self, entry: LDAPEntry) -> set[int]:
        """The number of an entry, where it lies in the range of those that are given."""
        low, high = self._layout.range
        text = first(entry, "uidNumber")
        return {int(text)} if text.isdecimal() and low <= int(text) <= high else set()

    async def seen(self, numbers: Set[int]) -> None:
        """The directory itself has these."""
        if numbers and self._spec.database is not None:
            async with self._spec.database.unit() as unit:
                await unit.numbers.seen(self._spec.application_id, numbers)
