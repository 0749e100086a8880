"""Marks, heads and rights: what is kept in step with the state, and by whom.

Marks are appended by triggers with the change itself. Whoever works them off deletes them first, locks
the heads second and reads last: what commits after the reading has a mark of its own.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import asdict
from datetime import datetime, timedelta
from typing import Any

import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.decisions import Right
from yugum.core.dockets import DocketState
from yugum.core.rights import Turn
from yugum.core.standing import (
    Acceptance,
    AskedDocket,
    Hand,
    Key,
    Line,
    LineStatus,
    Side,
)
from yugum.errors import NotFound
from yugum.ports.pages import ListPage
from yugum.ports.standing import Chosen, Head, StandingLine, Told
from yugum.storage import tables as t
from yugum.storage.pages import fetch
from yugum.storage.rows import among, read, reader, to_array, to_json

TAKE_SQL = """
DELETE FROM marks WHERE id IN (
  SELECT id FROM marks ORDER BY id LIMIT :limit FOR UPDATE SKIP LOCKED)
RETURNING subject_id
"""

HEADS_SQL = """
INSERT INTO heads AS h (subject_id)
SELECT x FROM unnest(cast(:ids AS text[])) AS x ORDER BY x
ON CONFLICT (subject_id) DO UPDATE SET subject_id = excluded.subject_id
RETURNING h.subject_id, h.upto_at, h.shape, h.leans_on
"""
"""Two that look at one subject do it one after the other."""

PUT_HEADS_SQL = """
WITH r AS (
  SELECT * FROM jsonb_to_recordset(cast(:rows AS jsonb)) AS r(subject_id text, upto timestamptz,
    shape text, leans_on text)
), changed AS (
  SELECT r.subject_id FROM r JOIN heads h USING (subject_id) WHERE h.shape <> r.shape
), leaning AS (
  INSERT INTO marks (subject_id)
  SELECT h.subject_id FROM changed c JOIN heads h ON h.leans_on = c.subject_id
)
UPDATE heads h SET upto_at = r.upto, shape = r.shape, leans_on = r.leans_on
FROM r WHERE h.subject_id = r.subject_id
"""

RIGHTS_SQL = """
SELECT r.* FROM unnest(cast(:ids AS text[])) AS x(id)
CROSS JOIN LATERAL (
  SELECT account_id, since_at, until_at, known_at, not_before FROM rights
  WHERE account_id = x.id ORDER BY since_at DESC LIMIT 1) r
"""

PUT_RIGHTS_SQL = """
INSERT INTO rights AS g (account_id, since_at, until_at, known_at)
SELECT account_id, since, until, known_at FROM jsonb_to_recordset(cast(:rows AS jsonb)) AS r(
  account_id text, since timestamptz, until timestamptz, known_at timestamptz)
ON CONFLICT (account_id, since_at) DO UPDATE
SET until_at = excluded.until_at, known_at = excluded.known_at WHERE g.until_at IS NULL
"""

TOLD_SQL = """
SELECT f.person_id, f.effective_at, f.known_at, jsonb_exists(f.after, 'access_ends') AS ends,
  r.since IS NULL OR f.known_at > r.since AS is_new
FROM jsonb_to_recordset(cast(:rows AS jsonb)) AS r(id text, since timestamptz)
CROSS JOIN LATERAL (SELECT * FROM facts WHERE person_id = r.id OFFSET 0) f
"""

ASKED_SQL = """
SELECT d.id, d.number, d.subject_id, d.verb, d.state, d.state = 'cancelled' AS expired,
  coalesce(a.at, d.made_at) AS made
FROM unnest(cast(:ids AS text[])) AS x(id)
CROSS JOIN LATERAL (SELECT * FROM dockets WHERE subject_id = x.id
  AND state IN ('awaiting', 'cancelled', 'scheduled') OFFSET 0) d
LEFT JOIN LATERAL (SELECT min(coalesce(ended_at, made_at)) AS at, bool_or(state = 'expired') AS ran_out
  FROM approvals WHERE docket_id = d.id) a ON true
