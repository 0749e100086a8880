"""Dated obligations: rows that become short dockets on their day."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime
from functools import lru_cache
from typing import Any

import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.obligations import LIVE, ObligationKind
from yugum.core.verbs import Verb
from yugum.ports.obligations import DatedLine, Obligation
from yugum.ports.pages import ListPage
from yugum.storage import tables as t
from yugum.storage.pages import Listing, listed, place
from yugum.storage.rows import read_all, statement, to_array, to_json

PUT_SQL = """
INSERT INTO obligations AS o (id, subject_id, account_id, kind, due_at, basis, state, docket_id)
SELECT r.id, r.subject_id, r.account_id, r.kind, r.due_at, r.basis, r.state, r.docket_id
FROM jsonb_to_recordset(cast(:rows AS jsonb)) AS r(id text, subject_id text, account_id text,
  kind text, due_at timestamptz, basis text, state text, docket_id text)
ON CONFLICT (id) DO UPDATE SET due_at = excluded.due_at, basis = excluded.basis,
  state = excluded.state, docket_id = excluded.docket_id
"""

OF_SQL = """
SELECT o.*, coalesce(d.state IN ('done', 'cancelled', 'superseded'), false) AS ended
FROM unnest(cast(:ids AS text[])) AS x(id)
CROSS JOIN LATERAL (
  SELECT * FROM obligations WHERE subject_id = x.id
    AND (state IN ('open', 'due', 'taken')
      OR state = 'done' AND docket_id IS NOT NULL AND kind IN ('close', 'purge'))
  OFFSET 0) o
