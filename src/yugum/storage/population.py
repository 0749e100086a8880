"""Many people at once: what they have in common, and what those of a combination hold."""

from __future__ import annotations

from collections.abc import AsyncIterator, Mapping, Sequence
from datetime import datetime

import orjson
import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.ports.population import Combination, PersonHolding
from yugum.storage import tables as t
from yugum.storage.rows import read_all, to_array

KEY_SQL = """(SELECT coalesce(jsonb_agg(CASE WHEN left(a.name, 1) = '?'
    THEN CASE WHEN jsonb_exists(p.folded, substr(a.name, 2)) THEN '["there"]' ELSE '[]' END::jsonb
    ELSE coalesce(p.folded->a.name, '[]'::jsonb) END ORDER BY a.n), '[]'::jsonb)::text
  FROM unnest(cast(:attributes AS text[])) WITH ORDINALITY AS a(name, n))"""
"""What somebody has in some attributes, as one text that is the same for all who are alike.

Of an attribute led by a question mark only its presence counts.
"""

HOLDING_SQL = f"""
WITH chosen AS (
  SELECT k.* FROM (
    SELECT p.id, p.display_name, p.user_name, {KEY_SQL} AS key FROM {{source}}
    WHERE p.id > :after AND (p.access_ends IS NULL OR p.access_ends > :now)
  ) k WHERE k.key = ANY(:keys) ORDER BY k.id LIMIT :portion
)
SELECT c.id, c.display_name, c.user_name, c.key,
  coalesce(jsonb_object_agg(a.application_id, jsonb_build_object(
    'state', a.state, 'entitlements', to_jsonb(a.entitlements), 'seats', to_jsonb(a.seats),
    'settings', a.settings, 'ruled', coalesce(l.ruled, '[]'::jsonb)))
    FILTER (WHERE a.id IS NOT NULL), '{{}}'::jsonb) AS held
FROM chosen c
LEFT JOIN accounts a ON a.person_id = c.id AND a.application_id = ANY(:applications)
  AND a.state <> 'purged'
LEFT JOIN LATERAL (
  SELECT jsonb_agg(g.kind || ':' || g.item) AS ruled FROM ledger g
  WHERE g.account_id = a.id AND g.origin_kind = 'role') l ON true
GROUP BY c.id, c.display_name, c.user_name, c.key ORDER BY c.id
"""
"""People of chosen combinations with what they hold and which of it a role gave."""

ALIKE_AMONG_SQL = f"""
SELECT f.key, f.there, array_agg(f.id) AS ids, array_agg(f.who) AS names FROM (
  SELECT k.key AS who, p.id, p.access_ends IS NULL OR p.access_ends > :now AS there,
    {KEY_SQL} AS key
  FROM unnest(cast(:keys AS text[])) AS k(key)
  CROSS JOIN LATERAL (SELECT * FROM people WHERE {{column}} = k.key OFFSET 0) p
) f GROUP BY 1, 2
"""
SOME = """unnest(cast(:among AS text[])) AS m(id)
CROSS JOIN LATERAL (SELECT * FROM people WHERE id = m.id OFFSET 0) p"""
"""Each by its key: of a thousand the planner would read the whole table rather than look them up."""


def _source(among: Sequence[str] | None) -> str:
    """Everybody, or some people found by their ids: a join, for a long array is slow to test."""
    return "people p" if among is None else SOME


def _values(attributes: Sequence[str], key: str) -> Mapping[str, Sequence[str]]:
    """What a combination's key stands for."""
    values = zip(attributes, orjson.loads(key), strict=True)
    return {name.removeprefix("?"): v for name, v in values if v}


class Population:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def ids_after(self, after: str, limit: int) -> Sequence[str]:
        """The next ids in their order, to go through everybody in portions."""
        p = t.people.c
        query = sa.select(p.id).where(p.id > after).order_by(p.id).limit(limit)
        return (await self.connection.scalars(query)).all()

    async def combinations(self, attributes: Sequence[str], now: datetime) -> Sequence[Combination]:
        rows = await self.connection.execute(
            sa.text(
                f"""SELECT {KEY_SQL} AS key, count(*) AS people FROM people p
                    WHERE p.access_ends IS NULL OR p.access_ends > :now GROUP BY 1"""
            ),
            {"attributes": list(attributes), "now": now},
        )
        return [Combination(r.key, _values(attributes, r.key), r.people) for r in rows]

    async def combinations_of(
        self, attributes: Sequence[str], now: datetime, who: Sequence[str]
    ) -> tuple[Sequence[Combination], Sequence[str]]:
        """The same among people named by login or number, with their ids; and names of nobody."""
        missing = list(dict.fromkeys(who))
        ids: dict[str, dict[str, None]] = {}
        # Numbers only where no login fits: an OR over both would read the whole table.
        for column in ("user_name", "employee_number"):
            if not missing:
                break
            rows = await self.connection.execute(
                sa.text(ALIKE_AMONG_SQL.replace("{column}", column)),
                {"attributes": list(attributes), "now": now, "keys": to_array(missing)},
            )
            found: set[str] = set()
            for row in rows:
                found.update(row.names)
                if row.there:
                    ids.setdefault(row.key, {}).update(dict.fromkeys(row.ids))
            missing = [name for name in missing if name not in found]
        combinations = [
            Combination(key, _values(attributes, key), len(mine), list(mine))
            for key, mine in ids.items()
        ]
        return combinations, missing

    async def holding(
        self,
        attributes: Sequence[str],
        keys: Sequence[str],
        applications: Sequence[str],
        now: datetime,
        portion: int,
        among: Sequence[str] | None = None,
    ) -> AsyncIterator[Sequence[PersonHolding]]:
        """People of some combinations with what they hold in some applications, in portions.

        ``among`` are the ids of those to look at; without it everybody is.
        """
        after = ""
        while True:
            result = await self.connection.execute(
                sa.text(HOLDING_SQL.replace("{source}", _source(among))),
                {
                    "attributes": list(attributes),
                    "keys": list(keys),
                    "applications": list(applications),
                    "now": now,
                    "after": after,
                    "portion": portion,
                    **({} if among is None else {"among": to_array(among)}),
                },
            )
            rows = read_all(PersonHolding, result)
            if rows:
                yield rows
            if len(rows) < portion:
                return
            after = rows[-1].id
