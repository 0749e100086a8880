"""Whether whoever is to take something over does."""

from __future__ import annotations

import uuid
from collections.abc import Collection, Mapping, Sequence
from dataclasses import asdict
from datetime import datetime
from typing import Any

import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.takeovers import SAID_NO, Key, NewTakeover, Takeover, TakeoverAnswer
from yugum.errors import NotFound
from yugum.ports.pages import ListPage
from yugum.ports.takeovers import TakeoverLine
from yugum.storage import tables as t
from yugum.storage.confidence import QUIET
from yugum.storage.pages import fetch
from yugum.storage.rows import read, read_all, reader, to_array, to_json

T, P, H = t.takeovers.c, t.people.alias("p"), t.people.alias("h")
OPEN = TakeoverAnswer.OPEN.value
NOT_AGREED = [a.value for a in (*SAID_NO, TakeoverAnswer.UNANSWERED)]
LINES = (
    sa.select(
        t.takeovers,
        P.c.display_name.label("name"),
        P.c.user_name,
        P.c.access_ends.label("leaves_at"),
        H.c.display_name.label("heir_name"),
        H.c.time_zone.label("heir_zone"),
        H.c.mail.label("address"),
        t.applications.c.name.label("application_name"),
    )
    .select_from(t.takeovers)
    .join(P, P.c.id == T.person_id)
    .join(H, H.c.id == T.heir_id)
    .join(t.applications, t.applications.c.id == T.application_id)
)
ORDER = (T.heir_id, P.c.access_ends, T.person_id, t.applications.c.name, T.thing)
SHOWN = 500
"""How many questions a link shows at once."""
IN_CONFIDENCE = (
    sa.exists().where(t.dockets.c.subject_id == T.person_id, QUIET).correlate(t.takeovers)
)
WANT_SQL = sa.text(f"""
WITH leaving AS (
  SELECT id FROM people WHERE id = ANY(cast(:looked AS text[])) AND access_ends IS NOT NULL
  ORDER BY id FOR SHARE),
w AS (
  SELECT r.* FROM jsonb_to_recordset(cast(:rows AS jsonb))
    AS r(id text, person_id text, heir_id text, application_id text, thing text, count int)
  JOIN leaving l ON l.id = r.person_id),
gone AS (
  DELETE FROM takeovers o WHERE o.person_id = ANY(cast(:looked AS text[])) AND o.answer = '{OPEN}'
    AND NOT EXISTS (SELECT 1 FROM w WHERE (w.person_id, w.heir_id, w.application_id, w.thing)
      = (o.person_id, o.heir_id, o.application_id, o.thing)))
INSERT INTO takeovers AS o (id, person_id, heir_id, application_id, thing, count, made_at)
SELECT id, person_id, heir_id, application_id, thing, count, :now FROM w
ORDER BY person_id, application_id, thing, heir_id
ON CONFLICT (person_id, application_id, thing, heir_id)
DO UPDATE SET count = excluded.count WHERE o.count <> excluded.count
""")
"""Of whom is not leaving any more by now nothing is asked: their questions went with the leaving, and may not come back."""
CALLED_SQL = sa.text("""
SELECT id FROM people WHERE lower(user_name) = :name
UNION SELECT id FROM people WHERE lower(mail) = :name LIMIT 2
""")


