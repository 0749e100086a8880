"""Seats that could come back, found by one statement."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import timedelta
from typing import Any

import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.reclaim import Looked, ReclaimReason
from yugum.ports.pages import ListPage
from yugum.ports.reclaim import SeatToReclaim
from yugum.storage import tables as t
from yugum.storage.filters import to_sql
from yugum.storage.pages import fetch
from yugum.storage.rows import reader

ORDER = list(ReclaimReason)


class Reclaim:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def page(
        self, looked: Looked, reason: ReclaimReason | None, cursor: str | None, limit: int
    ) -> ListPage[SeatToReclaim]:
        c, a, p = t.seat_claims.c, t.accounts.c, t.people.c
        found = sa.case(*((_true(when), ORDER.index(why)) for why, when in _reasons(looked)))
        seats = (
            sa.select(
                c.id,
                c.account_id,
                a.login,
                c.person_id,
                p.display_name.label("person_name"),
                c.since_at,
                a.last_used,
                found.label("rank"),
            )
            .select_from(t.seat_claims.join(t.accounts, a.id == c.account_id))
            .outerjoin(t.people, p.id == c.person_id)
            .where(c.pool_id == looked.pool_id, c.until_at.is_(None), c.state == "held")
            .subquery("s")
        )
        s = seats.c
        reasons = sa.case(*((s.rank == n, why.value) for n, why in enumerate(ORDER)))
        query = sa.select(
            *(column for column in s if column.name != "rank"), reasons.label("reason")
        ).where(s.rank == ORDER.index(reason) if reason else s.rank.isnot(None))
        return await fetch(
            self.connection,
            query,
            [s.rank, sa.func.coalesce(s.person_name, s.login), s.id],
            reader(SeatToReclaim),
            cursor=cursor,
            limit=limit,
            count=cursor is None,
        )


def _true(condition: sa.ColumnElement[bool]) -> sa.ColumnElement[bool]:
    return sa.func.coalesce(condition, sa.false())


def _reasons(looked: Looked) -> Iterator[tuple[ReclaimReason, sa.ColumnElement[Any]]]:
    """Each reason with its condition, in the order in which they count."""
    license, now = looked.license, looked.now
    c, a, p = t.seat_claims.c, t.accounts.c, t.people.c
    long_ago = now - timedelta(days=license.unused_days)
    yield ReclaimReason.LEFT, p.access_ends <= now
    if license.persons_only:
        yield ReclaimReason.SHARED, sa.or_(c.person_id.is_(None), a.kind != "person")
    if license.who is not None:
        yield ReclaimReason.NOT_FOR_THEM, sa.not_(to_sql(license.who, p.folded))
    if looked.beside:
        other, pool = t.seat_claims.alias("other"), t.pools.alias("other_pool")
        yield (
            ReclaimReason.TWICE,
            sa.exists().where(
                other.c.account_id == c.account_id,
                other.c.until_at.is_(None),
                other.c.state == "held",
                pool.c.id == other.c.pool_id,
                pool.c.license.in_(sorted(looked.beside)),
            ),
        )
    if license.unused_days:
        back = sa.or_(p.absent_until.is_(None), p.absent_until > now)
        yield ReclaimReason.ABSENT, sa.and_(p.absent_from <= long_ago, back)
        yield ReclaimReason.UNUSED, a.last_used <= long_ago
    if license.never_used_days:
        # Use that an application does not tell, or of few, is not known, and no reason.
        x = t.accounts.alias("x").c
        application = sa.select(t.pools.c.application_id).where(t.pools.c.id == looked.pool_id)
        tells = sa.select(sa.func.count(x.last_used) * 2 >= sa.func.count(x.id)).where(
            x.application_id == application.scalar_subquery(), x.state == "active"
        )
        yield (
            ReclaimReason.NEVER_USED,
            sa.and_(
                a.last_used.is_(None),
                c.since_at <= now - timedelta(days=license.never_used_days),
                tells.scalar_subquery(),
            ),
        )