WHERE d.state = 'awaiting' OR d.state = 'scheduled' AND d.due_at <= :now OR a.ran_out AND NOT EXISTS (
  SELECT 1 FROM dockets l WHERE l.subject_id = d.subject_id AND l.verb = d.verb
  AND l.number > d.number)
"""

PUT_LINES_SQL = """
INSERT INTO standing (subject_id, application_id, account_id, kind, item, side, want, held, reason,
  status, code, ref, step_id, since_at)
SELECT subject_id, application_id, account_id, kind, item, side, want, held, reason, status, code,
  ref, step_id, since FROM jsonb_to_recordset(cast(:rows AS jsonb)) AS r(subject_id text,
  application_id text, account_id text, kind text, item text, side text, want text, held text,
  reason text, status text, code text, ref text, step_id text, since timestamptz)
ON CONFLICT (subject_id, application_id, account_id, kind, item, side) DO UPDATE
SET want = excluded.want, held = excluded.held, reason = excluded.reason, status = excluded.status,
  code = excluded.code, ref = excluded.ref, step_id = excluded.step_id
"""

DROP_LINES_SQL = """
DELETE FROM standing s USING jsonb_to_recordset(cast(:rows AS jsonb)) AS r(subject_id text,
  application_id text, account_id text, kind text, item text, side text)
WHERE (s.subject_id, s.application_id, s.account_id, s.kind, s.item, s.side)
  = (r.subject_id, r.application_id, r.account_id, r.kind, r.item, r.side)
