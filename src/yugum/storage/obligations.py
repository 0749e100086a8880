"""Dated obligations: rows that become short dockets on their day."""

from __future__ import annotations

import uuid
from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any

import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.obligations import ObligationKind, ObligationState
from yugum.core.verbs import Verb
from yugum.ports.obligations import DatedLine, Obligation
from yugum.ports.pages import ListPage
from yugum.storage import tables as t
from yugum.storage.pages import fetch
from yugum.storage.rows import among, read, to_json

REPLACE_SQL = """
WITH wanted AS (
  SELECT * FROM jsonb_to_recordset(cast(:rows AS jsonb)) AS r(id text, subject_id text,
    account_id text, kind text, due_at timestamptz, basis text)
), gone AS (
  UPDATE obligations o SET state = 'cancelled'
  WHERE o.subject_id = ANY(:subjects) AND o.state = 'open'
    AND NOT EXISTS (SELECT 1 FROM wanted w WHERE w.account_id = o.account_id AND w.kind = o.kind)
  RETURNING 1
)
INSERT INTO obligations AS o (id, subject_id, account_id, kind, due_at, basis)
SELECT w.id, w.subject_id, w.account_id, w.kind, w.due_at, w.basis FROM wanted w
ON CONFLICT (account_id, kind) WHERE state = 'open' DO UPDATE
SET due_at = excluded.due_at, basis = excluded.basis
WHERE o.due_at IS DISTINCT FROM excluded.due_at
"""


class Obligations:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def replace(self, subject_ids: Sequence[str], obligations: Sequence[Obligation]) -> None:
        """Make ``obligations`` the open ones of the subjects; others are cancelled."""
        rows = [
            {
                "id": str(uuid.uuid4()),
                "subject_id": o.subject_id,
                "account_id": o.account_id or o.subject_id,
                "kind": o.kind,
                "due_at": o.due_at,
                "basis": o.basis,
            }
            for o in obligations
        ]
        await self.connection.execute(
            sa.text(REPLACE_SQL), {"rows": to_json(rows), "subjects": list(subject_ids)}
        )

    async def due(self, now: datetime, limit: int) -> Sequence[Obligation]:
        """Open obligations that are due, locked for whoever takes them up."""
        o = t.obligations.c
        query = (
            sa.select(t.obligations)
            .where(o.state == "open", o.due_at <= now)
            .order_by(o.due_at, o.id)
            .limit(limit)
            .with_for_update(skip_locked=True)
        )
        return [read(Obligation, r) for r in (await self.connection.execute(query)).mappings()]

    async def settle(self, ids: Sequence[str], state: ObligationState) -> None:
        o = t.obligations
        await self.connection.execute(
            sa.update(o).where(among(o.c.id, ids)).values(state=state.value)
        )

    async def next_moment(self, after: datetime) -> datetime | None:
        """The next business moment at which anything falls due."""
        query = sa.text(
            """SELECT min(due_at) FROM (
                 SELECT min(due_at) AS due_at FROM obligations
                 WHERE state = 'open' AND due_at > :after
                 UNION ALL
                 SELECT min(due_at) FROM dockets WHERE state = 'scheduled' AND due_at > :after
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
        """What has a date: dockets that wait for theirs, and obligations, in one list."""
        o, d, people = t.obligations.c, t.dockets.c, t.faces.c
        dated = (
            sa.select(
                d.id,
                d.due_at.label("at"),
                d.verb.label("kind"),
                d.number,
                d.subject_id.label("person_id"),
                sa.literal(None, sa.Text).label("application_name"),
                d.reason.label("text"),
            )
            .where(d.state == "scheduled", d.due_at >= begin, d.due_at < until)
            .where(d.verb.in_(kinds) if kinds else sa.true())
        )
        owed = (
            sa.select(
                o.id,
                o.due_at.label("at"),
                o.kind,
                sa.literal(None, sa.BigInteger).label("number"),
                o.subject_id.label("person_id"),
                t.applications.c.name.label("application_name"),
                o.basis.label("text"),
            )
            .select_from(t.obligations.outerjoin(t.accounts, t.accounts.c.id == o.account_id))
            .outerjoin(t.applications, t.applications.c.id == t.accounts.c.application_id)
            .where(o.state == "open", o.due_at >= begin, o.due_at < until)
            .where(o.kind.in_(kinds) if kinds else sa.true())
        )
        both = sa.union_all(dated, owed).subquery("dates")
        query = sa.select(both, people.display_name).join_from(
            both, t.faces, people.id == both.c.person_id
        )
        return await fetch(
            self.connection,
            query,
            [both.c.at, both.c.id],
            _dated,
            cursor=cursor,
            limit=limit,
            count=cursor is None,
        )


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
