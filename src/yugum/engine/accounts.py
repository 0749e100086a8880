"""Accounts as last seen, over all applications."""

from __future__ import annotations

from dataclasses import replace

from yugum.core.accounts import Account
from yugum.ports.accounts import AccountLine, ChosenAccounts
from yugum.ports.pages import ListPage
from yugum.ports.units import Database


class Accounts:
    def __init__(self, database: Database) -> None:
        self._database = database

    async def page(
        self, chosen: ChosenAccounts, who: str, cursor: str | None, limit: int
    ) -> ListPage[AccountLine]:
        """Accounts as chosen, of ``who`` where somebody is named."""
        async with self._database.unit(alone=True) as unit:
            if who:
                chosen = replace(chosen, person_id=(await unit.people.resolve(who)).id)
            return await unit.accounts.page(chosen, cursor, limit)

    async def one(self, account_id: str) -> Account:
        async with self._database.unit() as unit:
            return await unit.accounts.get(account_id)