"""

SWEEP_SQL = """
WITH s AS (
  SELECT id, upto FROM sweeps
  WHERE (SELECT count(*) FROM (SELECT 1 FROM marks LIMIT :most) m) < :most
  ORDER BY id LIMIT 1 FOR UPDATE SKIP LOCKED
), portion AS (
  SELECT x.id FROM s CROSS JOIN LATERAL (
    SELECT id FROM subjects WHERE id > s.upto ORDER BY id LIMIT :portion) x
), marked AS (
  INSERT INTO marks (subject_id) SELECT id FROM portion RETURNING subject_id
), onward AS (
  UPDATE sweeps w SET upto = (SELECT max(subject_id) FROM marked) FROM s
  WHERE w.id = s.id AND EXISTS (SELECT 1 FROM marked)
), through AS (
  DELETE FROM sweeps w USING s WHERE w.id = s.id AND NOT EXISTS (SELECT 1 FROM marked)
)
SELECT count(*) AS swept FROM s
"""


CUT_OFF_LATE = timedelta(minutes=15)
"""Access of somebody who has left is told after so long, anything else after a day."""
DAY_ROWS = 100
KEY = ("application_id", "account_id", "kind", "item", "side")


class Standing:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def mark(self, subject_ids: Iterable[str]) -> None:
        if not (ids := list(subject_ids)):
            return
        await self.connection.execute(
            sa.text("INSERT INTO marks (subject_id) SELECT unnest(cast(:ids AS text[]))"),
            {"ids": to_array(ids)},
        )

    async def take(self, limit: int) -> Mapping[str, Head]:
        ids = (await self.connection.scalars(sa.text(TAKE_SQL), {"limit": limit})).all()
        if not ids:
            return {}
        rows = await self.connection.execute(sa.text(HEADS_SQL), {"ids": to_array(set(ids))})
        return {r.subject_id: _head(r) for r in rows}

    async def heads(self, subject_ids: Collection[str]) -> Mapping[str, Head]:
        h = t.heads
        rows = await self.connection.execute(sa.select(h).where(among(h.c.subject_id, subject_ids)))
        return {r.subject_id: _head(r) for r in rows}

    async def marked(self) -> int:
        return int(await self.connection.scalar(sa.text("SELECT count(*) FROM marks")) or 0)

    async def put_heads(self, heads: Iterable[Head]) -> None:
        rows = [
            {"subject_id": h.subject_id, "upto": h.upto, "shape": h.shape, "leans_on": h.leans_on}
            for h in heads
        ]
        await self.connection.execute(sa.text(PUT_HEADS_SQL), {"rows": to_json(rows)})

    async def forget(self, subject_ids: Collection[str]) -> None:
        h = t.heads
        await self.connection.execute(sa.delete(h).where(among(h.c.subject_id, subject_ids)))

    async def rights(self, account_ids: Collection[str]) -> Mapping[str, Right]:
        if not account_ids:
            return {}
        rows = await self.connection.execute(sa.text(RIGHTS_SQL), {"ids": to_array(account_ids)})
        return {
            r.account_id: Right(
                account_id=r.account_id,
                since=r.since_at,
                until=r.until_at,
                known_at=r.known_at,
                not_before=r.not_before,
            )
            for r in rows
        }

    async def put_rights(self, rights: Iterable[Right]) -> None:
        rows = [
            {
                "account_id": r.account_id,
                "since": r.since,
                "until": r.until,
                "known_at": r.known_at,
            }
            for r in rights
        ]
        if rows:
            await self.connection.execute(sa.text(PUT_RIGHTS_SQL), {"rows": to_json(rows)})

    async def told(self, since: Mapping[str, datetime | None]) -> Told:
        rows = [{"id": i, "since": moment} for i, moment in since.items()]
        turns: dict[str, list[Turn]] = {}
        ends: dict[str, datetime] = {}
        for r in await self.connection.execute(sa.text(TOLD_SQL), {"rows": to_json(rows)}):
            if r.is_new:
                turns.setdefault(r.person_id, []).append(Turn(r.effective_at, r.known_at))
            if r.ends:
                ends[r.person_id] = max(r.known_at, ends.get(r.person_id, r.known_at))
        return Told(turns=turns, end_known_at=ends)

    async def hands(self, subject_ids: Collection[str], now: datetime) -> Mapping[str, Hand]:
        asked: dict[str, list[AskedDocket]] = {}
        due: set[str] = set()
        values = {"ids": to_array(subject_ids), "now": now}
        for r in (await self.connection.execute(sa.text(ASKED_SQL), values)).mappings():
            if r["state"] == DocketState.SCHEDULED:
                due.add(r["subject_id"])
            else:
                asked.setdefault(r["subject_id"], []).append(read(AskedDocket, r))
        accepted: dict[str, list[Acceptance]] = {}
        query = sa.select(t.accepted).where(among(t.accepted.c.subject_id, subject_ids))
        for r in (await self.connection.execute(query)).mappings():
            accepted.setdefault(r["subject_id"], []).append(_acceptance(r))
        return {
            i: Hand(asked=asked.get(i, ()), accepted=accepted.get(i, ()), due=i in due)
            for i in asked.keys() | accepted.keys() | due
        }

    async def lines(self, subject_ids: Collection[str]) -> Mapping[str, Mapping[Key, Line]]:
        s = t.standing
        query = sa.select(s, s.c.since_at.label("since")).where(among(s.c.subject_id, subject_ids))
        found: dict[str, dict[Key, Line]] = {}
        for r in (await self.connection.execute(query)).mappings():
            line = read(Line, r)
            found.setdefault(r["subject_id"], {})[line.key] = line
        return found

    async def put_lines(
        self, changed: Iterable[tuple[str, Line]], gone: Iterable[tuple[str, Key]]
    ) -> None:
        run = self.connection.execute
        if old := [{"subject_id": i, **dict(zip(KEY, k, strict=True))} for i, k in gone]:
            await run(sa.text(DROP_LINES_SQL), {"rows": to_json(old)})
        if rows := [{"subject_id": i, **asdict(line)} for i, line in changed]:
            await run(sa.text(PUT_LINES_SQL), {"rows": to_json(rows)})

    async def page(
        self,
        chosen: Chosen,
        cursor: str | None,
        limit: int,
    ) -> ListPage[StandingLine]:
        s, query = t.standing.c, _shown()
        for name, value in asdict(chosen).items():
            if name == "before" and value is not None:
                query = query.where(s.since_at <= value)
            elif value:
                query = query.where(s[name] == str(value))
        return await fetch(
            self.connection,
            query,
            [s.since_at, *(s[name] for name in ("subject_id", *KEY))],
            reader(StandingLine),
            cursor=cursor,
            limit=limit,
            count=cursor is None,
        )

    async def day(self, now: datetime, soon: datetime) -> Sequence[StandingLine]:
        s, p = t.standing.c, t.people.c
        leaves = p.access_ends <= now
        too_much = s.side.in_([Side.TOO_MUCH.value, Side.BOTH.value])
        begins = sa.and_(p.starts.isnot(None), p.starts <= sa.cast(soon, sa.Date))
        ahead = sa.and_(begins, p.starts > sa.cast(now, sa.Date))
        late = sa.or_(
            sa.and_(leaves, too_much, s.since_at <= now - CUT_OFF_LATE),
            sa.and_(ahead, s.side == Side.MISSING.value),
            s.since_at <= now - timedelta(days=1),
        )
        query = (
            _shown()
            .outerjoin(t.people, p.id == s.subject_id)
            .where(s.status.in_([LineStatus.WAITING.value, LineStatus.FINDING.value]), late)
            .order_by(s.since_at, *(s[name] for name in ("subject_id", *KEY)))
            .limit(DAY_ROWS)
        )
        rows = await self.connection.execute(query)
        return [read(StandingLine, r) for r in rows.mappings()]

    async def accept(self, acceptance: Acceptance) -> None:
        made = asdict(acceptance)
        made |= {"made_at": made.pop("made"), "ends_at": made.pop("ends")}
        await self.connection.execute(sa.insert(t.accepted).values(made))

    async def end_acceptance(self, acceptance_id: str, at: datetime) -> Acceptance:
        a = t.accepted
        row = (
            await self.connection.execute(
                sa.update(a)
                .where(a.c.id == acceptance_id, sa.or_(a.c.ends_at.is_(None), a.c.ends_at > at))
                .values(ends_at=at)
                .returning(a)
            )
        ).mappings()
        found = row.first()
        if found is None:
            raise NotFound(
                f"Nothing accepted as {acceptance_id} is in force.",
                remedy="List it: yugum standing list --status accepted.",
            )
        return _acceptance(found)

    async def sweep(self, portion: int, most: int) -> bool:
        values = {"portion": portion, "most": most}
        return bool(await self.connection.scalar(sa.text(SWEEP_SQL), values))

    async def sweep_all(self) -> None:
        await self.connection.execute(sa.insert(t.sweeps).values(application_id=None))

    async def sweeps(self) -> tuple[int, int]:
        row = (
            await self.connection.execute(
                sa.text(
                    """SELECT coalesce(sum((SELECT count(*) FROM subjects s WHERE s.id > w.upto)), 0)
                         AS ahead, (SELECT count(*) FROM subjects) AS whole FROM sweeps w"""
                )
            )
        ).one()
        return int(row.ahead), int(row.whole)


def _head(row: sa.Row[Any, Any, Any, Any]) -> Head:
    return Head(subject_id=row.subject_id, upto=row.upto_at, shape=row.shape, leans_on=row.leans_on)


def _acceptance(row: Mapping[Any, Any]) -> Acceptance:
    return read(Acceptance, {**row, "made": row["made_at"], "ends": row["ends_at"]})


def _shown() -> sa.Select[Any]:
    """Lines with the names people read."""
    s, k = t.standing.c, t.accepted.c
    return (
        sa.select(
            t.standing,
            s.since_at.label("since"),
            t.faces.c.display_name,
            t.faces.c.user_name,
            sa.func.coalesce(t.applications.c.name, "").label("application_name"),
            sa.func.coalesce(t.applications.c.contact, "").label("contact"),
            sa.func.coalesce(t.accounts.c.login, "").label("login"),
            t.dockets.c.number,
            t.steps.c.held_at.label("waits_since"),
            sa.func.coalesce(k.author, "").label("accepted_by"),
            sa.func.coalesce(k.reason, "").label("accepted_why"),
            k.ends_at.label("accepted_until"),
            k.id.label("acceptance_id"),
        )
        .join(t.faces, t.faces.c.id == s.subject_id)
        .outerjoin(t.applications, t.applications.c.id == s.application_id)
        .outerjoin(t.accounts, t.accounts.c.id == s.account_id)
        .outerjoin(t.dockets, t.dockets.c.id == s.ref)
        .outerjoin(t.accepted, k.id == s.ref)
        .outerjoin(t.steps, t.steps.c.id == s.step_id)
    )
