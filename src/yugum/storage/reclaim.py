"""Seats that could come back, found by one statement."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from datetime import timedelta
from typing import Any, TypeVar

import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.reclaim import Looked, ReclaimReason
from yugum.ports.pages import ListPage
from yugum.ports.reclaim import SeatComingBack, SeatToReclaim
from yugum.storage import tables as t
from yugum.storage.filters import to_sql
from yugum.storage.pages import fetch
from yugum.storage.rows import among, reader

ORDER = list(ReclaimReason)
Row = TypeVar("Row", bound=SeatToReclaim)


class Reclaim:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def page(
        self,
        looked: Looked,
        reason: ReclaimReason | None,
        cursor: str | None,
        limit: int,
        people: Collection[str] = (),
    ) -> ListPage[SeatToReclaim]:
        found = ranked(looked)
        if people:
            found = found.where(among(t.seat_claims.c.person_id, people))
        return await self._page(found, SeatToReclaim, reason, cursor, limit)

    async def everywhere(
        self, looked: Sequence[Looked], reason: ReclaimReason | None, cursor: str | None, limit: int
    ) -> ListPage[SeatComingBack]:
        if not looked:
            return ListPage(items=(), next=None, total=0)
        department = sa.func.coalesce(t.people.c.department, "").label("department")
        found = [ranked(one, t.seat_claims.c.pool_id, department) for one in looked]
        return await self._page(sa.union_all(*found), SeatComingBack, reason, cursor, limit)

    async def _page(
        self,
        found: sa.SelectBase,
        kind: type[Row],
        reason: ReclaimReason | None,
        cursor: str | None,
        limit: int,
    ) -> ListPage[Row]:
        s = found.subquery("s").c
        reasons = sa.case(*((s.rank == n, why.value) for n, why in enumerate(ORDER)))
        query = sa.select(
            *(column for column in s if column.name != "rank"), reasons.label("reason")
        ).where(s.rank == ORDER.index(reason) if reason else s.rank.isnot(None))
        first = [s.pool_id] if "pool_id" in s else []
        return await fetch(
            self.connection,
            query,
            [*first, s.rank, sa.func.coalesce(s.person_name, s.login), s.id],
            reader(kind),
            cursor=cursor,
            limit=limit,
            count=cursor is None,
        )


def ranked(looked: Looked, *more: sa.ColumnElement[Any]) -> sa.Select[Any]:
    """The seats of a pool that are held, each with the number of the first reason to take it back."""
    c, a, p, q = t.seat_claims.c, t.accounts.c, t.people.c, t.seat_questions.c
    rank = sa.case(*((_true(when), ORDER.index(why)) for why, when in _reasons(looked)))
    return (
        sa.select(
            c.id,
            c.account_id,
            a.login,
            c.person_id,
            p.display_name.label("person_name"),
            c.since_at,
            a.last_used,
            q.asked_at,
            rank.label("rank"),
            *more,
        )
        .select_from(t.seat_claims.join(t.accounts, a.id == c.account_id))
        .outerjoin(t.people, p.id == c.person_id)
        .outerjoin(t.seat_questions, q.claim_id == c.id)
        .where(c.pool_id == looked.pool_id, c.until_at.is_(None), c.state == "held")
    )


def fresh(looked: Looked) -> sa.ColumnElement[bool]:
    """Whether a question counts: asked since the seat was used last, and kept no longer than was said."""
    q, a = t.seat_questions.c, t.accounts.c
    over = sa.and_(q.answer == "kept", q.kept_until <= looked.now)
    since = sa.or_(a.last_used.is_(None), a.last_used < q.asked_at)
    return _true(sa.and_(q.claim_id.isnot(None), since, sa.not_(over)))


def _asked(looked: Looked) -> sa.ColumnElement[bool]:
    """Whether nobody has to be asked about a seat any more: it was, in vain, or cannot be."""
    if not looked.license.ask_days:
        return sa.true()
    q, p = t.seat_questions.c, t.people.c
    in_vain = sa.and_(q.answer == "", q.answer_by <= looked.now)
    return sa.or_(sa.and_(fresh(looked), in_vain), sa.func.coalesce(p.mail, "") == "")


def _true(condition: sa.ColumnElement[bool]) -> sa.ColumnElement[bool]:
    return sa.func.coalesce(condition, sa.false())


def _reasons(looked: Looked) -> Iterator[tuple[ReclaimReason, sa.ColumnElement[Any]]]:
    """Each reason with its condition, in the order in which they count."""
    license, now = looked.license, looked.now
    c, a, p = t.seat_claims.c, t.accounts.c, t.people.c
    long_ago = now - timedelta(days=license.unused_days)
    yield ReclaimReason.LEFT, p.access_ends <= looked.left_by
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
    if license.cheaper:
        # Not of who has left: they need none, once nothing is carried any more.
        some = sa.or_(*(to_sql(c.who, p.folded) for c in license.cheaper))
        here = sa.or_(p.access_ends.is_(None), p.access_ends > now)
        yield ReclaimReason.CHEAPER, sa.and_(some, here)
    if license.ask_days:
        given_up = sa.and_(fresh(looked), t.seat_questions.c.answer == "given-up")
        yield ReclaimReason.GIVEN_UP, given_up
    if license.unused_days:
        back = sa.or_(p.absent_until.is_(None), p.absent_until > now)
        yield ReclaimReason.ABSENT, sa.and_(p.absent_from <= long_ago, back)
        yield ReclaimReason.UNUSED, sa.and_(a.last_used <= long_ago, _asked(looked))
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
                _asked(looked),
            ),
        )
