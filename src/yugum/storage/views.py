"""Read models: the installation, the day sheet, windows, handovers and counts."""

from __future__ import annotations

import time
from dataclasses import asdict
from datetime import datetime, timedelta
from functools import lru_cache
from typing import TypeVar

import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.people import PersonState
from yugum.core.views import Noun
from yugum.errors import Conflict
from yugum.ports.pages import ListPage
from yugum.ports.views import (
    Counts,
    DayRows,
    Figures,
    HandoverLine,
    Installation,
    PersonRows,
    Turns,
    Window,
)
from yugum.storage import tables as t
from yugum.storage.day_rows import rows_of_day
from yugum.storage.everybody import in_state, moment
from yugum.storage.pages import COUNTED, Listing, fetch, listed
from yugum.storage.person_rows import rows_of
from yugum.storage.rows import read, reader, statement

T = TypeVar("T")


COUNTED_ROWS = {
    "people": "people",
    "dockets": "dockets WHERE state IN ('running', 'scheduled')",
    "waiting_seats": "seat_claims WHERE until_at IS NULL AND state = 'waiting'",
    "tasks": "tasks WHERE state = 'open'",
    "late_tasks": "tasks WHERE state = 'open' AND escalated_at IS NOT NULL",
    "approvals": "approvals WHERE state = 'open'",
    "failed_mails": "mails WHERE sent_at IS NULL AND problem <> ''",
    "asked": "takeovers WHERE answer = 'open' AND asked_at IS NOT NULL",
    "applications": "applications WHERE disconnected_at IS NULL",
}
"""What is counted of each; no further than ``:most`` where that is not NULL."""
COUNTS_SQL = f"""
SELECT {
    ", ".join(
        f"(SELECT count(*) FROM (SELECT 1 FROM {rows} LIMIT :most) x) AS {name}"
        for name, rows in COUNTED_ROWS.items()
    )
}, (SELECT coalesce(sum(more), 0)::bigint FROM tallies) AS accounts,
  (SELECT coalesce(max(version), 0) FROM rules) AS rules
"""


GATHER_SQL = sa.text("""
WITH taken AS (SELECT id FROM tallies FOR UPDATE SKIP LOCKED),
gone AS (DELETE FROM tallies t USING taken WHERE t.id = taken.id RETURNING t.*)
INSERT INTO tallies (application_id, state, more)
SELECT application_id, state, sum(more) FROM gone GROUP BY 1, 2 HAVING sum(more) <> 0""")


TURNS_SQL = sa.text(f"""
SELECT {", ".join(f"(SELECT last_value + is_called::int FROM turn_{noun}) AS {noun}" for noun in Noun)},
  ARRAY(SELECT backend_xid::text FROM pg_stat_activity
    WHERE datname = current_database() AND backend_xid IS NOT NULL) AS running""")


