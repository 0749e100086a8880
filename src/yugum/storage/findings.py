"""Findings: what the readings show that should not be, worked out when asked for.

Every kind is answered from an index: of what may be found (`LOOSE`, `ALIKE`: kept by triggers, never
too few) the statement takes what is.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from decimal import Decimal
from typing import Any

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.findings import Finding, FindingCount, FindingKind
from yugum.core.lines import KEY
from yugum.errors import InvalidInput
from yugum.ports.pages import ListPage
from yugum.storage import tables as t
from yugum.storage.loose import ALIKE_SQL, ASIDE_SQL, LOCK_LEFT_SQL
from yugum.storage.pages import COUNTED, REMEDY, fetch
from yugum.storage.rows import locked_sql, reader

SLEEP = timedelta(days=90)
"""An account nobody has used for so long sleeps."""

SOON = timedelta(days=30)
"""A credential that runs out within so long is told."""

PORTION = 1000
"""People who have left and have nothing open any more are put aside so many at a time."""

MONTHLY = "po.price / CASE po.period WHEN 'year' THEN 12 ELSE 1 END"
COST = f"""(SELECT jsonb_object_agg(m.currency, m.amount::text) FROM (
  SELECT po.currency, round(sum({MONTHLY}), 2) AS amount FROM seat_claims c
  JOIN pools po ON po.id = c.pool_id WHERE c.account_id = acc.id AND c.until_at IS NULL
    AND c.state = 'held' AND po.price IS NOT NULL GROUP BY 1) m)"""
"""What the seats of an account cost a month, by currency."""

FIRST_SEEN = "(SELECT min(from_at) FROM history WHERE account_id = acc.id)"


@dataclass(frozen=True, slots=True)
class _Source:
    """The rows of a kind and what they are sorted by, first by a ``moment`` where it is one.

    ``costs`` where they have a price; ``counted`` has the same rows without what only tells of them.
    """

    rows: str
    order: Sequence[str]
    what: str
    moment: bool = False
    costs: bool = False
    counted: str = ""

    @property
    def sql(self) -> str:
        places = ", ".join(f"{by} AS place{n}" for n, by in enumerate(self.order))
        return f"SELECT {self.what}, {places} {self.rows}"

    @property
    def places(self) -> list[sa.ColumnClause[Any]]:
        return [
            sa.column(f"place{n}", t.Moment if self.moment and n == 0 else sa.Text)
            for n in range(len(self.order))
        ]


def _what(  # noqa: PLR0913 - the columns of a finding
    kind: str,
    *,
    key: str = "acc.id",
    person: str = "p.id",
    name: str = "p.display_name",
    login: str = "acc.login",
    account: str = "acc.id",
    application: str = "a.name",
    since: str = "NULL",
    cost: str = "NULL",
    about: str = "''",
    other: str = "''",
    deviation: str = "NULL",
) -> str:
    return f"""{kind} AS kind, {key} AS key, {account} AS account_id, {person} AS person_id,
  {name} AS display_name, {login} AS login, {application} AS application_name,
  cast({since} AS timestamptz) AS since, cast({cost} AS jsonb) AS cost, {about} AS about, {other} AS other_login,
  cast({deviation} AS jsonb) AS deviation"""


EITHER = "coalesce(p.display_name, acc.display_name)"
LEFT = "p.open_end <= :now"
"""Who left and may have something open: ``ix_people_open_end``."""
THERE = "({0}.access_ends IS NULL OR {0}.access_ends > :now)"
NOBODY = "acc.person_id IS NULL AND acc.state = 'active'"
"""``ix_accounts_nobody``."""

OPEN_OTHERWISE = """ AND NOT (p.access_ends <= :now
  AND (s.kind = 'account' AND acc.state = 'active' OR s.kind = 'seat'))"""
"""What a leaver has open is a finding of its own."""
ASLEEP = "acc.state = 'active' AND acc.kind = 'person' AND acc.last_used < :asleep"
"""``ix_accounts_asleep``."""
STANDING = "concat_ws('/', s.subject_id, s.application_id, s.account_id, s.kind, s.item)"

SOURCES: Mapping[FindingKind, _Source] = {
    FindingKind.LEAVER_OPEN: _Source(
        f"""FROM people p JOIN accounts acc ON acc.person_id = p.id
JOIN applications a ON a.id = acc.application_id
WHERE {LEFT} AND acc.state = 'active' AND acc.kind = 'person' AND NOT {locked_sql("acc")}""",
        ("p.open_end", "acc.id"),
        _what("'leaver-open'", since="p.access_ends", cost=COST),
        moment=True,
        costs=True,
        counted=f"""FROM people p JOIN accounts acc ON acc.person_id = p.id
