"""Accounts as far as managers, attributes in step and administrators need them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.accounts import Account, AccountKind, AccountState
from yugum.core.actions import GONE
from yugum.core.alike import Shown
from yugum.storage import tables as t
from yugum.storage.rows import among, among_ids, one_of, read_all

A = t.accounts.c
IN_USE = sa.select(A.id, A.application_id, A.person_id, A.login, A.external_id, A.state).where(
    among_ids(A.person_id),
    A.kind == AccountKind.PERSON.value,
    one_of(A.state, [AccountState.ACTIVE, AccountState.SUSPENDED]),
)


class Managers:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def in_use(self, person_ids: Sequence[str]) -> Mapping[str, Sequence[Account]]:
        """The accounts of some people that are not gone, without what they hold, by person."""
        found: dict[str, list[Account]] = {}
        rows = await self.connection.execute(IN_USE, {"ids": list(person_ids)})
        for account in read_all(Account, rows):
            found.setdefault(str(account.person_id), []).append(account)
        return found

    async def shown_by(
        self, person_ids: Sequence[str], application_ids: Sequence[str]
    ) -> Mapping[str, Sequence[Shown]]:
        a = t.accounts.c
        query = sa.select(a.person_id, a.id, a.application_id, a.settings).where(
            among(a.person_id, person_ids),
            a.kind == AccountKind.PERSON.value,
            a.application_id.in_(application_ids),
            a.state.not_in([s.value for s in GONE]),
        )
        found: dict[str, list[Shown]] = {}
        for person_id, *rest in (await self.connection.execute(query)).all():
            found.setdefault(person_id, []).append(Shown(*rest))
        return found

    async def others_in(
        self,
        groups: Mapping[str, str],
        levels: Sequence[tuple[str, str, str]],
        person_ids: Sequence[str],
    ) -> Mapping[str, int]:
        """How many open accounts of others hold a group or a level, by application.

        ``levels`` are applications, the setting that holds the level, and the level.
        """
        a = t.accounts.c
        found = dict.fromkeys([*groups, *(application for application, _, _ in levels)], 0)
        if not found:
            return found
        holds = sa.or_(
            *(
                sa.and_(a.application_id == application, a.entitlements.contains([group]))
                for application, group in groups.items()
            ),
            *(
                sa.and_(a.application_id == application, a.settings[name].astext == level)
                for application, name, level in levels
            ),
        )
        query = (
            sa.select(a.application_id, sa.func.count())
            .where(holds, a.state == "active")
            .where(sa.or_(a.person_id.is_(None), sa.not_(among(a.person_id, person_ids))))
            .group_by(a.application_id)
        )
        for row in await self.connection.execute(query):
            found[row[0]] = row[1]
        return found
