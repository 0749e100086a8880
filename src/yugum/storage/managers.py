"""Accounts as far as attributes need them: of managers, and those that are kept in step."""

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

    async def of_managers(self, person_ids: Sequence[str]) -> Mapping[str, Sequence[Account]]:
        """The accounts in use of some managers, as far as others name them, by person."""
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
