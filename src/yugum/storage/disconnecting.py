"""Applications that are not connected any more: what hangs on them, what is kept, what comes back."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.applications import Application, Capability, Profile, Trust
from yugum.core.attributes import Shape
from yugum.core.disconnecting import Tied
from yugum.errors import NotFound
from yugum.ports.applications import ArchivedAccount, DisconnectedLine
from yugum.ports.pages import ListPage
from yugum.storage import tables as t
from yugum.storage.beside import IN_DOUBT
from yugum.storage.pages import Row, fetch
from yugum.storage.rows import read, reader, statement

OF_APPLICATION = (
    *("id", "name", "kind", "profile", "capabilities", "contact", "owner", "trust", "nested"),
    *("attributes", "groups"),
)
"""The columns that `application_from` reads."""


def application_from(row: Row) -> Application:
    return Application(
        id=row["id"],
        name=row["name"],
        kind=row["kind"],
        profile=read(Profile, row["profile"]),
        capabilities=frozenset(Capability(c) for c in row["capabilities"]),
        contact=row["contact"],
        owner=row["owner"],
        trust=Trust(row["trust"]),
        nested=row["nested"],
        attributes={n: read(Shape, s) for n, s in row["attributes"].items()},
        groups={n: read(Shape, s) for n, s in row["groups"].items()},
    )


HOLDING = """d.kind = 'hold' AND coalesce(d.starts_at, :now) <= :now
  AND coalesce(d.ends_at, 'infinity') > :now"""
OPEN_STEPS = """FROM steps o JOIN dockets d ON d.id = o.docket_id
  AND d.state IN ('scheduled', 'running')
  WHERE o.application_id = :application AND o.state NOT IN ('done', 'left_out')"""

TIED_SQL = f"""
WITH mine AS (SELECT id, person_id, state, kind FROM accounts WHERE application_id = :application),
  archived AS (SELECT id, person_id, document->>'kind' AS kind FROM archived_accounts
    WHERE application_id = :application),
  claims AS (SELECT c.state FROM seat_claims c JOIN pools p ON p.id = c.pool_id
    WHERE p.application_id = :application AND c.until_at IS NULL)
SELECT (SELECT coalesce(jsonb_object_agg(state, n), '{{}}')
    FROM (SELECT state, count(*) AS n FROM mine WHERE kind <> 'group' GROUP BY state) s) AS accounts,
  (SELECT count(*) FROM mine m JOIN people p ON p.id = m.person_id
    WHERE m.state = 'active' AND p.access_ends <= :now) AS left_open,
  (SELECT count(*) FROM obligations b JOIN mine m ON m.id = b.account_id
    WHERE b.state IN ('open', 'due', 'taken') AND b.kind IN ('close', 'purge')) AS owed,
  (SELECT count(*) {OPEN_STEPS}) AS open_steps,
  (SELECT count(DISTINCT d.id) {OPEN_STEPS}) AS open_dockets,
  (SELECT count(*) {OPEN_STEPS} AND {IN_DOUBT}) AS in_doubt,
  (SELECT count(*) FROM tasks WHERE application_id = :application AND state = 'open') AS tasks,
  (SELECT count(*) FROM claims WHERE state = 'held') AS seats,
  (SELECT count(*) FROM claims WHERE state = 'waiting') AS waiting,
  (SELECT count(*) FROM archived WHERE kind <> 'group') AS archived,
  (SELECT coalesce(jsonb_agg(x.name ORDER BY x.name), '[]') FROM applications x
    WHERE x.config->'options'->>'through' = :application
      AND x.disconnected_at IS NULL) AS through,
  (SELECT coalesce(jsonb_agg(h.reason ORDER BY h.reason), '[]') FROM (
    SELECT d.reason FROM decisions d WHERE {HOLDING} AND (d.subject_id = :application
      OR d.subject_id IN (SELECT coalesce(person_id, id) FROM mine
        UNION SELECT coalesce(person_id, id) FROM archived))
    ORDER BY d.reason LIMIT 5) h) AS holds