class Takeovers:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def of(self, person_ids: Sequence[str]) -> Mapping[str, Mapping[Key, Takeover]]:
        query = sa.select(t.takeovers).where(T.person_id.in_(person_ids))
        found: dict[str, dict[Key, Takeover]] = {}
        for one in read_all(Takeover, await self.connection.execute(query)):
            found.setdefault(one.person_id, {})[one.key] = one
        return found

    async def want(
        self, wanted: Sequence[NewTakeover], looked: Collection[str], now: datetime
    ) -> None:
        rows = [{"id": str(uuid.uuid4()), **asdict(one)} for one in wanted]
        values = {"rows": to_json(rows), "looked": to_array(looked), "now": now}
        await self.connection.execute(WANT_SQL, values)

    async def again(self, person_id: str, heir_id: str, application_id: str, thing: str) -> None:
        said = sa.delete(t.takeovers).where(
            T.person_id == person_id, T.heir_id == heir_id, T.answer.in_(NOT_AGREED)
        )
        if application_id:
            said = said.where(T.application_id == application_id)
        if thing:
            said = said.where(T.thing == thing)
        await self.connection.execute(said)

    async def to_tell(self, limit: int) -> Sequence[TakeoverLine]:
        query = LINES.where(T.answer == OPEN, T.asked_at.is_(None), sa.not_(IN_CONFIDENCE))
        query = query.order_by(*ORDER).limit(limit)
        query = query.with_for_update(of=t.takeovers, skip_locked=True)
        return read_all(TakeoverLine, await self.connection.execute(query))

    async def told(
        self,
        ids: Sequence[str],
        asked_at: datetime,
        remind_at: datetime | None,
        answer_by: datetime,
    ) -> None:
        asked = sa.update(t.takeovers).where(T.id.in_(ids))
        await self.connection.execute(
            asked.values(asked_at=asked_at, remind_at=remind_at, answer_by=answer_by)
        )

    async def to_remind(self, now: datetime) -> Sequence[TakeoverLine]:
        due = (
            sa.update(t.takeovers)
            .where(T.answer == OPEN, T.remind_at <= now, T.answer_by > now)
            .values(remind_at=None)
            .returning(T.id)
        )
        ids = (await self.connection.scalars(due)).all()
        if not ids:
            return []
        query = LINES.where(T.id.in_(ids)).order_by(*ORDER)
        return read_all(TakeoverLine, await self.connection.execute(query))

    async def lapse(self, now: datetime) -> Sequence[Takeover]:
        over = (
            sa.update(t.takeovers)
            .where(T.answer == OPEN, T.answer_by <= now)
            .values(answer=TakeoverAnswer.UNANSWERED.value, answered_at=now)
            .returning(t.takeovers)
        )
        return read_all(Takeover, await self.connection.execute(over))

    async def link(self, link_hash: str, heir_id: str, expires: datetime) -> None:
        row = {"hash": link_hash, "heir_id": heir_id, "expires": expires}
        await self.connection.execute(sa.insert(t.takeover_links).values(row))

    async def behind(self, link_hash: str, now: datetime) -> Sequence[TakeoverLine]:
        k = t.takeover_links.c
        query = LINES.join(t.takeover_links, k.heir_id == T.heir_id)
        query = query.where(k.hash == link_hash, k.expires > now, T.asked_at.is_not(None))
        query = query.order_by(T.answer != OPEN, *ORDER).limit(SHOWN)
        found = read_all(TakeoverLine, await self.connection.execute(query))
        if not found:
            raise NotFound(
                "This link is over, or nothing is asked any more.",
                remedy="Ask whoever sent it, or use the newest mail.",
            )
        return found

    async def one(self, takeover_id: str, *, lock: bool = False) -> TakeoverLine:
        query: sa.Select[Any] = LINES.where(T.id == takeover_id)
        if lock:
            query = query.with_for_update(of=t.takeovers)
        row = (await self.connection.execute(query)).mappings().first()
        if row is None:
            raise NotFound(
                "There is no such question, or it is not asked any more.",
                remedy="Those there are: yugum handover asked.",
            )
        return read(TakeoverLine, row)

    async def called(self, name: str) -> Sequence[str]:
        return (await self.connection.scalars(CALLED_SQL, {"name": name.lower()})).all()

    async def answer(self, said: Takeover) -> None:
        change = sa.update(t.takeovers).where(T.id == said.id)
        values = {"answer": said.answer.value, "answered_at": said.answered_at, "note": said.note}
        await self.connection.execute(change.values(values))

    async def page(
        self, answer: TakeoverAnswer | None, cursor: str | None, limit: int
    ) -> ListPage[TakeoverLine]:
        query = LINES if answer is None else LINES.where(T.answer == answer.value)
        return await fetch(
            self.connection,
            query,
            [T.made_at, T.id],
            reader(TakeoverLine),
            cursor=cursor,
            limit=limit,
            descending=True,
            count=cursor is None,
        )
