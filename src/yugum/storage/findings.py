"""Findings: what the readings show that should not be, worked out when asked for.

Every kind is answered from an index: of what may be found (`LOOSE`, `ALIKE`: kept by triggers, never
too few) the statement takes what is.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping, Sequence
from dataclasses import asdict
from datetime import datetime, timedelta
from decimal import Decimal
from typing import Any

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import JSONB, insert

from yugum.core.findings import Finding, FindingCount, FindingKind
from yugum.errors import InvalidInput
from yugum.ports.findings import EVERY, ChosenFindings, NewAcceptance, Pair
from yugum.ports.pages import ListPage
from yugum.storage import tables as t
from yugum.storage.finding_days import FindingDays
from yugum.storage.finding_sources import SOURCES
from yugum.storage.loose import ALIKE_SQL, ASIDE_SQL, LOCK_LEFT_SQL
from yugum.storage.pages import COUNTED, REMEDY, fetch, patient
from yugum.storage.rows import reader, statement, to_json

SLEEP = timedelta(days=90)
"""An account nobody has used for so long sleeps."""

SOON = timedelta(days=30)
"""A credential that runs out within so long is told."""

NARROWER = "Name a kind as well."
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
    ("accepted_until", t.Moment),
    ("accepted_by", sa.Text),
    ("accepted_why", sa.Text),
)
IN_FORCE = "FROM accepted_findings x WHERE x.until_at > :now"
OF_IT = "x.kind = s.kind AND x.key = s.key AND x.until_at > :now"
PLAIN = "SELECT s.*, NULL AS accepted_until, '' AS accepted_by, '' AS accepted_why FROM ({sql}) s"
ACCEPTED = f"""SELECT s.*, x.until_at AS accepted_until, x.author AS accepted_by, x.reason AS accepted_why
FROM ({{sql}}) s JOIN accepted_findings x ON {OF_IT}"""
OPEN = f"{PLAIN} WHERE NOT EXISTS (SELECT 1 FROM accepted_findings x WHERE {OF_IT})"
"""Asked only of kinds of which anything is accepted: the others are answered from their index alone."""


class Findings(FindingDays):
    async def page(
        self,
        now: datetime,
        chosen: ChosenFindings = EVERY,
        *,
        cursor: str | None,
        limit: int,
        pairs: Sequence[Pair] = (),
    ) -> ListPage[Finding]:
        async with patient(self.connection, NARROWER if chosen.narrow else ""):
            return await self._page(now, chosen, cursor, limit, pairs)

    async def _page(
        self,
        now: datetime,
        chosen: ChosenFindings,
        cursor: str | None,
        limit: int,
        pairs: Sequence[Pair],
    ) -> ListPage[Finding]:
        some, accepted = await self._accepted(now), chosen.accepted
        begin, _, place = (cursor or "").partition(".")
        # The last of a kind may be told again while somebody pages: the cursor is still of this list.
        among = [k for k in _kinds(chosen.kind) if not accepted or k in some or k == begin]
        forms = {k: _narrowed(_form(k, some, accepted=accepted), chosen) for k in among}
        given = {**_given(now, pairs), "of_application": chosen.application, "of": chosen.person_id}
        kept = await self._counted(forms, given) if not cursor else []
        counts = {c.kind: c for c in kept}
        kinds = [k for k in among if k >= begin and (cursor or k in counts)]
        if cursor and begin not in kinds:
            raise InvalidInput("The cursor belongs to another list.", place="cursor", remedy=REMEDY)
        found: list[Finding] = []
        following = None
        for one in kinds:
            if len(found) == limit:
                following = f"{one}."
                break
            page = await self._of(one, forms[one], place, limit - len(found), given)
            place = ""
            found += page.items
            if page.next:
                following = f"{one}.{page.next}"
                break
        total = sum(c.count for c in counts.values())
        over = any(c.over for c in counts.values())
        return ListPage(found, following, None if cursor else total, over)

    async def _of(
        self, kind: FindingKind, form: str, cursor: str, limit: int, given: Mapping[str, Any]
    ) -> ListPage[Finding]:
        source = SOURCES[kind]
        sql = form.format(sql=source.sql)
        text = statement(sql).bindparams(**_values(sql, given))
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
        some = await self._accepted(now)
        forms = {k: _form(k, some, accepted=False) for k in SOURCES}
        return await self._counted(forms, _given(now, pairs), priced=priced)

    async def _accepted(self, now: datetime) -> frozenset[str]:
        """The kinds of which anything is accepted."""
        query = sa.text(f"SELECT DISTINCT x.kind {IN_FORCE}")
        return frozenset((await self.connection.execute(query, {"now": now})).scalars())

    async def there(
        self, now: datetime, kind: FindingKind, keys: Sequence[str], pairs: Sequence[Pair]
    ) -> Sequence[str]:
        sql = f"SELECT s.key FROM ({SOURCES[kind].sql}) s WHERE s.key = ANY(cast(:keys AS text[]))"
        values = {**_values(sql, _given(now, pairs)), "keys": list(keys)}
        return list((await self.connection.execute(statement(sql), values)).scalars())

    async def accept(self, made: Sequence[NewAcceptance]) -> None:
        if not made:
            return
        new = insert(t.accepted_findings)
        said = ("until_at", "author", "reason", "made_at")
        anew = new.on_conflict_do_update(
            index_elements=["kind", "key"], set_={name: new.excluded[name] for name in said}
        )
        await self.connection.execute(anew, [asdict(one) for one in made])
        over = t.accepted_findings.c.until_at <= made[0].made_at
        await self.connection.execute(sa.delete(t.accepted_findings).where(over))

    async def end_acceptance(
        self, items: Sequence[tuple[FindingKind, str]]
    ) -> Sequence[tuple[FindingKind, str]]:
        f = t.accepted_findings.c
        of_them = sa.tuple_(f.kind, f.key).in_([(k.value, key) for k, key in items])
        gone = sa.delete(t.accepted_findings).where(of_them).returning(f.kind, f.key)
        return [(FindingKind(k), key) for k, key in await self.connection.execute(gone)]

    async def _counted(
        self,
        forms: Mapping[FindingKind, str],
        given: Mapping[str, Any],
        *,
        priced: bool = False,
    ) -> list[FindingCount]:
        """How many of each kind, in one statement; then what those cost that have a price."""
        if not forms:
            return []
        counted = " UNION ALL ".join(
            f"SELECT '{k}', count(*) FROM (SELECT 1 {_counted_of(k, form)} LIMIT {COUNTED + 1}) f"
            for k, form in forms.items()
        )
        rows = await self.connection.execute(sa.text(counted), _values(counted, given))
        found = {FindingKind(row[0]): row[1] for row in rows if row[1]}
        some = [k for k, n in found.items() if priced and SOURCES[k].costs and n <= COUNTED]
        cost: dict[str, dict[str, Decimal]] = {}
        if some and await self.connection.scalar(sa.text("SELECT EXISTS (SELECT 1 FROM pools)")):
            costs = " UNION ALL ".join(
                f"SELECT '{k}', m.key, sum(m.value::numeric) FROM ({forms[k].format(sql=SOURCES[k].sql)}) f"
                " CROSS JOIN LATERAL jsonb_each_text(f.cost) m WHERE m.value IS NOT NULL GROUP BY 2"
                for k in some
            )
            result = await self.connection.execute(sa.text(costs), _values(costs, given))
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


def _form(kind: FindingKind, some: Collection[str], *, accepted: bool) -> str:
    """How a kind is asked for: those accepted, those that are not, or all where none is."""
    if accepted:
        return ACCEPTED
    return OPEN if kind.value in some else PLAIN


def _narrowed(form: str, chosen: ChosenFindings) -> str:
    """The same of one application or one person, where either is named."""
    asked = [
        text
        for text, value in (
            ("n.application_name = :of_application", chosen.application),
            ("n.person_id = :of", chosen.person_id),
        )
        if value
    ]
    return f"SELECT n.* FROM ({form}) n WHERE {' AND '.join(asked)}" if asked else form


def _counted_of(kind: FindingKind, form: str) -> str:
    source = SOURCES[kind]
    plain = source.counted or source.rows
    return plain if form == PLAIN else f"FROM ({form.format(sql=source.sql)}) counted"


def _kinds(kind: FindingKind | None) -> list[FindingKind]:
    return [kind] if kind else sorted(SOURCES)


def _given(now: datetime, pairs: Sequence[Pair]) -> dict[str, Any]:
    names = ("application", "license", "item")
    said = to_json([dict(zip(names, pair, strict=True)) for pair in pairs])
    return {"now": now, "asleep": now - SLEEP, "soon": now + SOON, "pairs": said}


def _values(sql: str, given: Mapping[str, Any]) -> dict[str, Any]:
    """Those of the values that a statement asks for."""
    return {name: value for name, value in given.items() if re.search(rf":{name}\b", sql)}