"""

MINE = "(SELECT id FROM accounts WHERE application_id = :application)"
BOTH = "(SELECT id FROM archived_accounts WHERE application_id = :application)"
LEAVE_OUT_SQL = f"""
UPDATE steps SET state = 'left_out', retry_at = NULL, done_at = :now,
  problem = jsonb_build_object('code', 'superseded', 'text', 'The application was disconnected.')
WHERE id IN (SELECT o.id {OPEN_STEPS})
RETURNING subject_id
"""
ARCHIVE_SQL = (
    # Its dockets have nothing left to do, and nobody else to do it for.
    f"""UPDATE dockets SET ended_at = :now, machine_ended = clock_timestamp(),
      state = CASE WHEN state = 'running' THEN 'done' ELSE 'cancelled' END
    WHERE state IN ('scheduled', 'running') AND subject_id IN {MINE}""",
    """UPDATE tasks SET state = 'refused', ended_at = :now, ended_by = 'Yugum',
      evidence = 'withdrawn: the application was disconnected'
    WHERE application_id = :application AND state = 'open'""",
    """INSERT INTO archived_accounts
      (id, application_id, person_id, login, display_name, document, ledger)
    SELECT a.id, a.application_id, a.person_id, a.login, a.display_name, to_jsonb(a) - 'digest',
      coalesce((SELECT jsonb_agg(to_jsonb(l)) FROM ledger l WHERE l.account_id = a.id), '[]')
    FROM accounts a WHERE a.application_id = :application""",
    f"""DELETE FROM obligations WHERE state IN ('open', 'due', 'taken')
      AND (account_id IN {MINE} OR subject_id IN {MINE})""",
    "DELETE FROM standing WHERE application_id = :application",
    "DELETE FROM deviations WHERE application_id = :application AND state = 'open'",
    *(
        f"DELETE FROM {name} WHERE account_id IN {MINE}"
        for name in ("proposals", "credentials", "ledger", "assets")
    ),
    """UPDATE seat_claims c SET until_at = :now FROM pools p
    WHERE p.id = c.pool_id AND p.application_id = :application AND c.until_at IS NULL""",
    "DELETE FROM accounts WHERE application_id = :application",
    "DELETE FROM tallies WHERE application_id = :application",
    """UPDATE applications SET disconnected_at = coalesce(disconnected_at, :now), secret = NULL,
      credential_ends = NULL, trust = 'watch', capabilities = '[]', problem = '',
      accounts_seen = 0, paused_until = NULL
    WHERE id = :application""",
    # What others have and are owed may follow from it: everybody is looked at once.
    "INSERT INTO sweeps (application_id) VALUES (NULL)",
)
"""In this order: what is kept is copied before it goes."""

ERASE_SQL = (
    *(
        f"DELETE FROM {name} WHERE account_id IN {BOTH}"
        for name in ("history", "rights", "deviations")
    ),
    *(
        f"DELETE FROM {name} WHERE application_id = :application"
        for name in (
            "numbers",
            "manual_accounts",
            "reading_problems",
            "readings",
            "accepted",
            "archived_accounts",
        )
    ),
    """DELETE FROM seat_claims c USING pools p
    WHERE p.id = c.pool_id AND p.application_id = :application""",
    "DELETE FROM pools WHERE application_id = :application",
    """UPDATE applications SET profile = '{}', config = '{}', nested = '{}', contact = '',
      owner = '', seen_at = NULL, reading_at = NULL
    WHERE id = :application""",
)

RESTORE_SQL = (
    "SELECT FROM applications WHERE id = :application FOR UPDATE",  # two at once: the first does it
    """INSERT INTO accounts SELECT (jsonb_populate_record(NULL::accounts, x.document
      || jsonb_build_object('person_id', p.id))).*
    FROM archived_accounts x LEFT JOIN people p ON p.id = x.person_id
    WHERE x.application_id = :application""",
    """INSERT INTO ledger SELECT (jsonb_populate_record(NULL::ledger, l)).*
    FROM archived_accounts x CROSS JOIN LATERAL jsonb_array_elements(x.ledger) l
    WHERE x.application_id = :application""",
    "DELETE FROM archived_accounts WHERE application_id = :application",
    "UPDATE applications SET disconnected_at = NULL WHERE id = :application",
    "INSERT INTO sweeps (application_id) VALUES (NULL)",
)


class Disconnecting:
    """The part of the application store that takes leave of them."""

    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def tied(self, application_id: str, now: datetime) -> Tied:
        values = {"application": application_id, "now": now}
        row = (await self.connection.execute(statement(TIED_SQL), values)).mappings().one()
        return read(Tied, row)

    async def hold_still(self, application_id: str) -> tuple[str, bool]:
        a = t.applications.c
        query = sa.select(a.name, a.disconnected_at).where(a.id == application_id)
        row = (await self.connection.execute(query.with_for_update())).first()
        if row is None:
            raise NotFound(
                f"There is no application {application_id}.", remedy="See: yugum apps list."
            )
        return row.name, row.disconnected_at is None

    async def earlier(self, application_id: str) -> Application | None:
        gone = t.applications.c.disconnected_at.isnot(None)
        query = sa.select(t.applications).where(t.applications.c.id == application_id, gone)
        row = (await self.connection.execute(query)).mappings().first()
        return None if row is None else application_from(row)

    async def stays(self, application_id: str) -> None:
        a = t.applications.c
        query = sa.select(a.id).where(a.id == application_id, a.disconnected_at.is_(None))
        if await self.connection.scalar(query.with_for_update(read=True, key_share=True)) is None:
            raise NotFound(f"{application_id} is not connected any more.")

    async def disconnect(self, application_id: str, now: datetime, *, erase: bool) -> Sequence[str]:
        values = {"application": application_id, "now": now}
        left = await self.connection.execute(statement(LEAVE_OUT_SQL), values)
        subjects = sorted({r.subject_id for r in left})
        for sql in (*ARCHIVE_SQL, *(ERASE_SQL if erase else ())):
            await self.connection.execute(statement(sql), values)
        return subjects

    async def come_back(self, application_id: str) -> None:
        for sql in RESTORE_SQL:
            await self.connection.execute(statement(sql), {"application": application_id})

    async def disconnected(self) -> Sequence[DisconnectedLine]:
        a, x = t.applications.c, t.archived_accounts.c
        mine = sa.and_(x.application_id == a.id, x.document["kind"].astext != "group")
        kept = sa.select(sa.func.count()).where(mine).scalar_subquery()
        query = (
            sa.select(a.id, a.name, a.kind, a.disconnected_at, kept.label("archived"))
            .where(a.disconnected_at.isnot(None))
            .order_by(a.name, a.id)
        )
        rows = (await self.connection.execute(query)).mappings()
        return [read(DisconnectedLine, r) for r in rows]

    async def archived(
        self, application_id: str, cursor: str | None, limit: int
    ) -> ListPage[ArchivedAccount]:
        x, p = t.archived_accounts.c, t.people.c
        query = (
            sa.select(
                x.id,
                x.login,
                x.display_name,
                x.person_id,
                p.display_name.label("person"),
                x.document["state"].astext.label("state"),
                x.document["entitlements"].label("entitlements"),
                x.document["seats"].label("seats"),
                sa.cast(x.document["last_used"].astext, t.Moment).label("last_used"),
                sa.cast(x.document["seen_at"].astext, t.Moment).label("seen_at"),
            )
            .outerjoin(t.people, p.id == x.person_id)
            .where(x.application_id == application_id, x.document["kind"].astext != "group")
        )
        return await fetch(
            self.connection,
            query,
            [x.login, x.id],
            reader(ArchivedAccount),
            cursor=cursor,
            limit=limit,
            count=cursor is None,
        )
