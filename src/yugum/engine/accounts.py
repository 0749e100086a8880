"""Accounts as last seen, over all applications."""

from __future__ import annotations

from yugum.core.accounts import Account, AccountState
from yugum.ports.accounts import AccountLine
from yugum.ports.pages import ListPage
from yugum.ports.units import Database


class Accounts:
    def __init__(self, database: Database) -> None:
        self._database = database

    async def page(
        self,
        *,
        application: str,
        state: AccountState | None,
        who: str,
        query: str,
        cursor: str | None,
        limit: int,
    ) -> ListPage[AccountLine]:
        """Accounts by application and login: somebody's, or with ``query`` in the login."""
        async with self._database.unit() as unit:
            person_id = (await unit.people.resolve(who)).id if who else ""
            return await unit.accounts.page(
                application=application,
                state=state,
                person_id=person_id,
                query=query,
                cursor=cursor,
                limit=limit,
            )

    async def one(self, account_id: str) -> Account:
        async with self._database.unit() as unit:
            return await unit.accounts.get(account_id)
