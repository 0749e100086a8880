"""Accounts as far as managers, attributes in step and administrators need them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.accounts import Account, AccountKind, AccountState
from yugum.core.actions import GONE
from yugum.core.alike import Shown
from yugum.storage import tables as t
from yugum.storage.rows import among, read


class Managers:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def in_use(self, person_ids: Sequence[str]) -> Mapping[str, Sequence[Account]]:
        """The accounts of some people that are not gone, without what they hold, by person."""
        a = t.accounts.c
        query = sa.select(
            a.id, a.application_id, a.person_id, a.login, a.external_id, a.state
        ).where(
            among(a.person_id, person_ids),
            a.kind == AccountKind.PERSON.value,
            a.state.in_([AccountState.ACTIVE.value, AccountState.SUSPENDED.value]),
        )
        found: dict[str, list[Account]] = {}
        for row in (await self.connection.execute(query)).mappings():
            found.setdefault(row["person_id"], []).append(read(Account, row))
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
