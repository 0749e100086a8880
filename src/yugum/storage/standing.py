"""Marks, heads and rights: what is kept in step with the state, and by whom.

Marks are appended by triggers with the change itself. Whoever works them off deletes them first, locks
the heads second and reads last: what commits after the reading has a mark of its own.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import Any

import sqlalchemy as sa

from yugum.core.decisions import Right
from yugum.core.rights import Said, Turn
from yugum.ports.standing import Head, Told
from yugum.storage import tables as t
from yugum.storage.alike import Likeness
from yugum.storage.rows import (
    IDS,
    among,
    among_ids,
    as_json,
    decoded,
    statement,
    texts,
    to_array,
    to_json,
)

TAKE_SQL = """
DELETE FROM marks WHERE ctid = ANY(ARRAY(
  SELECT ctid FROM marks ORDER BY id LIMIT :limit FOR UPDATE SKIP LOCKED))
RETURNING subject_id, patrol
"""
"""By where they lie: statistics call the table empty, and a join would go through it for each."""

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
  SELECT r.subject_id FROM r JOIN heads h USING (subject_id)
  WHERE h.shape <> '' AND h.shape <> r.shape
), leaning AS (
  INSERT INTO marks (subject_id)
  SELECT h.subject_id FROM changed c JOIN heads h ON h.leans_on = c.subject_id
  UNION
  SELECT d.subject_id FROM changed c JOIN decisions d
    ON d.kind = 'successor' AND d.payload ->> 'person' = c.subject_id
)
UPDATE heads h SET upto_at = r.upto, shape = r.shape, leans_on = r.leans_on
FROM r WHERE h.subject_id = r.subject_id
"""

RIGHTS_SQL = """
SELECT r.account_id, r.since_at AS since, r.until_at AS until, r.known_at, r.not_before
FROM unnest(cast(:account_ids AS text[])) AS x(id)
CROSS JOIN LATERAL (SELECT * FROM rights WHERE account_id = x.id OFFSET 0) r
"""

PUT_RIGHTS_SQL = """
INSERT INTO rights AS g (account_id, since_at, until_at, known_at)
SELECT account_id, since, until, known_at FROM jsonb_to_recordset(cast(:rows AS jsonb)) AS r(
  account_id text, since timestamptz, until timestamptz, known_at timestamptz)
ON CONFLICT (account_id, since_at) DO UPDATE
SET until_at = excluded.until_at, known_at = excluded.known_at
WHERE g.until_at IS NULL OR g.until_at = g.since_at AND excluded.until_at IS NULL
"""
"""An end does not move; but what lasted for no time at all goes on where it is given again at once."""

TOLD_SQL = """
WITH r AS (
  SELECT x.id, h.upto_at AS since FROM unnest(cast(:ids AS text[])) AS x(id)
  LEFT JOIN LATERAL (SELECT upto_at FROM heads WHERE subject_id = x.id OFFSET 0) h ON true
)
SELECT f.person_id, f.effective_at, f.known_at, jsonb_exists(f.after, 'access_ends') AS ends,
  jsonb_exists(f.after, 'starts') AS begins,
  r.since IS NULL OR f.known_at >= r.since AS is_new, false AS is_made, f.before, f.after
FROM r CROSS JOIN LATERAL (SELECT * FROM facts WHERE person_id = r.id OFFSET 0) f
UNION ALL
SELECT s.id, s.known_at, s.known_at, false, false, true, true, NULL, NULL
FROM r JOIN subjects s ON s.id = r.id WHERE r.since IS NULL AND s.known_at IS NOT NULL
"""

PATROL_SQL = """
WITH begun AS (
  INSERT INTO patrols (began_at) SELECT :now
  WHERE NOT EXISTS (SELECT 1 FROM patrols WHERE began_at > :before)
    AND NOT EXISTS (SELECT 1 FROM sweeps WHERE patrol)
  ON CONFLICT DO NOTHING RETURNING 1
)
INSERT INTO sweeps (patrol) SELECT true FROM begun
"""

ENDED_SQL = """
INSERT INTO marks (subject_id)
SELECT DISTINCT s.subject_id FROM standing s JOIN accepted a ON a.id = s.ref
WHERE s.status = 'accepted' AND a.ends_at <= :now
  AND NOT EXISTS (SELECT 1 FROM marks m WHERE m.subject_id = s.subject_id)
"""
"""Whose line is accepted no longer, since its time is over."""

SAME_SQL = """
DELETE FROM sweeps WHERE id IN (SELECT id FROM sweeps WHERE upto = '' AND NOT patrol
  ORDER BY id OFFSET 1 FOR UPDATE SKIP LOCKED)
"""
"""Of those that have not begun one does for all: whoever it marks is looked at after every one of the changes."""

SWEEP_SQL = """
WITH s AS (
  SELECT id, upto, patrol FROM sweeps
  WHERE (SELECT count(*) FROM (SELECT 1 FROM marks LIMIT :most) m) < :most
  ORDER BY id LIMIT 1 FOR UPDATE SKIP LOCKED
), portion AS (
  SELECT x.id FROM s CROSS JOIN LATERAL (
    SELECT id FROM subjects WHERE id > s.upto ORDER BY id LIMIT :portion) x
), marked AS (
  INSERT INTO marks (subject_id, patrol) SELECT p.id, s.patrol FROM portion p, s
  RETURNING subject_id
), onward AS (
  UPDATE sweeps w SET upto = (SELECT max(subject_id) FROM marked) FROM s
  WHERE w.id = s.id AND EXISTS (SELECT 1 FROM marked)
), through AS (
  DELETE FROM sweeps w USING s WHERE w.id = s.id AND NOT EXISTS (SELECT 1 FROM marked)
)
SELECT count(*) AS swept FROM s
"""


