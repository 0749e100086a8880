"""Groups themselves, kept among the accounts."""

from __future__ import annotations

from datetime import datetime
from typing import Any

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import array
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.accounts import Account, AccountKind, AccountState
from yugum.core.conditions import fold
from yugum.errors import Ambiguous
from yugum.ports.groups import GroupLine, WhichGroups
from yugum.ports.pages import ListPage
from yugum.storage import tables as t
from yugum.storage.accounts import account_from, account_row
from yugum.storage.applications import CONNECTED
from yugum.storage.pages import fetch
from yugum.storage.rows import reader

GROUP = t.accounts.c.kind == AccountKind.GROUP.value


class Groups:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def named(self, application_id: str, name: str) -> Account | None:
        a = t.accounts.c
        query = (
            sa.select(t.accounts)
            .where(GROUP, a.application_id == application_id, a.login == name)
            .order_by((a.state == AccountState.PURGED.value).asc(), a.id)
            .limit(2)
        )
        found = [account_from(row) for row in (await self.connection.execute(query)).mappings()]
        if len(found) > 1 and found[1].state is not AccountState.PURGED:
            raise Ambiguous(
                f"There are two groups {name} in {application_id}.",
                remedy="Give one of them another name there; then read the application.",
            )
        return found[0] if found else None

    async def put(self, group: Account) -> None:
        values = {**account_row(group), "display_name": group.login}
        await self.connection.execute(sa.insert(t.accounts).values(**values))

    async def page(
        self,
        now: datetime,
        which: WhichGroups,
        *,
        cursor: str | None,
        limit: int,
    ) -> ListPage[GroupLine]:
        a, p = t.accounts.c, t.people.c
        query = _listed(now)
        for column, value in (
            (a.application_id, which.application),
            (p.id, which.owner_id),
            (a.id, which.group_id),
        ):
            if value:
                query = query.where(column == value)
        if which.retired:
            query = query.where(a.state == AccountState.DELETED.value)
        if which.q:
            part = fold(which.q)
            query = query.where(sa.func.lower(a.login).contains(part, autoescape=True))
        return await fetch(
            self.connection,
            query,
            [a.application_id, a.login, a.id],
            reader(GroupLine),
            cursor=cursor,
            limit=limit,
            count=cursor is None,
        )


def _listed(now: datetime) -> sa.Select[Any]:
    """Groups with who is behind their owner's account, and how many open accounts are in them."""
    a, p, own = t.accounts.c, t.people.c, t.accounts.alias("own")
    member = t.accounts.alias("member").c
    members = (
        sa.select(sa.func.count())
        .where(
            member.application_id == a.application_id,
            member.state == AccountState.ACTIVE.value,
            member.entitlements.contains(array([a.login])),
        )
        .correlate(t.accounts)
        .scalar_subquery()
    )
    named = sa.or_(
        own.c.external_id == a.settings["owner_id"].astext,
        own.c.login == a.settings["owner_login"].astext,
    )
    owns = sa.and_(
        own.c.application_id == a.application_id,
        own.c.kind != AccountKind.GROUP.value,
        own.c.state != AccountState.PURGED.value,  # whose login somebody else may have by now
        named,
    )
    return (
        sa.select(
            a.id,
            a.application_id,
            t.applications.c.name.label("application_name"),
            a.login,
            a.state,
            a.recoverable_until,
            a.settings,
            p.id.label("owner_id"),
            p.display_name.label("owner_name"),
            sa.func.coalesce(p.access_ends <= now, sa.false()).label("owner_left"),
            members.label("members"),
        )
        .select_from(t.accounts)
        .join(t.applications, t.applications.c.id == a.application_id)
        .outerjoin(own, owns)
        .outerjoin(t.people, p.id == own.c.person_id)
        .where(GROUP, CONNECTED, a.state != AccountState.PURGED.value)
    )