WHERE {LEFT} AND acc.state = 'active' AND acc.kind = 'person' AND NOT {locked_sql("acc")}""",
    ),
    FindingKind.NOBODY_BEHIND: _Source(
        f"""FROM accounts acc JOIN applications a ON a.id = acc.application_id
WHERE {NOBODY} AND acc.kind = 'person'""",
        ("acc.login", "acc.id"),
        _what(
            "'nobody-behind'", person="NULL", name="acc.display_name", since=FIRST_SEEN, cost=COST
        ),
        costs=True,
        counted=f"FROM accounts acc WHERE {NOBODY} AND acc.kind = 'person'",
    ),
    FindingKind.WITHOUT_OWNER: _Source(
        f"""FROM accounts acc JOIN applications a ON a.id = acc.application_id
WHERE {NOBODY} AND acc.kind <> 'person'
  AND (acc.kind <> 'group' OR a.groups ?| ARRAY['owner_id', 'owner_login']
    AND NOT EXISTS (SELECT 1 FROM accounts o LEFT JOIN people h ON h.id = o.person_id
      WHERE o.application_id = acc.application_id AND o.kind <> 'group'
        AND (o.external_id = acc.settings->>'owner_id' OR o.login = acc.settings->>'owner_login')
        AND {THERE.format("h")}))""",
        ("acc.login", "acc.id"),
        _what(
            "'without-owner'",
            person="NULL",
            name="acc.display_name",
            since=FIRST_SEEN,
            cost=COST,
            about="acc.kind",
        ),
        costs=True,
    ),
    FindingKind.SLEEPER: _Source(
        f"""FROM accounts acc JOIN people p ON p.id = acc.person_id
JOIN applications a ON a.id = acc.application_id
WHERE {ASLEEP} AND {THERE.format("p")}""",
        ("acc.last_used", "acc.id"),
        _what(
            "'sleeper'",
            since="acc.last_used",
            cost=COST,
            about="floor(extract(epoch FROM cast(:now AS timestamptz) - acc.last_used) / 86400)::text",
        ),
        moment=True,
        costs=True,
        # Who left with an account open is among the few that are loose.
        counted=f"""FROM accounts acc WHERE {ASLEEP} AND acc.person_id IS NOT NULL
  AND NOT EXISTS (SELECT 1 FROM people p WHERE p.id = acc.person_id AND {LEFT})""",
    ),
    FindingKind.LEAVER_SEAT: _Source(
        f"""FROM people p JOIN seat_claims c ON c.person_id = p.id JOIN pools po ON po.id = c.pool_id
JOIN accounts acc ON acc.id = c.account_id JOIN applications a ON a.id = acc.application_id
WHERE {LEFT} AND c.until_at IS NULL AND c.state = 'held'""",
        ("p.open_end", "c.id"),
        _what(
            "'leaver-seat'",
            key="acc.id || po.id",
            since="p.access_ends",
            cost=f"jsonb_build_object(po.currency, round({MONTHLY}, 2)::text)",
            about="po.license",
        ),
        moment=True,
        costs=True,
    ),
    FindingKind.PERSON_TWICE: _Source(
        f"""FROM people p JOIN people o ON lower(o.display_name) = lower(p.display_name)
  AND o.department = p.department AND o.id < p.id
WHERE p.alike AND {THERE.format("p")} AND {THERE.format("o")}""",
        ("p.id", "o.id"),
        _what(
            "'person-twice'",
            key="p.id",
            account="NULL",
            login="p.user_name",
            application="'people'",
            about="o.employee_number",
            other="o.user_name",
        ),
    ),
    FindingKind.OUTSIDE: _Source(
        """FROM deviations d JOIN accounts acc ON acc.id = d.account_id
JOIN applications a ON a.id = acc.application_id LEFT JOIN people p ON p.id = acc.person_id
WHERE d.state = 'open'""",
        ("d.application_id", "d.id"),
        _what(
            "'outside'",
            key="d.id",
            person="acc.person_id",
            name=EITHER,
            since="d.seen_at",
            deviation="jsonb_build_object('kind', d.kind, 'item', d.item, 'was', d.was, 'now_is', d.now_is)",
        ),
        counted="""FROM deviations d WHERE d.state = 'open'
  AND EXISTS (SELECT 1 FROM accounts acc WHERE acc.id = d.account_id)""",
    ),
    FindingKind.DELIVERED_NAME: _Source(
        f"""FROM accounts acc JOIN applications a ON a.id = acc.application_id
