"""Reports about people: cut-offs against their moments, from dockets and receipts."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Any

import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.actions import Action
from yugum.core.cut_offs import LONGEST, CutOff, Lateness
from yugum.core.dockets import DocketState, StepState
from yugum.core.verbs import Verb
from yugum.ports.pages import ListPage
from yugum.storage import tables as t
from yugum.storage.pages import fetch
from yugum.storage.rows import reader

SHUTS = (Action.CUT_OFF.value, Action.LOCK.value)
BEGUN = (DocketState.RUNNING.value, DocketState.DONE.value)


class Reports:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def cut_offs(
        self, begin: datetime, until: datetime, cursor: str | None, limit: int
    ) -> ListPage[CutOff]:
        p, s = t.people.c, t.steps.c
        return await fetch(
            self.connection,
            _rows().where(p.access_ends >= begin, p.access_ends < until),
            [p.access_ends, s.id],
            reader(CutOff),
            cursor=cursor,
            limit=limit,
            count=cursor is None,
        )

    async def lateness(self, begin: datetime, until: datetime) -> Sequence[tuple[Lateness, int]]:
        p = t.people.c
        rows = _rows().where(p.access_ends >= begin, p.access_ends < until).subquery("r")
        took = rows.c.cut_at - sa.func.greatest(rows.c.ended_at, rows.c.known_at)
        word = sa.case(
            (rows.c.left_out, Lateness.LEFT_OUT.value),
            (rows.c.cut_at.is_(None), Lateness.OPEN.value),
            *((took <= most, said.value) for most, said in LONGEST),
            else_=Lateness.LATER.value,
        ).label("word")
        found = await self.connection.execute(sa.select(word, sa.func.count()).group_by(word))
        counted = {Lateness(said): count for said, count in found}
        return [(said, counted.get(said, 0)) for said in Lateness]


def _rows() -> sa.Select[Any]:
    """Of the last leaver docket of each person, the steps that shut an account, with their receipts."""
    p, d, s, r = t.people.c, t.dockets.c, t.steps.c, t.receipts.c
    done = s.state == StepState.DONE.value
    last = (
        sa.select(d.id)
        .where(d.subject_id == p.id, d.verb == Verb.LEAVER.value, d.state.in_(BEGUN))
        .order_by(d.number.desc())
        .limit(1)
        .correlate(t.people)
        .scalar_subquery()
    )
    return (
        sa.select(
            s.id,
            p.id.label("person_id"),
            p.display_name,
            p.user_name,
            p.department,
            t.applications.c.name.label("application_name"),
            t.accounts.c.login,
            d.number,
            p.access_ends.label("ended_at"),
            d.made_at.label("known_at"),
            sa.case((done, r.at)).label("cut_at"),
            (s.state == StepState.LEFT_OUT.value).label("left_out"),
            sa.func.coalesce(s.problem["text"].astext, "").label("problem"),
        )
        .select_from(t.people)
        .join(t.dockets, d.id == last)
        .join(t.steps, sa.and_(s.docket_id == d.id, s.action.in_(SHUTS)))
        .join(t.accounts, t.accounts.c.id == s.account_id)
        .join(t.applications, t.applications.c.id == s.application_id)
        .outerjoin(t.receipts, r.step_id == s.id)
    )
