"""Dockets of one subject beside each other: what a later one takes over, what waits, what is left out."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import fields
from datetime import datetime
from typing import Any

import sqlalchemy as sa

from yugum.core.dockets import OpenStep
from yugum.core.verbs import WHOLE
from yugum.storage import tables as t
from yugum.storage.rows import among, among_ids, read_all, statement, to_array
from yugum.storage.steps import OPEN, Steps

OPEN_STEP = tuple(f.name for f in fields(OpenStep))

DOUBT = "({0}.state = 'settling' OR {0}.state = 'intent' AND coalesce({0}.problem->>'code', '') <> 'task')"
IN_DOUBT = DOUBT.format("o")
"""Nobody knows yet whether it was done: it is settled by looking, whatever begins beside it."""

EARLIER = """dockets b JOIN dockets e ON e.subject_id = b.subject_id AND e.state = 'running'
    AND e.id <> b.id AND b.id = ANY(cast(:ids AS text[]))"""

LEND_SQL = f"""
WITH lent AS (
  SELECT n.docket_id, n.account_id AS fresh, o.account_id AS open
  FROM {EARLIER}
  JOIN steps o ON o.docket_id = e.id AND o.action = 'create' AND {IN_DOUBT}
  JOIN steps n ON n.docket_id = b.id AND n.action = 'create' AND n.application_id = o.application_id
)
UPDATE steps s SET account_id = l.open,
  state = CASE WHEN s.action = 'create' THEN 'left_out' ELSE s.state END,
  problem = CASE WHEN s.action = 'create' THEN jsonb_build_object('code', 'superseded',
    'text', 'An earlier docket makes this account.') ELSE s.problem END
FROM lent l WHERE s.docket_id = l.docket_id AND s.account_id = l.fresh
"""
"""An account that is being made lends its id: no second one is made."""

TAKE_OVER_SQL = f"""
UPDATE steps o SET state = 'left_out', retry_at = NULL,
  problem = jsonb_build_object('code', 'superseded', 'text', 'A later docket took over.')
FROM {EARLIER}
WHERE o.docket_id = e.id AND o.state NOT IN ('done', 'left_out') AND (
  e.id = b.undoes OR NOT {IN_DOUBT} AND (
    b.verb = ANY(:whole) AND e.verb = ANY(:whole)
    OR EXISTS (SELECT 1 FROM steps n WHERE n.docket_id = b.id AND n.account_id = o.account_id
      AND (b.verb IN ('close', 'purge') OR b.verb = 'account' AND b.cause->>'measure' IS NULL
        OR (n.action, n.item) = (o.action, o.item)))
    OR EXISTS (SELECT 1 FROM steps x JOIN steps n ON n.application_id = x.application_id
      WHERE x.docket_id = e.id AND x.account_id = o.account_id AND x.action = 'create'
        AND x.state NOT IN ('done', 'left_out') AND NOT {DOUBT.format("x")}
        AND n.docket_id = b.id AND n.action = 'create')
    OR (b.verb IN ('leaver', 'absence') AND e.verb = 'undo'
        OR b.cause->>'measure' = 'suspend' AND (e.verb = 'undo' OR e.verb = ANY(:whole)))
      AND EXISTS (SELECT 1 FROM steps x WHERE x.docket_id = e.id AND x.account_id = o.account_id
        AND x.action IN ('create', 'restore', 'reopen', 'resume', 'set_credential')
        AND x.state NOT IN ('done', 'left_out'))))
RETURNING o.id, b.subject_id, b.verb = 'purge' AND e.verb = ANY(:whole) AS given
"""
"""What a later docket does itself: everything of a person, everything of an account, or the same step.

A precaution is about all of somebody, and leaves to others what they have to do to a single account.

An account is made once: whatever an earlier docket would do to the one it has still to make goes with it.

Who leaves, is away or is suspended as a whole is let in by nothing that an earlier docket has left to do.
"""

TASKS_SQL = """
UPDATE tasks k SET state = 'refused', ended_at = :now, ended_by = 'Yugum',
  evidence = 'withdrawn: a later docket took over'
