"""Whether unused seats are still needed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import datetime

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.questions import Question
from yugum.core.reclaim import Looked, ReclaimReason
from yugum.errors import NotFound
from yugum.ports.pages import ListPage
from yugum.ports.questions import QuestionLine, Unused
from yugum.storage import tables as t
from yugum.storage.pages import fetch
from yugum.storage.reclaim import ORDER, fresh, ranked
from yugum.storage.rows import read, read_all, reader

UNUSED = [ORDER.index(why) for why in (ReclaimReason.UNUSED, ReclaimReason.NEVER_USED)]
C, Q, P = t.seat_claims.c, t.seat_questions.c, t.people.c
LINES = (
    sa.select(
        t.seat_questions,
        C.person_id,
        P.display_name.label("person_name"),
        t.accounts.c.login,
        t.pools.c.application_id,
        t.applications.c.name.label("application_name"),
        t.pools.c.license,
    )
    .select_from(t.seat_questions)
    .join(t.seat_claims, C.id == Q.claim_id)
    .join(t.pools, t.pools.c.id == C.pool_id)
    .join(t.applications, t.applications.c.id == t.pools.c.application_id)
    .join(t.accounts, t.accounts.c.id == C.account_id)
    .outerjoin(t.people, P.id == C.person_id)
    .where(C.until_at.is_(None))
)


class Questions:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def to_ask(self, looked: Looked, limit: int) -> Sequence[Unused]:
        never = replace(looked, license=replace(looked.license, ask_days=0))
        mail = (t.people.c.mail, t.people.c.id)
        seats = ranked(never, *mail).where(P.mail != "", sa.not_(fresh(looked))).subquery("s")
        s = seats.c
        query = (
            sa.select(s.id.label("claim_id"), *(c for c in s if c.name not in ("id", "rank")))
            .where(s.rank.in_(UNUSED))
            .order_by(s.id)
            .limit(limit)
        )
        return read_all(Unused, await self.connection.execute(query))

    async def ask(
        self, links: Mapping[str, str], asked_at: datetime, answer_by: datetime
    ) -> Sequence[str]:
        if not links:
            return []
        q = t.seat_questions
        new = insert(q).values(
            [
                {"claim_id": c, "link_hash": h, "asked_at": asked_at, "answer_by": answer_by}
                for c, h in links.items()
            ]
        )
        values = {name: new.excluded[name] for name in ("link_hash", "asked_at", "answer_by")} | {
            "answer": "",
            "answered_at": None,
            "kept_until": None,
        }
        # One that counts was asked by somebody else a moment ago: theirs is the question.
        kept = sa.and_(q.c.answer == "kept", q.c.kept_until <= asked_at)
        used = (
            sa.select(t.accounts.c.last_used)
            .join(t.seat_claims, C.account_id == t.accounts.c.id)
            .where(C.id == q.c.claim_id)
            .scalar_subquery()
        )
        again = sa.or_(kept, used >= q.c.asked_at)
        put = new.on_conflict_do_update(index_elements=["claim_id"], set_=values, where=again)
        return list((await self.connection.scalars(put.returning(q.c.claim_id))).all())

    async def behind(self, link_hash: str, *, lock: bool = False) -> QuestionLine:
        query = LINES.where(Q.link_hash == link_hash)
        if lock:
            query = query.with_for_update(of=t.seat_questions)
        row = (await self.connection.execute(query)).mappings().first()
        if row is None:
            raise NotFound(
                "This link was used already, or is not needed any more.",
                remedy="Ask whoever sent it.",
            )
        return read(QuestionLine, row)

    async def answer(self, question: Question) -> None:
        q = t.seat_questions
        said = sa.update(q).where(q.c.claim_id == question.claim_id)
        await self.connection.execute(
            said.values(
                answer=question.answer,
                answered_at=question.answered_at,
                kept_until=question.kept_until,
            )
        )

    async def page(self, pool_id: str, cursor: str | None, limit: int) -> ListPage[QuestionLine]:
        return await fetch(
            self.connection,
            LINES.where(C.pool_id == pool_id),
            [Q.asked_at, Q.claim_id],
            reader(QuestionLine),
            cursor=cursor,
            limit=limit,
            descending=True,
            count=cursor is None,
        )
