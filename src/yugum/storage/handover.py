"""What people who leave or have left still own."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from datetime import datetime

import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.actions import GONE
from yugum.core.verbs import Verb
from yugum.ports.handover import Arrived, Given, Inherited, OwnedLine
from yugum.ports.pages import ListPage
from yugum.storage import tables as t
from yugum.storage.applications import CONNECTED
from yugum.storage.pages import fetch
from yugum.storage.rows import read_all, reader, to_array

ARRIVED_SQL = sa.text("""
WITH new AS (
  UPDATE handovers h SET told = true FROM dockets d
  WHERE d.subject_id = ANY(cast(:subjects AS text[])) AND h.docket_id = d.id AND NOT h.told
    AND NOT coalesce((d.cause->>'confidential')::bool, false)
  RETURNING h.docket_id, h.application_id, h.kind, h.name, h.to_account, d.subject_id, d.verb
)
SELECT n.docket_id, n.subject_id, f.display_name AS subject_name, p.id AS person_id,
  p.display_name AS person_name, p.mail AS address, a.name AS application_name, n.kind AS thing,
  count(*) AS count, (array_agg(n.name ORDER BY n.name))[1:5] AS names
FROM new n JOIN faces f ON f.id = n.subject_id JOIN accounts c ON c.id = n.to_account
JOIN people p ON p.id = c.person_id JOIN applications a ON a.id = n.application_id
WHERE n.verb = ANY(cast(:verbs AS text[])) AND p.id <> n.subject_id AND p.mail <> ''
GROUP BY 1, 2, 3, 4, 5, 6, 7, 8 ORDER BY 1, 4, 7, 8
""")
INHERITED_SQL = sa.text("""
SELECT c.person_id, f.display_name AS owner, d.number, h.kind AS thing, count(DISTINCT t.external_id) AS count
FROM accounts c JOIN handovers h ON h.to_account = c.id
JOIN accounts o ON o.id = h.from_account JOIN faces f ON f.id = o.person_id
JOIN dockets d ON d.id = h.docket_id
JOIN assets t ON t.account_id = c.id AND t.external_id = h.asset_id AND t.kind = h.kind
WHERE c.person_id = ANY(cast(:ids AS text[])) AND o.person_id <> c.person_id
GROUP BY 1, 2, 3, 4 ORDER BY 1, 3, 4
""")
CHOSEN_FOR_SQL = sa.text("""
SELECT DISTINCT d.payload->>'person' AS person_id, p.display_name AS name
FROM decisions d JOIN people p ON p.id = d.subject_id
WHERE d.kind = 'successor' AND d.payload->>'person' = ANY(cast(:ids AS text[]))
  AND (d.ends_at IS NULL OR d.ends_at > :now) AND (p.access_ends IS NULL OR p.access_ends > :now OR EXISTS (
    SELECT 1 FROM accounts a JOIN assets t ON t.account_id = a.id WHERE a.person_id = p.id AND a.state <> 'purged'))
ORDER BY 1, 2
""")
COPIED_SQL = sa.text("""
SELECT from_account, copy_of, to_account FROM handovers
WHERE from_account = ANY(cast(:ids AS text[])) AND copy_of <> ''
""")
GIVEN_SQL = sa.text("""
WITH given AS (
  SELECT DISTINCT ON (h.application_id, h.kind, h.asset_id)
    h.application_id, h.kind, h.asset_id, h.to_account, h.docket_id, h.at
  FROM accounts c JOIN handovers h ON h.from_account = c.id JOIN accounts g ON g.id = h.to_account
  WHERE c.person_id = :who AND g.person_id IS DISTINCT FROM c.person_id
  ORDER BY h.application_id, h.kind, h.asset_id, h.at DESC)
SELECT g.application_id, a.name AS application_name, g.kind AS thing, count(*) AS count, d.number,
  max(g.at) AS at, p.id AS to_id, coalesce(p.display_name, t.login) AS to_name,
  n.person_id AS now_id, coalesce(n.display_name, n.login, '') AS now_name
FROM given g JOIN applications a ON a.id = g.application_id JOIN dockets d ON d.id = g.docket_id
JOIN accounts t ON t.id = g.to_account LEFT JOIN people p ON p.id = t.person_id
LEFT JOIN LATERAL (
  SELECT c.login, c.person_id, x.display_name FROM assets s JOIN accounts c ON c.id = s.account_id
  LEFT JOIN people x ON x.id = c.person_id
  WHERE s.external_id = g.asset_id AND s.kind = g.kind AND c.application_id = g.application_id
  LIMIT 1) n ON true
GROUP BY 1, 2, 3, 5, 7, 8, 9, 10 ORDER BY 2, 3, 5, 8, 10 LIMIT :limit
""")


class Handover:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def arrived(
        self, subject_ids: Sequence[str], verbs: Collection[Verb]
    ) -> Sequence[Arrived]:
        values = {"subjects": to_array(subject_ids), "verbs": to_array(v.value for v in verbs)}
        return read_all(Arrived, await self.connection.execute(ARRIVED_SQL, values))

    async def given(self, person_id: str, limit: int) -> Sequence[Given]:
        values = {"who": person_id, "limit": limit}
        return read_all(Given, await self.connection.execute(GIVEN_SQL, values))

    async def inherited(self, person_ids: Sequence[str]) -> Sequence[Inherited]:
        values = {"ids": to_array(person_ids)}
        return read_all(Inherited, await self.connection.execute(INHERITED_SQL, values))

    async def copied(self, account_ids: Sequence[str]) -> frozenset[tuple[str, str, str]]:
        found = await self.connection.execute(COPIED_SQL, {"ids": to_array(account_ids)})
        return frozenset((r.from_account, r.copy_of, r.to_account) for r in found)

    async def chosen_for(
        self, person_ids: Sequence[str], now: datetime
    ) -> Mapping[str, Sequence[str]]:
        values = {"ids": to_array(person_ids), "now": now}
        found: dict[str, list[str]] = {}
        for row in await self.connection.execute(CHOSEN_FOR_SQL, values):
            found.setdefault(row.person_id, []).append(row.name)
        return found

    async def owned(
        self, application_id: str, cursor: str | None, limit: int
    ) -> ListPage[OwnedLine]:
        a, p, s = t.accounts.c, t.people.c, t.assets.c
        counted = (
            sa.select(s.account_id, s.kind.label("thing"), sa.func.count().label("count"))
            .where(s.account_id == a.id)
            .group_by(s.account_id, s.kind)
            .lateral("owned")
        )
        query = (
            sa.select(
                p.id.label("person_id"),
                a.application_id,
                a.id.label("account_id"),
                a.login,
                counted.c.thing,
                counted.c.count,
            )
            .select_from(t.people)
            .join(t.accounts, a.person_id == p.id)
            .join(t.applications, t.applications.c.id == a.application_id)
            .join(counted, sa.true())
            .where(p.access_ends.is_not(None), CONNECTED, a.state.not_in([x.value for x in GONE]))
        )
        if application_id:
            query = query.where(a.application_id == application_id)
        return await fetch(
            self.connection,
            query,
            [p.access_ends, p.id, a.id, counted.c.thing],
            reader(OwnedLine),
            cursor=cursor,
            limit=limit,
        )