WHERE k.step_id = ANY(cast(:ids AS text[])) AND k.state = 'open'
"""

SUPERSEDED_SQL = f"""
WITH earlier AS (
  SELECT e.id, EXISTS (SELECT 1 FROM steps s WHERE s.docket_id = e.id
    AND s.state NOT IN ('done', 'left_out')) AS open FROM {EARLIER}
)
UPDATE dockets d SET waiting_at = coalesce(d.waiting_at, :now),
  state = CASE WHEN x.open THEN d.state ELSE 'superseded' END,
  ended_at = CASE WHEN x.open THEN d.ended_at ELSE :now END,
  machine_ended = CASE WHEN x.open THEN d.machine_ended ELSE clock_timestamp() END
FROM earlier x WHERE d.id = x.id
"""


def _begun() -> sa.Select[Any]:
    s, d = t.steps.c, t.dockets.c
    names = [n for n in OPEN_STEP if n not in ("number", "verb", "waiting")]
    waits = d.waiting_at.isnot(None).label("waiting")
    return (
        sa.select(*(s[n] for n in names), d.number, d.verb, waits)
        .join(t.dockets, d.id == s.docket_id)
        .where(among_ids(d.subject_id), d.state == "running", OPEN)
        .order_by(d.number, s.position)
    )


BEGUN = _begun()
NUMBERS = sa.select(t.dockets.c.id, t.dockets.c.number).where(among_ids(t.dockets.c.id))


class Beside(Steps):
    async def earlier(self, docket_ids: Sequence[str]) -> Sequence[str]:
        earlier = t.dockets.alias("e")
        d, e = t.dockets.c, earlier.c
        query = (
            sa.select(e.id)
            .select_from(t.dockets.join(earlier, e.subject_id == d.subject_id))
            .where(among(d.id, docket_ids), e.state == "running", e.id != d.id)
        )
        return (await self.connection.scalars(query)).all()

    async def take_over(self, docket_ids: Sequence[str], now: datetime) -> Collection[str]:
        values = {"ids": to_array(docket_ids)}
        await self.connection.execute(statement(LEND_SQL), values)
        whole = [v.value for v in sorted(WHOLE)]
        left_out = await self.connection.execute(
            statement(TAKE_OVER_SQL), {**values, "whole": whole}
        )
        rows = left_out.all()
        if gone := [r.id for r in rows]:
            await self.connection.execute(statement(TASKS_SQL), {"ids": to_array(gone), "now": now})
        await self.connection.execute(statement(SUPERSEDED_SQL), {**values, "now": now})
        return {r.subject_id for r in rows if r.given}

    async def begun(self, subject_ids: Sequence[str]) -> Sequence[OpenStep]:
        result = await self.connection.execute(BEGUN, {"ids": list(subject_ids)})
        return read_all(OpenStep, result)

    async def numbers(self, docket_ids: Collection[str]) -> Mapping[str, int]:
        if not docket_ids:
            return {}
        result = await self.connection.execute(NUMBERS, {"ids": list(docket_ids)})
        return {r.id: r.number for r in result}

    async def leave_out(self, step_ids: Sequence[str], text: str, now: datetime) -> None:
        s = t.steps
        await self.connection.execute(
            sa.update(s)
            .where(among(s.c.id, step_ids), OPEN)
            .values(
                state="left_out",
                retry_at=None,
                done_at=now,
                problem={"code": "superseded", "text": text},
            )
        )
        await self.connection.execute(statement(TASKS_SQL), {"ids": to_array(step_ids), "now": now})

    async def let_go_on(self, step_ids: Sequence[str]) -> None:
        s = t.steps
        await self.connection.execute(
            sa.update(s)
            .where(among(s.c.id, step_ids), s.c.state == "due")
            .values(problem=None, retry_at=None)
        )

    async def let_wait(self, subject_ids: Sequence[str], now: datetime) -> Sequence[str]:
        d = t.dockets
        running = sa.and_(among(d.c.subject_id, subject_ids), d.c.state == "running")
        await self.connection.execute(
            sa.update(d).where(running, d.c.waiting_at.is_(None)).values(waiting_at=now)
        )
        return (
            await self.connection.scalars(sa.select(d.c.subject_id).distinct().where(running))
        ).all()
