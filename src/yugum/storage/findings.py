"""Findings: what the readings show that should not be, computed when asked for."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, timedelta

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.findings import Finding, FindingCount, FindingKind
from yugum.ports.pages import ListPage
from yugum.storage import tables as t
from yugum.storage.pages import fetch
from yugum.storage.rows import locked_sql, reader

SLEEP = timedelta(days=90)
"""An account nobody has used for so long sleeps."""

SOON = timedelta(days=30)
"""A credential that runs out within so long is told."""

COST = """(SELECT coalesce(sum(po.price_cents), 0) FROM seat_claims c
  JOIN pools po ON po.id = c.pool_id
  WHERE c.account_id = acc.id AND c.until_at IS NULL AND c.state = 'held')"""

FINDINGS_SQL = f"""
SELECT 'leaver-open' AS kind, acc.id AS key, acc.id AS account_id, p.id AS person_id,
  p.display_name, acc.login, a.name AS application_name, p.access_ends AS since, {COST} AS cents,
  '' AS about, '' AS other_login, cast(NULL AS jsonb) AS deviation
FROM accounts acc JOIN people p ON p.id = acc.person_id
JOIN applications a ON a.id = acc.application_id
WHERE p.access_ends <= :now AND acc.state = 'active' AND acc.kind = 'person' AND NOT {locked_sql("acc")}
UNION ALL
SELECT 'nobody-behind', acc.id, acc.id, NULL, acc.display_name, acc.login, a.name, h.from_at,
  {COST}, '', '', NULL
FROM accounts acc JOIN applications a ON a.id = acc.application_id
LEFT JOIN LATERAL (SELECT min(from_at) AS from_at FROM history WHERE account_id = acc.id) h ON true
WHERE acc.person_id IS NULL AND acc.kind = 'person' AND acc.state = 'active'
UNION ALL
SELECT 'without-owner', acc.id, acc.id, NULL, acc.display_name, acc.login, a.name, h.from_at,
  {COST}, acc.kind, '', NULL
FROM accounts acc JOIN applications a ON a.id = acc.application_id
LEFT JOIN LATERAL (SELECT min(from_at) AS from_at FROM history WHERE account_id = acc.id) h ON true
WHERE acc.person_id IS NULL AND acc.kind <> 'person' AND acc.state = 'active'
  AND (acc.kind <> 'group' OR a.groups ?| ARRAY['owner_id', 'owner_login']
    AND NOT EXISTS (SELECT 1 FROM accounts o LEFT JOIN people h ON h.id = o.person_id
      WHERE o.application_id = acc.application_id AND o.kind <> 'group'
        AND (o.external_id = acc.settings->>'owner_id' OR o.login = acc.settings->>'owner_login')
        AND (h.access_ends IS NULL OR h.access_ends > :now)))
UNION ALL
SELECT 'sleeper', acc.id, acc.id, p.id, p.display_name, acc.login, a.name, acc.last_used, {COST},
  floor(extract(epoch FROM cast(:now AS timestamptz) - acc.last_used) / 86400)::text, '', NULL
FROM accounts acc JOIN people p ON p.id = acc.person_id
JOIN applications a ON a.id = acc.application_id
WHERE acc.state = 'active' AND acc.kind = 'person' AND acc.last_used < :asleep
  AND (p.access_ends IS NULL OR p.access_ends > :now)
UNION ALL
SELECT 'leaver-seat', acc.id || po.id, acc.id, p.id, p.display_name, acc.login, a.name,
  p.access_ends, po.price_cents, po.license, '', NULL
FROM seat_claims c JOIN pools po ON po.id = c.pool_id JOIN accounts acc ON acc.id = c.account_id
JOIN people p ON p.id = c.person_id JOIN applications a ON a.id = acc.application_id
WHERE c.until_at IS NULL AND c.state = 'held' AND p.access_ends <= :now
UNION ALL
SELECT 'person-twice', p.id, NULL, p.id, p.display_name, p.user_name, 'people', NULL, 0,
  o.employee_number, o.user_name, NULL
FROM people p JOIN people o ON lower(o.display_name) = lower(p.display_name)
  AND o.department = p.department AND o.id < p.id
