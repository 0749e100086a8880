"""Mail to be sent and sent; the part that opens something is encrypted and erased once it is out."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict
from datetime import datetime

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.mails import MailKind
from yugum.ports.mails import MailLine, StoredMail
from yugum.ports.pages import ListPage
from yugum.storage import tables as t
from yugum.storage.pages import fetch
from yugum.storage.rows import read, reader

CLAIM_SQL = sa.text("""
UPDATE mails m SET tries = tries + 1, retry = now() + interval '1 minute'
FROM (SELECT id FROM mails WHERE sent_at IS NULL AND retry <= now()
      ORDER BY retry LIMIT 1 FOR UPDATE SKIP LOCKED) due
WHERE m.id = due.id RETURNING m.*
""")
"""Takes one mail for one attempt, which is shorter; who dies over it leaves it to somebody else."""

FAILED_SQL = sa.text("""
UPDATE mails SET problem = :problem,
  retry = now() + interval '1 minute' * least(60, 2 ^ (tries - 1))
WHERE id = :id
""")


class Mails:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def post(self, mails: Sequence[StoredMail]) -> None:
        if mails:
            query = insert(t.mails).on_conflict_do_nothing(
                index_elements=["event"], index_where=t.mails.c.event.isnot(None)
            )
            await self.connection.execute(query, [asdict(m) for m in mails])

    async def claim(self) -> StoredMail | None:
        row = (await self.connection.execute(CLAIM_SQL)).mappings().first()
        return None if row is None else read(StoredMail, row)

    async def sent(self, mail_id: str, at: datetime) -> None:
        m = t.mails
        await self.connection.execute(
            sa.update(m)
            .where(m.c.id == mail_id)
            .values(sent_at=at, sealed=None, problem="", retry=None)
        )

    async def failed(self, mail_id: str, problem: str) -> None:
        await self.connection.execute(FAILED_SQL, {"id": mail_id, "problem": problem})

    async def page(
        self,
        subject_id: str,
        cursor: str | None,
        limit: int,
        *,
        kind: MailKind | None = None,
        unsent: bool = False,
    ) -> ListPage[MailLine]:
        m = t.mails.c
        query = sa.select(
            m.id,
            m.address,
            m.subject,
            m.text,
            m.kind,
            m.subject_id,
            m.docket_id,
            m.made_at,
            m.sent_at,
            m.tries,
            m.problem,
        )
        if subject_id:
            query = query.where(m.subject_id == subject_id)
        if kind:
            query = query.where(m.kind == kind.value)
        if unsent:
            query = query.where(m.sent_at.is_(None))
        return await fetch(
            self.connection,
            query,
            [m.made_at, m.id],
            reader(MailLine),
            cursor=cursor,
            limit=limit,
            descending=True,
            count=cursor is None,
        )