LEFT JOIN people p ON p.id = acc.person_id
WHERE {t.delivered_sql("acc.login")} AND acc.state = 'active' AND acc.kind = 'person'""",
        ("acc.login", "acc.id"),
        _what("'delivered-name'", person="acc.person_id", name=EITHER, about="acc.id"),
    ),
    FindingKind.CREDENTIAL_ENDS: _Source(
        "FROM applications a WHERE a.credential_ends < :soon",
        ("a.name", "a.id"),
        _what(
            "'credential-ends'",
            key="a.id",
            account="NULL",
            person="NULL",
            name="NULL",
            login="''",
            since="a.credential_ends",
        ),
    ),
    FindingKind.UNCOVERED: _Source(
        """FROM applications a LEFT JOIN applications b ON b.id = a.config->'options'->>'through'
WHERE a.disconnected_at IS NULL AND a.kind = 'sign-on'
  AND NOT coalesce(b.trust = 'full' AND b.capabilities ? 'suspend', false)""",
        ("a.name", "a.id"),
        _what("'uncovered'", key="a.id", account="NULL", person="NULL", name="NULL", login="''"),
    ),
    **{
        kind: _Source(
            f"""FROM standing s JOIN people p ON p.id = s.subject_id
LEFT JOIN applications a ON a.id = s.application_id LEFT JOIN accounts acc ON acc.id = s.account_id
WHERE s.status = 'finding' AND s.side = '{kind}'"""
            + (OPEN_OTHERWISE if kind == "too_much" else ""),
            ("s.since_at", *(f"s.{n}" for n in ("subject_id", *KEY) if n != "side")),
            _what(
                "s.side",
                key=STANDING,
                account="nullif(s.account_id, '')",
                person="s.subject_id",
                login="coalesce(acc.login, p.user_name)",
                application="coalesce(a.name, '')",
                since="s.since_at",
                about="concat_ws(' ', s.kind, nullif(s.item, ''))",
                other="s.reason",
            ),
            moment=True,
            counted=""
            if kind == "too_much"
            else f"""FROM standing s WHERE s.status = 'finding' AND s.side = '{kind}'
  AND EXISTS (SELECT 1 FROM people p WHERE p.id = s.subject_id)""",
        )
        for kind in (
            FindingKind.MISSING,
            FindingKind.TOO_MUCH,
            FindingKind.DIFFERS,
            FindingKind.BOTH,
            FindingKind.ASKED,
        )
    },
}
"""Each kind's rows, in the order of an index where there may be many."""

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
        self, now: datetime, *, kind: FindingKind | None, cursor: str | None, limit: int
    ) -> ListPage[Finding]:
        counts = {} if cursor else {c.kind: c for c in await self._counted(now, _kinds(kind))}
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
            page = await self._of(now, one, place, limit - len(found))
            place = ""
            found += page.items
            if page.next:
                following = f"{one}.{page.next}"
                break
        total = sum(c.count for c in counts.values())
        over = any(c.over for c in counts.values())
        return ListPage(found, following, None if cursor else total, over)

    async def _of(
        self, now: datetime, kind: FindingKind, cursor: str, limit: int
    ) -> ListPage[Finding]:
        source = SOURCES[kind]
        text = sa.text(source.sql).bindparams(**_values(source.sql, now))
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

    async def counts(self, now: datetime, *, priced: bool = True) -> Sequence[FindingCount]:
        return await self._counted(now, SOURCES, priced=priced)

    async def _counted(
        self, now: datetime, kinds: Iterable[FindingKind], *, priced: bool = False
    ) -> list[FindingCount]:
        """How many of each kind, in one statement; then what those cost that have a price."""
        counted = " UNION ALL ".join(
            f"SELECT '{k}', count(*) FROM (SELECT 1 {SOURCES[k].counted or SOURCES[k].rows}"
            f" LIMIT {COUNTED + 1}) f"
            for k in kinds
        )
        rows = await self.connection.execute(sa.text(counted), _values(counted, now))
        found = {FindingKind(row[0]): row[1] for row in rows if row[1]}
        some = [k for k, n in found.items() if priced and SOURCES[k].costs and n <= COUNTED]
        cost: dict[str, dict[str, Decimal]] = {}
        if some and await self.connection.scalar(sa.text("SELECT EXISTS (SELECT 1 FROM pools)")):
            costs = " UNION ALL ".join(
                f"SELECT '{k}', m.key, sum(m.value::numeric) FROM ({SOURCES[k].sql}) f"
                " CROSS JOIN LATERAL jsonb_each_text(f.cost) m WHERE m.value IS NOT NULL GROUP BY 2"
                for k in some
            )
            result = await self.connection.execute(sa.text(costs), _values(costs, now))
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


def _values(sql: str, now: datetime) -> dict[str, Any]:
    values = {"now": now, "asleep": now - SLEEP, "soon": now + SOON}
    return {name: value for name, value in values.items() if f":{name}" in sql}
