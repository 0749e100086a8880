"""Findings: what the readings show that should not be, worked out when asked for.

Every kind is answered from an index: of what may be found (`LOOSE`, `ALIKE`: kept by triggers, never
too few) the statement takes what is.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import datetime, timedelta
from decimal import Decimal
from typing import Any

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.findings import Finding, FindingCount, FindingKind
from yugum.errors import InvalidInput
from yugum.ports.findings import Pair
from yugum.ports.pages import ListPage
from yugum.storage import tables as t
from yugum.storage.finding_sources import SOURCES
from yugum.storage.loose import ALIKE_SQL, ASIDE_SQL, LOCK_LEFT_SQL
from yugum.storage.pages import COUNTED, REMEDY, fetch
from yugum.storage.rows import reader, to_json

SLEEP = timedelta(days=90)
"""An account nobody has used for so long sleeps."""

SOON = timedelta(days=30)
"""A credential that runs out within so long is told."""

PORTION = 1000
"""People who have left and have nothing open any more are put aside so many at a time."""

COLUMNS: tuple[tuple[str, Any], ...] = (
    *((name, sa.Text) for name in ("kind", "key", "account_id", "person_id", "display_name")),
    *((name, sa.Text) for name in ("login", "application_name")),
    ("since", t.Moment),
    ("cost", JSONB),
    ("about", sa.Text),
    ("other_login", sa.Text),
    ("deviation", JSONB),
)


class Findings:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def page(
        self,
        now: datetime,
        *,
        kind: FindingKind | None,
        cursor: str | None,
        limit: int,
        pairs: Sequence[Pair] = (),
    ) -> ListPage[Finding]:
        kept = await self._counted(now, _kinds(kind), pairs) if not cursor else []
        counts = {c.kind: c for c in kept}
        begin, _, place = (cursor or "").partition(".")
        kinds = [k for k in _kinds(kind) if k >= begin and (cursor or k in counts)]
        if cursor and begin not in kinds:
            raise InvalidInput("The cursor belongs to another list.", place="cursor", remedy=REMEDY)
        found: list[Finding] = []
        following = None
        for one in kinds:
            if len(found) == limit:
                following = f"{one}."
                break
            page = await self._of(now, one, place, limit - len(found), pairs)
            place = ""
            found += page.items
            if page.next:
                following = f"{one}.{page.next}"
                break
        total = sum(c.count for c in counts.values())
        over = any(c.over for c in counts.values())
        return ListPage(found, following, None if cursor else total, over)

    async def _of(
        self, now: datetime, kind: FindingKind, cursor: str, limit: int, pairs: Sequence[Pair]
    ) -> ListPage[Finding]:
        source = SOURCES[kind]
        text = sa.text(source.sql).bindparams(**_values(source.sql, now, pairs))
        columns = (*(sa.column(n, of) for n, of in COLUMNS), *source.places)
        f = text.columns(*columns).subquery("f")
        keys = [f.c[place.name] for place in source.places]
        return await fetch(
            self.connection,
            sa.select(f),
            keys,
            reader(Finding),
            cursor=cursor or None,
            limit=limit,
        )

    async def counts(
        self, now: datetime, *, priced: bool = True, pairs: Sequence[Pair] = ()
    ) -> Sequence[FindingCount]:
        return await self._counted(now, SOURCES, pairs, priced=priced)

    async def _counted(
        self,
        now: datetime,
        kinds: Iterable[FindingKind],
        pairs: Sequence[Pair],
        *,
        priced: bool = False,
    ) -> list[FindingCount]:
        """How many of each kind, in one statement; then what those cost that have a price."""
        counted = " UNION ALL ".join(
            f"SELECT '{k}', count(*) FROM (SELECT 1 {SOURCES[k].counted or SOURCES[k].rows}"
            f" LIMIT {COUNTED + 1}) f"
            for k in kinds
        )
        rows = await self.connection.execute(sa.text(counted), _values(counted, now, pairs))
        found = {FindingKind(row[0]): row[1] for row in rows if row[1]}
        some = [k for k, n in found.items() if priced and SOURCES[k].costs and n <= COUNTED]
        cost: dict[str, dict[str, Decimal]] = {}
        if some and await self.connection.scalar(sa.text("SELECT EXISTS (SELECT 1 FROM pools)")):
            costs = " UNION ALL ".join(
                f"SELECT '{k}', m.key, sum(m.value::numeric) FROM ({SOURCES[k].sql}) f"
                " CROSS JOIN LATERAL jsonb_each_text(f.cost) m WHERE m.value IS NOT NULL GROUP BY 2"
                for k in some
            )
            result = await self.connection.execute(sa.text(costs), _values(costs, now, pairs))
            for kind, currency, amount in result:
                cost.setdefault(kind, {})[currency] = amount
        return [
            FindingCount(
                kind=kind,
                count=min(n, COUNTED),
                cost=None if n > COUNTED and SOURCES[kind].costs else cost.get(kind, {}),
                over=n > COUNTED,
            )
            for kind, n in found.items()
        ]

    async def compare_names(self) -> None:
        """Note who is alike that two processes stored at the same moment, neither seeing the other."""
        await self.connection.execute(ALIKE_SQL)

    async def put_aside(self, now: datetime) -> int:
        """Take out those who left and have nothing open; who opens something brings them back.

        Their rows are locked before it is looked at what they have: whoever opens something for one
        of them meanwhile waits, or has been seen.
        """
        values = {"now": now, "portion": PORTION}
        ids = list((await self.connection.execute(LOCK_LEFT_SQL, values)).scalars())
        if ids:
            await self.connection.execute(ASIDE_SQL, {"ids": ids})
        return len(ids)


def _kinds(kind: FindingKind | None) -> list[FindingKind]:
    return [kind] if kind else sorted(SOURCES)


def _values(sql: str, now: datetime, pairs: Sequence[Pair]) -> dict[str, Any]:
    names = ("application", "license", "item")
    said = to_json([dict(zip(names, pair, strict=True)) for pair in pairs])
    values = {"now": now, "asleep": now - SLEEP, "soon": now + SOON, "pairs": said}
    return {name: value for name, value in values.items() if f":{name}" in sql}
