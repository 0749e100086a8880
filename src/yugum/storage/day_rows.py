"""What the day sheet tells of dockets, steps and windows, in one statement."""

from __future__ import annotations

from datetime import datetime, timedelta

import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.ports.views import DayDocket, DayRows, OpenLate, StuckStep, Window
from yugum.storage import tables as t
from yugum.storage.finding_sources import LEFT
from yugum.storage.rows import as_json, decoded, locked_sql
from yugum.storage.steps import STUCK

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
  AND recoverable_until < :last ORDER BY recoverable_until LIMIT 100) acc
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


def _text(sql: str, *moments: str) -> sa.TextualSelect:
    return sa.text(sql).bindparams(*(sa.bindparam(m, type_=t.Moment) for m in moments)).columns()


def _due(begin: str, until: str) -> sa.TextualSelect:
    """Dockets that are due from one moment and before another."""
    sql = DOCKETS_SQL.replace(":until", f":{until}").replace(":begin", f":{begin}")
    return _text(sql, begin, until)


ROWS = sa.select(
    as_json(_due("begin", "until"), "dockets"),
    as_json(_due("until", "week"), "later"),
    as_json(_text(OPEN_LATE_SQL, "now"), "late"),
    as_json(STUCK_STEPS, "stuck"),
    as_json(_text(LAST_CALL_SQL, "now", "last"), "windows"),
)


async def rows_of_day(
    connection: AsyncConnection, begin: datetime, now: datetime, end: datetime, week: timedelta
) -> DayRows:
    values = {"begin": begin, "until": end, "week": end + week, "now": now, "last": now + week}
    dockets, later, late, stuck, windows = (await connection.execute(ROWS, values)).one()
    return DayRows(
        dockets=decoded(DayDocket, dockets),
        later=decoded(DayDocket, later),
        open_late=decoded(OpenLate, late),
        stuck=decoded(StuckStep, stuck),
        last_call=decoded(Window, windows),
    )