LEFT JOIN dockets d ON d.id = o.docket_id
"""

FALL_DUE_SQL = """
WITH due AS (
  UPDATE obligations SET state = 'due' WHERE id IN (
    SELECT id FROM obligations WHERE state = 'open' AND due_at <= :now AND kind <> 'remind'
    ORDER BY due_at, id LIMIT :limit FOR UPDATE SKIP LOCKED)
  RETURNING subject_id
)
INSERT INTO marks (subject_id) SELECT subject_id FROM due
"""

REMINDERS_SQL = """
WITH due AS (
  UPDATE obligations SET state = 'done' WHERE id IN (
    SELECT id FROM obligations WHERE state = 'open' AND due_at <= :now AND kind = 'remind'
    ORDER BY due_at, id LIMIT :limit FOR UPDATE SKIP LOCKED)
  RETURNING subject_id, basis
), marked AS (
  INSERT INTO marks (subject_id) SELECT DISTINCT subject_id FROM due
)
SELECT DISTINCT subject_id, basis FROM due
"""


class Obligations:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def of(self, subject_ids: Sequence[str]) -> Sequence[Obligation]:
        rows = await self.connection.execute(statement(OF_SQL), {"ids": to_array(subject_ids)})
        return read_all(Obligation, rows)

    async def put(self, obligations: Sequence[Obligation]) -> None:
        rows = [
            {
                "id": o.id,
                "subject_id": o.subject_id,
                "account_id": o.account_id,
                "kind": o.kind,
                "due_at": o.due_at,
                "basis": o.basis,
                "state": o.state,
                "docket_id": o.docket_id,
            }
            for o in obligations
        ]
        for live in (False, True):  # one that ends makes room for one of the same kind
            if some := [r for r in rows if (r["state"] in LIVE) is live]:
                await self.connection.execute(statement(PUT_SQL), {"rows": to_json(some)})

    async def fall_due(self, now: datetime, limit: int) -> int:
        values = {"now": now, "limit": limit}
        return int((await self.connection.execute(statement(FALL_DUE_SQL), values)).rowcount)

    async def reminders(self, now: datetime, limit: int) -> Mapping[str, str]:
        values = {"now": now, "limit": limit}
        rows = await self.connection.execute(statement(REMINDERS_SQL), values)
        return {r.subject_id: r.basis for r in rows}

    async def next_moment(self, after: datetime) -> datetime | None:
        """The next business moment at which anything falls due."""
        query = sa.text(
            """SELECT min(due_at) FROM (
                 SELECT min(due_at) AS due_at FROM obligations
                 WHERE state = 'open' AND due_at > :after
                 UNION ALL
                 SELECT min(due_at) FROM dockets WHERE state = 'scheduled' AND due_at > :after
                 UNION ALL SELECT min(ends_at) FROM accepted WHERE ends_at > :after
                 UNION ALL SELECT min(expires_at) FROM approvals
                 WHERE state = 'open' AND expires_at > :after
                 UNION ALL SELECT min(remind_at) FROM approvals
                 WHERE state = 'open' AND reminded_at IS NULL AND remind_at > :after
               ) AS x"""
        )
        moment: datetime | None = await self.connection.scalar(query, {"after": after})
        return moment

    async def calendar(
        self,
        begin: datetime,
        until: datetime,
        *,
        kinds: Sequence[str] = (),
        cursor: str | None = None,
        limit: int = 50,
    ) -> ListPage[DatedLine]:
        """What has a date: dockets that wait for theirs, and obligations, in one list.

        Both in the order of an index, of which the first rows are taken; what tells of them comes after.
        """
        return await listed(
            self.connection,
            _listing(tuple(kinds), cursor, limit),
            _dated,
            cursor=cursor,
            limit=limit,
            count=cursor is None,
            values={"begin": begin, "until": until},
        )


@lru_cache(maxsize=64)
def _listing(kinds: tuple[str, ...], cursor: str | None, limit: int) -> Listing:
    people = t.faces.c
    both_kinds = _dated_rows(kinds, cursor)
    whole = sa.union_all(*(sa.select(one.subquery().c.id) for one in both_kinds))
    some: sa.ColumnElement[int] = sa.literal_column(str(limit + 1))
    first = (sa.select(one.limit(some).subquery()) for one in both_kinds)
    both = sa.union_all(*first).subquery("dates")
    query = (
        sa.select(both, people.display_name, t.applications.c.name.label("application_name"))
        .join_from(both, t.faces, people.id == both.c.person_id)
        .outerjoin(t.accounts, t.accounts.c.id == both.c.account_id)
        .outerjoin(t.applications, t.applications.c.id == t.accounts.c.application_id)
    )
    return Listing(query, [both.c.at, both.c.id], counted=sa.select(whole.subquery().c.id))


def _dated_rows(kinds: Sequence[str], cursor: str | None) -> tuple[sa.Select[Any], sa.Select[Any]]:
    """Dockets that wait for their date and what is owed, each from one table and in its index's order.

    From the moment of the parameter ``begin`` to before that of ``until``.
    """
    o, d = t.obligations.c, t.dockets.c
    begin, until = sa.bindparam("begin", type_=t.Moment), sa.bindparam("until", type_=t.Moment)
    dated = sa.select(
        d.id,
        d.due_at.label("at"),
        d.verb.label("kind"),
        d.number,
        d.subject_id.label("person_id"),
        sa.literal(None, sa.Text).label("account_id"),
        d.reason.label("text"),
    ).where(d.state == "scheduled")
    owed = sa.select(
        o.id,
        o.due_at.label("at"),
        o.kind,
        sa.literal(None, sa.BigInteger).label("number"),
        o.subject_id.label("person_id"),
        o.account_id,
        o.basis.label("text"),
    ).where(sa.literal_column(t.LIVE, sa.Boolean))
    after = place(cursor, [d.due_at, d.id])

    def within(query: sa.Select[Any], due: Any, key: Any, kind: Any) -> sa.Select[Any]:  # noqa: ANN401 - columns
        query = query.where(due >= begin, due < until).order_by(due, key)
        if kinds:
            query = query.where(kind.in_(kinds))
        return query.where(sa.tuple_(due, key) > sa.tuple_(*after)) if after else query

    return within(dated, d.due_at, d.id, d.verb), within(owed, o.due_at, o.id, o.kind)


def _dated(row: Mapping[str, Any]) -> DatedLine:
    """A docket with its number and its verb, or an obligation with what falls due."""
    kind = row["kind"]
    return DatedLine(
        id=row["id"],
        at=row["at"],
        kind=ObligationKind(kind) if row["number"] is None else Verb(kind),
        number=row["number"],
        person_id=row["person_id"],
        display_name=row["display_name"],
        application_name=row["application_name"],
        text=row["text"],
    )
