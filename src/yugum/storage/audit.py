"""The audit log: events inserted freely, sealed in order below the snapshot's horizon."""

from __future__ import annotations

from collections.abc import AsyncIterator, Sequence

import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.ports.audit import Event, EventLine, Head, SealedEvent
from yugum.ports.pages import ListPage
from yugum.storage import tables as t
from yugum.storage.pages import fetch
from yugum.storage.rows import read, read_all, reader, to_json

SEAL_LOCK = 0x59554755

ADD_SQL = sa.text("""
INSERT INTO audit_events (id, at, actor, action, subject, docket_id, payload, salt, digest)
SELECT r.id, r.at, r.actor, r.action, r.subject, r.docket_id, r.payload, r.salt, r.digest
FROM jsonb_to_recordset(cast(:rows AS jsonb)) AS r(id text, at timestamptz, actor text,
  action text, subject text, docket_id text, payload jsonb, salt bytea, digest bytea)
""")

SEAL_SQL = sa.text("""
UPDATE audit_events e SET leaf_index = r.place
FROM jsonb_to_recordset(cast(:rows AS jsonb)) AS r(id text, place bigint) WHERE e.id = r.id
""")


class Audit:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def add(self, events: Sequence[Event]) -> None:
        if not events:
            return
        rows = [
            {
                "id": e.id,
                "at": e.at,
                "actor": e.actor,
                "action": e.action,
                "subject": e.subject,
                "docket_id": e.docket_id,
                "payload": e.payload,
                "salt": e.salt,
                "digest": e.digest,
            }
            for e in events
        ]
        await self.connection.execute(ADD_SQL, {"rows": to_json(rows)})

    async def unsealed(self, limit: int) -> Sequence[Event]:
        """Events no running transaction can come before any more; nothing while another seals."""
        locked = await self.connection.scalar(
            sa.text("SELECT pg_try_advisory_xact_lock(:key)"), {"key": SEAL_LOCK}
        )
        if not locked:
            return []
        e = t.audit_events.c
        horizon = sa.text("pg_snapshot_xmin(pg_current_snapshot())::text::bigint")
        query = (
            sa.select(t.audit_events)
            .where(e.leaf_index.is_(None), e.xid < horizon)
            .order_by(e.xid, e.id)
            .limit(limit)
        )
        return read_all(Event, await self.connection.execute(query))

    async def head(self) -> Head | None:
        h = t.audit_heads
        query = sa.select(h).order_by(h.c.size.desc()).limit(1)
        row = (await self.connection.execute(query)).mappings().first()
        if row is None:
            return None
        frontier = tuple((int(size), bytes.fromhex(digest)) for size, digest in row["frontier"])
        return Head(
            size=row["size"], root=row["root"], frontier=frontier, signature=row["signature"]
        )

    async def seal(self, places: Sequence[tuple[str, int]], head: Head) -> None:
        rows = to_json([{"id": i, "place": n} for i, n in places])
        await self.connection.execute(SEAL_SQL, {"rows": rows})
        await self.connection.execute(
            sa.insert(t.audit_heads).values(
                size=head.size,
                root=head.root,
                frontier=[[size, digest.hex()] for size, digest in head.frontier],
                signature=head.signature,
            )
        )

    async def page(
        self,
        *,
        subject: str = "",
        docket_id: str = "",
        action: str = "",
        cursor: str | None = None,
        limit: int = 50,
    ) -> ListPage[EventLine]:
        e, p = t.audit_events.c, t.people.c
        select = sa.select(
            e.id,
            e.at,
            e.machine_at,
            e.actor,
            e.action,
            e.subject,
            e.docket_id,
            e.payload,
            e.leaf_index,
            p.display_name.label("subject_name"),
        ).select_from(t.audit_events.outerjoin(t.people, p.id == e.subject))
        for column, value in ((e.subject, subject), (e.docket_id, docket_id), (e.action, action)):
            if value:
                select = select.where(column == value)
        return await fetch(
            self.connection,
            select,
            [e.xid, e.id],
            reader(EventLine),
            cursor=cursor,
            limit=limit,
            descending=True,
        )

    async def export(self) -> AsyncIterator[SealedEvent]:
        """Sealed events in the order of the log, streamed."""
        # Whoever takes it may be slow; it locks nothing that anybody waits for.
        await self.connection.execute(sa.text("SET LOCAL idle_in_transaction_session_timeout = 0"))
        e = t.audit_events
        query = sa.select(e).where(e.c.leaf_index.isnot(None)).order_by(e.c.leaf_index)
        stream = await self.connection.stream(query)
        async for row in stream.mappings():
            yield read(SealedEvent, row)
