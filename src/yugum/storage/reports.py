"""Reports about people: cut-offs against their moments, from dockets and receipts."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import distinct_on
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.actions import Action
from yugum.core.cut_offs import LONGEST, BatchTimes, CutOff, Lateness
from yugum.core.dockets import DocketState, StepState
from yugum.core.verbs import Verb
from yugum.ports.pages import ListPage
from yugum.storage import tables as t
from yugum.storage.pages import fetch
from yugum.storage.rows import read, reader
from yugum.storage.steps import STUCK

SHUTS = (Action.CUT_OFF.value, Action.LOCK.value)


class Reports:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def cut_offs(
        self, begin: datetime, until: datetime, cursor: str | None, limit: int
    ) -> ListPage[CutOff]:
        rows = _rows(begin, until)
        return await fetch(
            self.connection,
            sa.select(rows),
            [rows.c.ended_at, rows.c.id],
            reader(CutOff),
            cursor=cursor,
            limit=limit,
            count=cursor is None,
        )

    async def lateness(self, begin: datetime, until: datetime) -> Sequence[tuple[Lateness, int]]:
        rows = _rows(begin, until)
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

    async def batch(self, batch_id: str) -> BatchTimes:
        d = _of_batch(batch_id)
        count = sa.func.count()
        known = (DocketState.SCHEDULED, DocketState.RUNNING, DocketState.DONE)
        took = sa.extract("epoch", d.c.cut - d.c.machine_started) * 1000
        query = sa.select(
            count.label("dockets"),
            *(count.filter(d.c.state == s.value).label(s.value) for s in known),
            count.filter(d.c.state.notin_([s.value for s in known])).label("otherwise"),
            count.filter(d.c.stuck).label("stuck"),
            sa.func.count(took).label("cut_offs"),
            sa.cast(sa.func.percentile_disc(0.5).within_group(took), sa.Float).label("half_ms"),
            sa.cast(sa.func.max(took), sa.Float).label("longest_ms"),
        )
        return read(BatchTimes, (await self.connection.execute(query)).mappings().one())


def _of_batch(batch_id: str) -> sa.Subquery:
    """Each docket of a batch with when its last account was shut, where all of them are."""
    d, s, r = t.dockets.c, t.steps.c, t.receipts.c
    shuts = s.action.in_(SHUTS)
    cut = sa.case(
        (
            sa.func.count().filter(shuts, r.step_id.is_(None)) == 0,
            sa.func.max(r.machine_at).filter(shuts),
        )
    )
    each = (
        sa.select(
            cut.label("cut"), sa.func.coalesce(sa.func.bool_or(STUCK), sa.false()).label("stuck")
        )
        .select_from(t.steps.outerjoin(t.receipts, r.step_id == s.id))
        .where(s.docket_id == d.id)
        .lateral("each_of")
    )
    return (
        sa.select(
            d.state,
            d.machine_started,
            each.c.cut,
            sa.and_(d.state == DocketState.RUNNING.value, each.c.stuck).label("stuck"),
        )
        .select_from(t.dockets)
        .join(each, sa.true())
        .where(d.batch_id == batch_id)
        .subquery("of_batch")
    )


def _rows(begin: datetime, until: datetime) -> sa.Subquery:
    """Each account that was to be shut since the last leaving of its person began, once.

    What first shut it counts, in whichever docket it was: a later one takes over what one has left.
    """
    p, d, s, r = t.people.c, t.dockets.c, t.steps.c, t.receipts.c
    own = t.dockets.alias("own").c
    done = s.state == StepState.DONE.value
    left = (
        sa.select(own.id, own.number, own.made_at)
        .where(own.subject_id == p.id, own.verb == Verb.LEAVER.value, own.started_at.is_not(None))
        .order_by(own.number.desc())
        .limit(1)
        .lateral("leaving")
    )
    return (
        sa.select(
            t.accounts.c.id,
            p.id.label("person_id"),
            p.display_name,
            p.user_name,
            p.department,
            t.applications.c.name.label("application_name"),
            t.accounts.c.login,
            d.number,
            p.access_ends.label("ended_at"),
            left.c.made_at.label("known_at"),
            sa.case((done, r.at)).label("cut_at"),
            (s.state == StepState.LEFT_OUT.value).label("left_out"),
            sa.func.coalesce(s.problem["text"].astext, "").label("problem"),
        )
        .ext(distinct_on(t.accounts.c.id))
        .select_from(t.people)
        .join(left, sa.true())
        .join(t.dockets, sa.and_(d.subject_id == p.id, d.number >= left.c.number))
        .join(t.steps, sa.and_(s.docket_id == d.id, s.action.in_(SHUTS)))
        .join(t.accounts, t.accounts.c.id == s.account_id)
        .join(t.applications, t.applications.c.id == s.application_id)
        .outerjoin(t.receipts, r.step_id == s.id)
        .where(p.access_ends >= begin, p.access_ends < until)
        .order_by(t.accounts.c.id, done.desc(), sa.case((done, r.at)), d.number.desc())
        .subquery("cut_offs")
    )