WHERE (p.access_ends IS NULL OR p.access_ends > :now)
  AND (o.access_ends IS NULL OR o.access_ends > :now)
UNION ALL
SELECT 'outside', d.id, acc.id, acc.person_id, coalesce(p.display_name, acc.display_name),
  acc.login, a.name, d.seen_at, 0, '', '',
  jsonb_build_object('kind', d.kind, 'item', d.item, 'was', d.was, 'now_is', d.now_is)
FROM deviations d JOIN accounts acc ON acc.id = d.account_id
JOIN applications a ON a.id = acc.application_id LEFT JOIN people p ON p.id = acc.person_id
WHERE d.state = 'open'
UNION ALL
SELECT 'delivered-name', acc.id, acc.id, acc.person_id, coalesce(p.display_name, acc.display_name),
  acc.login, a.name, NULL, 0, acc.id, '', NULL
FROM accounts acc JOIN applications a ON a.id = acc.application_id
LEFT JOIN people p ON p.id = acc.person_id
WHERE {t.delivered_sql("acc.login")} AND acc.state = 'active' AND acc.kind = 'person'
UNION ALL
SELECT 'credential-ends', a.id, NULL, NULL, NULL, '', a.name, a.credential_ends, 0, '', '', NULL
FROM applications a WHERE a.credential_ends < :soon
UNION ALL
SELECT 'uncovered', a.id, NULL, NULL, NULL, '', a.name, NULL, 0, '', '', NULL
FROM applications a LEFT JOIN applications b ON b.id = a.config->'options'->>'through'
WHERE a.disconnected_at IS NULL AND a.kind = 'sign-on' AND NOT coalesce(b.trust = 'full' AND b.capabilities ? 'suspend', false)
UNION ALL
SELECT s.side, concat_ws('/', s.subject_id, s.application_id, s.account_id, s.kind, s.item),
  nullif(s.account_id, ''), s.subject_id, p.display_name, coalesce(acc.login, p.user_name),
  coalesce(a.name, ''), s.since_at, 0, concat_ws(' ', s.kind, nullif(s.item, '')), s.reason, NULL
FROM standing s JOIN people p ON p.id = s.subject_id
LEFT JOIN applications a ON a.id = s.application_id LEFT JOIN accounts acc ON acc.id = s.account_id
WHERE s.status = 'finding' AND NOT (s.side = 'too_much' AND p.access_ends <= :now
  AND (s.kind = 'account' AND acc.state = 'active' OR s.kind = 'seat'))
"""
COLUMNS = (
    ("kind", sa.Text),
    ("key", sa.Text),
    ("account_id", sa.Text),
    ("person_id", sa.Text),
    ("display_name", sa.Text),
    ("login", sa.Text),
    ("application_name", sa.Text),
    ("since", t.Moment),
    ("cents", sa.BigInteger),
    ("about", sa.Text),
    ("other_login", sa.Text),
    ("deviation", JSONB),
)


class Findings:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    def _all(self, now: datetime) -> sa.Subquery:
        values = {"now": now, "asleep": now - SLEEP, "soon": now + SOON}
        text = sa.text(FINDINGS_SQL).bindparams(**values)
        return text.columns(*(sa.column(n, kind) for n, kind in COLUMNS)).subquery("f")

    async def page(
        self, now: datetime, *, kind: FindingKind | None, cursor: str | None, limit: int
    ) -> ListPage[Finding]:
        f = self._all(now)
        select = sa.select(f)
        if kind:
            select = select.where(f.c.kind == kind.value)
        keys = [f.c.kind, f.c.login, f.c.key]
        return await fetch(
            self.connection,
            select,
            keys,
            reader(Finding),
            cursor=cursor,
            limit=limit,
            count=cursor is None,
        )

    async def counts(self, now: datetime) -> Sequence[FindingCount]:
        f = self._all(now)
        query = (
            sa.select(f.c.kind, sa.func.count(), sa.func.sum(f.c.cents))
            .group_by(f.c.kind)
            .order_by(f.c.kind)
        )
        rows = await self.connection.execute(query)
        return [FindingCount(FindingKind(r[0]), int(r[1]), int(r[2])) for r in rows]