UPTOS = sa.select(t.heads.c.subject_id, t.heads.c.upto_at).where(
    among_ids(t.heads.c.subject_id), t.heads.c.upto_at.isnot(None)
)
TOLD = sa.select(
    as_json(UPTOS, "uptos"), as_json(sa.text(TOLD_SQL).bindparams(IDS).columns(), "told")
)
"""Up to when some subjects were looked at, and what facts have said of them since."""
ENTITLED = TOLD.add_columns(
    as_json(sa.text(RIGHTS_SQL).bindparams(texts("account_ids")).columns(), "rights")
)


@dataclass(frozen=True, slots=True)
class _Upto:
    subject_id: str
    upto_at: datetime


@dataclass(frozen=True, slots=True)
class _Told:
    """A fact; ``is_made`` says that it is none, but the moment at which somebody was made known."""

    person_id: str
    effective_at: datetime
    known_at: datetime
    ends: bool
    begins: bool
    is_new: bool
    is_made: bool
    before: dict[str, Any] | None
    after: dict[str, Any] | None


def _told(uptos: str, facts: str) -> Told:
    turns: dict[str, list[Turn]] = {}
    said: dict[str, list[Said]] = {}
    ends: dict[str, datetime] = {}
    made: dict[str, datetime] = {}
    for r in decoded(_Told, facts):
        if r.is_new:
            turns.setdefault(r.person_id, []).append(Turn(r.effective_at, r.known_at, r.begins))
        if r.is_new and r.after:
            one = Said(r.effective_at, r.known_at, r.before or {}, r.after)
            said.setdefault(r.person_id, []).append(one)
        if r.is_made:
            made[r.person_id] = r.known_at
        if r.ends:
            ends[r.person_id] = max(r.known_at, ends.get(r.person_id, r.known_at))
    upto = {u.subject_id: u.upto_at for u in decoded(_Upto, uptos)}
    return Told(upto=upto, turns=turns, said=said, end_known_at=ends, made_at=made)


def _rights(found: str) -> Mapping[str, Right]:
    last: dict[str, Right] = {}
    for right in decoded(Right, found):
        before = last.get(right.account_id)
        if before is None or before.since < right.since:
            last[right.account_id] = right
    return last


class Standing(Likeness):
    async def mark(self, subject_ids: Iterable[str]) -> None:
        if not (ids := list(subject_ids)):
            return
        await self.connection.execute(
            sa.text("INSERT INTO marks (subject_id) SELECT unnest(cast(:ids AS text[]))"),
            {"ids": to_array(ids)},
        )

    async def take(self, limit: int) -> Mapping[str, Head]:
        marks: dict[str, bool] = {}
        for r in await self.connection.execute(statement(TAKE_SQL), {"limit": limit}):
            marks[r.subject_id] = marks.get(r.subject_id, True) and r.patrol
        if not marks:
            return {}
        rows = await self.connection.execute(statement(HEADS_SQL), {"ids": to_array(marks)})
        return {r.subject_id: replace(_head(r), patrol=marks[r.subject_id]) for r in rows}

    async def hold(self, subject_ids: Collection[str]) -> None:
        await self.connection.execute(statement(HEADS_SQL), {"ids": to_array(subject_ids)})

    async def put_heads(self, heads: Iterable[Head]) -> None:
        rows = [
            {"subject_id": h.subject_id, "upto": h.upto, "shape": h.shape, "leans_on": h.leans_on}
            for h in heads
        ]
        await self.connection.execute(statement(PUT_HEADS_SQL), {"rows": to_json(rows)})

    async def forget(self, subject_ids: Collection[str]) -> None:
        h = t.heads
        await self.connection.execute(sa.delete(h).where(among(h.c.subject_id, subject_ids)))

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
            await self.connection.execute(statement(PUT_RIGHTS_SQL), {"rows": to_json(rows)})

    async def told(self, subject_ids: Collection[str]) -> Told:
        return _told(*(await self.connection.execute(TOLD, {"ids": list(subject_ids)})).one())

    async def entitled(
        self, subject_ids: Collection[str], account_ids: Collection[str]
    ) -> tuple[Mapping[str, Right], Told]:
        values = {"ids": list(subject_ids), "account_ids": list(account_ids)}
        uptos, facts, rights = (await self.connection.execute(ENTITLED, values)).one()
        return _rights(rights), _told(uptos, facts)

    async def sweep(self, portion: int, most: int) -> bool:
        await self.connection.execute(statement(SAME_SQL))
        values = {"portion": portion, "most": most}
        return bool(await self.connection.scalar(statement(SWEEP_SQL), values))

    async def patrol(self, now: datetime, every: timedelta) -> bool:
        values = {"now": now, "before": now - every}
        return bool((await self.connection.execute(statement(PATROL_SQL), values)).rowcount)

    async def count_faults(self, faults: int) -> None:
        p = t.patrols
        latest = sa.select(sa.func.max(p.c.began_at)).scalar_subquery()
        await self.connection.execute(
            sa.update(p).where(p.c.began_at == latest).values(faults=p.c.faults + faults)
        )

    async def last_patrol(self) -> tuple[datetime, int] | None:
        p = t.patrols.c
        query = sa.select(p.began_at, p.faults).order_by(p.began_at.desc()).limit(1)
        row = (await self.connection.execute(query)).first()
        return (row.began_at, row.faults) if row else None

    async def mark_ended(self, now: datetime) -> int:
        return int((await self.connection.execute(statement(ENDED_SQL), {"now": now})).rowcount)

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
