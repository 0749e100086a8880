"""Read models: the installation, the day sheet, windows, handovers and counts."""

from __future__ import annotations

import time
from collections.abc import Sequence
from dataclasses import asdict
from datetime import datetime
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
    DayDocket,
    DayRows,
    Figures,
    HandoverLine,
    Installation,
    OpenLate,
    StuckStep,
    Turns,
    Window,
)
from yugum.storage import tables as t
from yugum.storage.everybody import in_state, moment
from yugum.storage.finding_sources import LEFT
from yugum.storage.pages import COUNTED, Listing, fetch, listed
from yugum.storage.rows import locked_sql, read, read_all, reader, statement
from yugum.storage.steps import STUCK

T = TypeVar("T")

DAY_ROWS = 100

OPEN_LATE_SQL = f"""
SELECT p.id AS person_id, p.display_name, a.name AS application_name, a.contact, acc.login,
  p.access_ends, s.problem, acc.sessions
FROM people p JOIN accounts acc ON acc.person_id = p.id
JOIN applications a ON a.id = acc.application_id
LEFT JOIN LATERAL (
  SELECT st.problem FROM dockets d JOIN steps st ON st.docket_id = d.id
  WHERE d.subject_id = acc.person_id AND d.state = 'running' AND st.account_id = acc.id
    AND st.action IN ('cut_off', 'lock') AND st.state NOT IN ('done', 'left_out') ORDER BY st.position LIMIT 1) s ON true
WHERE {LEFT} AND acc.state = 'active' AND NOT {locked_sql("acc")}
ORDER BY p.open_end LIMIT 100
"""

DOCKETS_SQL = """
SELECT d.id, d.number, d.verb, d.state, d.due_at, d.reason,
  coalesce(d.cause->'changes', '{}') AS changes,
  coalesce(d.document->'summary', '[]') AS summary,
  p.id AS person_id, p.display_name, p.title, p.department, p.site, p.time_zone,
  n.steps_total, n.steps_done, n.problem
FROM (SELECT * FROM dockets
  WHERE state IN ('scheduled', 'running', 'done') AND due_at >= :begin AND due_at < :until
    AND verb NOT IN ('close', 'purge', 'recheck') ORDER BY due_at, number LIMIT 300) d
JOIN faces p ON p.id = d.subject_id
CROSS JOIN LATERAL (SELECT count(*) AS steps_total,
  count(*) FILTER (WHERE s.state IN ('done', 'left_out')) AS steps_done,
  (array_agg(s.problem ORDER BY s.position)
    FILTER (WHERE s.problem IS NOT NULL AND s.state NOT IN ('done', 'left_out')))[1] AS problem
  FROM steps s WHERE s.docket_id = d.id) n
ORDER BY d.due_at, d.number
"""

LAST_CALL_SQL = """
SELECT acc.id AS account_id, acc.login, acc.recoverable_until, a.name AS application_name,
  p.id AS person_id, p.display_name
FROM (SELECT * FROM accounts WHERE state = 'deleted' AND recoverable_until > :now
  AND recoverable_until < :week ORDER BY recoverable_until LIMIT 100) acc
JOIN applications a ON a.id = acc.application_id
LEFT JOIN people p ON p.id = acc.person_id
ORDER BY acc.recoverable_until
"""


STUCK_STEPS = (
    sa.select(
        t.steps.c.id.label("step_id"),
        t.dockets.c.id.label("docket_id"),
        t.dockets.c.number,
        t.dockets.c.verb,
        t.faces.c.id.label("person_id"),
        t.faces.c.display_name,
        t.steps.c.action,
        t.steps.c.item,
        t.steps.c.state,
        t.steps.c.problem,
        t.applications.c.name.label("application_name"),
        t.applications.c.contact,
    )
    .select_from(t.steps.join(t.dockets, t.dockets.c.id == t.steps.c.docket_id))
    .join(t.faces, t.faces.c.id == t.steps.c.subject_id)
    .join(t.applications, t.applications.c.id == t.steps.c.application_id)
    .where(t.dockets.c.state == "running", STUCK)
    .order_by(t.dockets.c.number, t.steps.c.position)
    .limit(DAY_ROWS)
)


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

    async def _all(self, kind: type[T], sql: str, **values: object) -> list[T]:
        result = await self.connection.execute(statement(sql), values)
        return read_all(kind, result)

    async def installation(self) -> Installation | None:
        row = (await self.connection.execute(sa.select(t.installation))).mappings().first()
        return read(Installation, row) if row else None

    async def found(self, installation: Installation) -> None:
        if await self.installation() is not None:
            raise Conflict("This database belongs to an organisation already.")
        await self.connection.execute(
            sa.insert(t.installation).values(id=1, **asdict(installation))
        )

    async def day(self, begin: datetime, now: datetime, until: datetime) -> DayRows:
        return DayRows(
            dockets=await self.due(begin, until),
            open_late=await self._all(OpenLate, OPEN_LATE_SQL, now=now),
            stuck=await self._stuck(),
        )

    async def due(self, begin: datetime, until: datetime) -> Sequence[DayDocket]:
        return await self._all(DayDocket, DOCKETS_SQL, begin=begin, until=until)

    async def _stuck(self) -> list[StuckStep]:
        return read_all(StuckStep, await self.connection.execute(STUCK_STEPS))

    async def last_call(self, now: datetime, until: datetime) -> Sequence[Window]:
        return await self._all(Window, LAST_CALL_SQL, now=now, week=until)

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