class Views:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def installation(self) -> Installation | None:
        row = (await self.connection.execute(sa.select(t.installation))).mappings().first()
        return read(Installation, row) if row else None

    async def found(self, installation: Installation) -> None:
        if await self.installation() is not None:
            raise Conflict("This database belongs to an organisation already.")
        await self.connection.execute(
            sa.insert(t.installation).values(id=1, **asdict(installation))
        )

    async def of_person(self, person_id: str) -> PersonRows:
        return await rows_of(self.connection, person_id)

    async def day(self, begin: datetime, now: datetime, end: datetime, week: timedelta) -> DayRows:
        return await rows_of_day(self.connection, begin, now, end, week)

    async def windows(
        self, now: datetime, until: datetime, application_id: str, cursor: str | None, limit: int
    ) -> ListPage[Window]:
        """Deleted accounts that can come back, the one lost first at the top."""
        return await listed(
            self.connection,
            _windows(application_id),
            reader(Window),
            cursor=cursor,
            limit=limit,
            count=cursor is None,
            values={"now": now, "until": until},
        )

    async def handovers(
        self, docket_id: str, person_id: str, cursor: str | None, limit: int
    ) -> ListPage[HandoverLine]:
        """Every thing that got a new home, the newest first: of a docket, of a person, or all."""
        h, d = t.handovers.c, t.dockets.c
        giver, taker = t.accounts.alias("giver"), t.accounts.alias("taker")
        leaves, receives = t.people.alias("leaves"), t.people.alias("receives")
        query = (
            sa.select(
                h.asset_id,
                h.step_id,
                h.kind,
                h.name,
                (h.copy_of != "").label("copied"),
                h.at,
                d.number,
                t.applications.c.name.label("application_name"),
                d.subject_id.label("person_id"),
                leaves.c.display_name.label("from_name"),
                giver.c.login.label("from_login"),
                receives.c.id.label("to_person_id"),
                receives.c.display_name.label("to_name"),
                taker.c.login.label("to_login"),
            )
            .select_from(t.handovers.join(t.dockets, d.id == h.docket_id))
            .join(t.applications, t.applications.c.id == h.application_id)
            .outerjoin(giver, giver.c.id == h.from_account)
            .outerjoin(taker, taker.c.id == h.to_account)
            .outerjoin(leaves, leaves.c.id == giver.c.person_id)
            .outerjoin(receives, receives.c.id == taker.c.person_id)
        )
        if docket_id:
            query = query.where(h.docket_id == docket_id)
        if person_id:
            query = query.where(
                sa.or_(giver.c.person_id == person_id, taker.c.person_id == person_id)
            )
        return await fetch(
            self.connection,
            query,
            [h.at, h.step_id, h.asset_id],
            reader(HandoverLine),
            cursor=cursor,
            limit=limit,
            descending=True,
            count=cursor is None,
        )

    async def figures(self, *, whole: bool = False) -> Figures:
        most = None if whole else COUNTED + 1
        rows = await self.connection.execute(statement(COUNTS_SQL), {"most": most})
        found = dict(rows.mappings().one())
        over = [n for n in COUNTED_ROWS if most and found[n] == most]
        return read(Figures, {**found, **dict.fromkeys(over, COUNTED), "over": over})

    async def counts(self, now: datetime, *, whole: bool = False) -> Counts:
        most = None if whole else COUNTED
        in_states = sa.union_all(
            *(
                sa.select(
                    sa.literal(state.value).label("state"), sa.func.count().label("n")
                ).select_from(in_state(state).limit(most).subquery())
                for state in PersonState
            )
        )
        rows = await self.connection.execute(in_states, moment(now))
        people = {PersonState(row.state): row.n for row in rows if row.n}
        return Counts(figures=await self.figures(whole=whole), states=people)

    async def turns(self) -> Turns:
        row = (await self.connection.execute(TURNS_SQL)).mappings().one()
        last = {noun: row[noun] for noun in Noun}
        return Turns(last, frozenset(row["running"]))

    async def gather(self) -> None:
        """Add up what was tallied; two at once leave it to one of them."""
        await self.connection.execute(GATHER_SQL)

    async def ping(self) -> float:
        """Milliseconds a trivial statement takes."""
        began = time.perf_counter()
        await self.connection.execute(sa.text("SELECT 1"))
        return (time.perf_counter() - began) * 1000


@lru_cache(maxsize=64)
def _windows(application_id: str) -> Listing:
    """Deleted accounts that can come back, of all applications or one, at the moment ``now``."""
    a, d = t.accounts.c, t.decisions.c
    now, until = sa.bindparam("now", type_=t.Moment), sa.bindparam("until", type_=t.Moment)
    held = sa.exists(
        sa.select(d.id).where(
            d.kind == "hold",
            d.subject_id.in_([a.person_id, a.application_id]),
            sa.or_(d.ends_at.is_(None), d.ends_at > now),
        )
    )
    query = (
        sa.select(
            a.id.label("account_id"),
            a.id,
            a.login,
            a.recoverable_until,
            t.applications.c.name.label("application_name"),
            a.person_id,
            t.people.c.display_name,
            held.label("held"),
        )
        .join(t.applications, t.applications.c.id == a.application_id)
        .outerjoin(t.people, t.people.c.id == a.person_id)
    )
    where = [a.state == "deleted", a.recoverable_until > now, a.recoverable_until <= until]
    if application_id:
        where.append(a.application_id == application_id)
    return Listing(query, [a.recoverable_until, a.id], chosen=sa.select(a.id).where(*where))
