"""Where applications name people without being owned by them, as last looked at."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from datetime import datetime

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.mentions import Mention
from yugum.ports.mentions import Found
from yugum.storage import tables as t
from yugum.storage.confidence import QUIET
from yugum.storage.rows import among

NAMED = sa.text("""
SELECT id, lower(mail) AS word FROM people WHERE lower(mail) = ANY(:words)
UNION SELECT id, lower(user_name) FROM people WHERE lower(user_name) = ANY(:words)
UNION SELECT person_id, lower(login) FROM accounts
  WHERE application_id = :application_id AND lower(login) = ANY(:words) AND person_id IS NOT NULL AND state <> 'purged'
""")

FORWARDS = sa.text("""
SELECT id, application_id, login, settings ->> 'forward' AS forward FROM accounts
WHERE settings ? 'forward' AND lower(settings ->> 'forward') = ANY(:addresses)
  AND state NOT IN ('deleted', 'purged') ORDER BY application_id, login
""")
"""``ix_accounts_forward``."""


class Mentions:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def of(self, person_ids: Collection[str]) -> Mapping[str, Sequence[Mention]]:
        m = t.mentions.c
        query = sa.select(t.mentions).where(among(m.person_id, person_ids))
        query = query.order_by(m.application_id, m.place, m.key)
        found: dict[str, list[Mention]] = {}
        for row in await self.connection.execute(query):
            found.setdefault(row.person_id, []).append(
                Mention(
                    application_id=row.application_id,
                    key=row.key,
                    kind=row.kind,
                    place=row.place,
                    text=row.text,
                    effect=row.effect,
                    fixable=row.fixable,
                    replaceable=row.replaceable,
                    contact=row.contact,
                )
            )
        return found

    async def in_confidence(self, person_ids: Collection[str]) -> frozenset[str]:
        d = t.dockets.c
        query = sa.select(d.subject_id).where(among(d.subject_id, person_ids), QUIET)
        return frozenset(await self.connection.scalars(query))

    async def forwards(self, addresses: Collection[str]) -> Sequence[Mention]:
        values = {"addresses": sorted(a.casefold() for a in addresses)}
        return [
            Mention(
                application_id=row.application_id,
                key=f"forward {row.id}",
                kind="forward",
                place=f"forward of {row.login}",
                text=row.forward,
                effect="mail to them reaches nobody",
            )
            for row in await self.connection.execute(FORWARDS, values)
        ]

    async def named(
        self, application_id: str, words: Collection[str]
    ) -> Mapping[str, Collection[str]]:
        if not words:
            return {}
        values = {"words": sorted(words), "application_id": application_id}
        found: dict[str, list[str]] = {}
        for row in await self.connection.execute(NAMED, values):
            found.setdefault(row.word, []).append(row.id)
        return found

    async def put(
        self,
        application_id: str,
        found: Sequence[Found],
        at: datetime,
        *,
        keys: Collection[str] | None = None,
        person_ids: Collection[str] | None = None,
    ) -> None:
        m = t.mentions.c
        wide = sa.delete(t.mentions).where(m.application_id == application_id)
        if keys is not None:
            wide = wide.where(among(m.key, keys))
        if person_ids is not None:
            wide = wide.where(among(m.person_id, person_ids))
        pairs = [f"{person_id} {mention.key}" for person_id, mention in found]
        gone = sa.not_(among(m.person_id + sa.literal(" ") + m.key, pairs))
        await self.connection.execute(wide.where(gone))
        if not found:
            return
        rows = [
            {
                "person_id": person_id,
                "application_id": application_id,
                "key": mention.key,
                "kind": mention.kind,
                "place": mention.place,
                "text": mention.text,
                "effect": mention.effect,
                "fixable": mention.fixable,
                "replaceable": mention.replaceable,
                "contact": mention.contact,
                "since_at": at,
            }
            for person_id, mention in found
        ]
        new = insert(t.mentions)
        said = ("kind", "place", "text", "effect", "fixable", "replaceable", "contact")
        changed = sa.or_(*(m[c].is_distinct_from(new.excluded[c]) for c in said))
        kept = new.on_conflict_do_update(
            index_elements=[m.person_id, m.application_id, m.key],
            set_={c: new.excluded[c] for c in said},
            where=changed,
        )
        await self.connection.execute(kept, rows)

    async def keep_only(self, application_id: str, keys: Collection[str]) -> None:
        m = t.mentions.c
        mine = m.application_id == application_id
        await self.connection.execute(
            sa.delete(t.mentions).where(mine, sa.not_(among(m.key, keys)))
        )
