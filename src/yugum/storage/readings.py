"""Readings: what they compare with and what they store."""

from __future__ import annotations

import uuid
from collections.abc import AsyncIterator, Mapping, Sequence
from datetime import datetime
from typing import Any

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import insert

from yugum.core.accounts import Account, AccountKind, AccountState, Observed, Unreadable
from yugum.core.conditions import fold
from yugum.core.deviations import GONE, THERE, Deviation, DeviationKind
from yugum.core.matching import Candidate, as_seen, keys_of
from yugum.core.people import Person
from yugum.core.readings import KnownKey
from yugum.ports.deviations import SeenDeviation
from yugum.ports.pages import ListPage
from yugum.ports.readings import KnownAccount, Reading, Sighting, UnreadableLine
from yugum.storage import tables as t
from yugum.storage.accounts import HISTORY_SQL, UPSERT_SQL, account_from
from yugum.storage.deviations import Deviations
from yugum.storage.owned import own
from yugum.storage.pages import fetch
from yugum.storage.rows import among, read, reader, to_json
from yugum.storage.runs import Runs

KNOWN_SQL = sa.text("""
SELECT a.id, a.external_id, a.person_id, a.kind, a.state, a.entitlements, a.seats, a.settings,
  a.digest,
  EXISTS (SELECT 1 FROM dockets d JOIN steps s ON s.docket_id = d.id AND s.account_id = a.id
    WHERE d.subject_id = a.person_id AND d.state = 'running' AND (s.state IN ('intent', 'settling')
      OR (s.state = 'due' AND d.waiting_at IS NULL))) AS busy
FROM accounts a WHERE a.application_id = :application AND a.external_id = ANY(:ids)
""")

NEW_SQL = sa.text("""
WITH r AS (
  SELECT * FROM jsonb_to_recordset(cast(:rows AS jsonb)) AS r(id text, person_id text, kind text,
    login text, display_name text, number text, external_id text, state text, entitlements text[],
    seats text[], sessions int, keys int, settings jsonb, recoverable_until timestamptz,
    digest bytea, last_used timestamptz)
), made AS (
  INSERT INTO accounts (id, application_id, person_id, kind, login, display_name, employee_number,
    external_id, state, entitlements, seats, sessions, keys, settings, recoverable_until, digest,
    last_used, seen_at)
  SELECT id, :application, person_id, kind, login, display_name, number, external_id, state,
    entitlements, seats, sessions, keys, settings, recoverable_until, digest, last_used, :at
  FROM r ON CONFLICT DO NOTHING RETURNING id, state, entitlements, seats
)
INSERT INTO history (account_id, kind, item, from_at)
SELECT m.id, h.kind, h.item, :at FROM made m CROSS JOIN LATERAL (
  SELECT 'state' AS kind, m.state AS item
  UNION ALL SELECT 'entitlement', unnest(m.entitlements)
  UNION ALL SELECT 'seat', unnest(m.seats)) h
""")
"""Accounts seen for the first time, with the beginning of their history."""

MORE_SQL = sa.text("""
UPDATE accounts a SET digest = r.digest, last_used = r.last_used, person_id = r.person_id,
  kind = r.kind, display_name = coalesce(r.display_name, ''), employee_number = r.number
FROM jsonb_to_recordset(cast(:rows AS jsonb)) AS r(id text, digest bytea, last_used timestamptz,
  person_id text, kind text, display_name text, number text)
WHERE a.id = r.id
""")

DUE_SQL = sa.text("""
UPDATE applications a SET reading_at = :now
WHERE a.disconnected_at IS NULL AND (a.profile->>'read_every_hours')::float > 0 AND a.reading_at IS NOT NULL
  AND a.reading_at + make_interval(hours => 1) * (a.profile->>'read_every_hours')::float <= :now
RETURNING a.id
""")
"""Claims the readings that are due by moving their time on, so that one worker does each."""


class Readings(Runs):
    async def page(self, application_id: str, cursor: str | None, limit: int) -> ListPage[Reading]:
        r = t.readings.c
        query = sa.select(t.readings).where(r.application_id == application_id)
        return await fetch(
            self.connection,
            query,
            [r.began_at, r.id],
            reader(Reading),
            cursor=cursor,
            limit=limit,
            descending=True,
        )

    async def last(self, application_id: str) -> Reading | None:
        """The last reading that was carried through."""
        r = t.readings.c
        query = (
            sa.select(t.readings)
            .where(r.application_id == application_id, r.state == "done")
            .order_by(r.began_at.desc())
            .limit(1)
        )
        row = (await self.connection.execute(query)).mappings().first()
        return read(Reading, row) if row else None

    async def due(self, now: datetime) -> Sequence[str]:
        return list(await self.connection.scalars(DUE_SQL, {"now": now}))

    # --- a page of accounts ------------------------------------------------------------------

    async def digests(
        self, application_id: str, external_ids: Sequence[str]
    ) -> Mapping[str, tuple[bytes | None, bool]]:
        """Of accounts that are known: their digest, and whether somebody is behind them."""
        a = t.accounts.c
        query = sa.select(a.external_id, a.digest, a.person_id.isnot(None)).where(
            a.application_id == application_id, among(a.external_id, external_ids)
        )
        return {r[0]: (r[1], r[2]) for r in await self.connection.execute(query)}

    async def known(
        self, application_id: str, external_ids: Sequence[str]
    ) -> Mapping[str, KnownAccount]:
        """What is known of accounts, by the application's id."""
        result = await self.connection.execute(
            KNOWN_SQL, {"application": application_id, "ids": list(external_ids)}
        )
        return {
            r.external_id: KnownAccount(
                id=r.id,
                person_id=r.person_id,
                kind=AccountKind(r.kind),
                state=AccountState(r.state),
                entitlements=frozenset(r.entitlements),
                seats=frozenset(r.seats),
                settings=r.settings,
                digest=bytes(r.digest) if r.digest else None,
                busy=r.busy,
            )
            for r in result
        }

    async def candidates(self, seen: Sequence[Observed]) -> Sequence[Candidate]:
        """The people any of these accounts could belong to."""
        p = t.people.c
        keys = [keys_of(o) for o in seen]
        logins = {k["login"] for k in keys} | {k["login before the at sign"] for k in keys}
        query = sa.select(
            p.id, p.user_name, p.employee_number, p.outside_mail, p.display_name
        ).where(
            sa.or_(
                among(p.user_name, logins - {""}),
                among(p.employee_number, {k["employee number"] for k in keys} - {""}),
                among(p.outside_mail, {k["mail address"] for k in keys} - {""}),
                among(p.display_name, {k["display name"] for k in keys} - {""}),
            )
        )
        rows = (await self.connection.execute(query)).mappings()
        return [Candidate(**row) for row in rows]

    async def unlinked(self, people: Sequence[Person]) -> Sequence[tuple[Account, Observed]]:
        a = t.accounts.c
        logins = {fold(p.user_name) for p in people}
        keys = [
            (a.employee_number, {p.employee_number for p in people}),
            (sa.func.lower(a.login), logins | {fold(p.outside_mail) for p in people}),
            (sa.func.lower(sa.func.split_part(a.login, "@", 1)), logins),
            (a.display_name, {p.display_name for p in people}),
        ]
        query = sa.select(t.accounts).where(
            a.person_id.is_(None),
            a.kind == AccountKind.PERSON.value,
            a.state != AccountState.PURGED.value,
            sa.or_(*(among(column, values - {""}) for column, values in keys)),
        )
        found = []
        for row in (await self.connection.execute(query)).mappings():
            account = account_from(row)
            found.append((account, as_seen(account, row["display_name"], row["employee_number"])))
        return found

    async def created_by_us(self, application_id: str, correlations: Sequence[str]) -> set[str]:
        """Which of these are ids that a docket of ours meant for an account there."""
        s = t.steps.c
        query = sa.select(s.account_id).where(
            s.application_id == application_id,
            s.action == "create",
            among(s.account_id, correlations),
        )
        return set(await self.connection.scalars(query)) if correlations else set()

    async def store(self, application_id: str, accounts: Sequence[Sighting], at: datetime) -> None:
        """Store new and changed accounts with what they own and their history."""
        new = [_row(a, application_id) for a in accounts if a.new]
        if new:
            values = {"rows": to_json(new), "application": application_id, "at": at}
            await self.connection.execute(NEW_SQL, values)
        changed = [a for a in accounts if not a.new]
        if changed:
            document = to_json([_row(a, application_id) for a in changed])
            await self.connection.execute(UPSERT_SQL, {"rows": document, "at": at})
            await self.connection.execute(MORE_SQL, {"rows": document})
            ids = [a.id for a in changed]
            await self.connection.execute(HISTORY_SQL, {"ids": ids, "at": at})
            told = [a.id for a in changed if a.seen.assets is not None]
            await self.connection.execute(
                sa.delete(t.assets).where(among(t.assets.c.account_id, told))
            )
        await own(self.connection, ((a.id, a.seen.assets or ()) for a in accounts))

    async def settle_statistics(self) -> None:
        """After very many new rows the planner has to hear of them at once."""
        await self.connection.execute(sa.text("ANALYZE accounts, history"))

    # --- records that are not understood --------------------------------------------------

    async def keep_unreadable(
        self, application_id: str, records: Sequence[Unreadable], at: datetime
    ) -> None:
        """Keep the records that could not be understood, each with its reason."""
        statement = insert(t.reading_problems)
        statement = statement.on_conflict_do_update(
            index_elements=["application_id", "external_id"],
            set_={"reason": statement.excluded.reason, "at": statement.excluded.at},
        )
        rows = [
            {
                "id": str(uuid.uuid4()),
                "application_id": application_id,
                "external_id": r.external_id or r.login,
                "login": r.login,
                "reason": r.reason,
                "at": at,
            }
            for r in records
        ]
        if rows:
            await self.connection.execute(statement, rows)

    async def clear_unreadable(self, application_id: str, external_ids: Sequence[str]) -> None:
        """Records that are understood now are no problem any more."""
        p = t.reading_problems
        await self.connection.execute(
            sa.delete(p).where(
                p.c.application_id == application_id, among(p.c.external_id, external_ids)
            )
        )

    async def is_unreadable(self, application_id: str, external_id: str) -> bool:
        p = t.reading_problems.c
        query = sa.select(p.id).where(
            p.application_id == application_id, p.external_id == external_id
        )
        return await self.connection.scalar(query) is not None

    async def unreadable(
        self, application_id: str, cursor: str | None, limit: int
    ) -> ListPage[UnreadableLine]:
        p = t.reading_problems.c
        query = sa.select(t.reading_problems).where(p.application_id == application_id)
        return await fetch(
            self.connection,
            query,
            [p.login, p.id],
            reader(UnreadableLine),
            cursor=cursor,
            limit=limit,
            count=not cursor,
        )

    # --- what is not there any more ----------------------------------------------------------

    async def in_use(self, application_id: str) -> int:
        a = t.accounts.c
        query = sa.select(sa.func.count()).where(
            a.application_id == application_id, a.state != AccountState.PURGED.value
        )
        return int(await self.connection.scalar(query) or 0)

    async def any_known(self, application_id: str) -> bool:
        a = t.accounts.c
        query = sa.select(sa.literal(1)).where(a.application_id == application_id).limit(1)
        return await self.connection.scalar(query) is not None

    async def all_keys(self, application_id: str) -> AsyncIterator[KnownKey]:
        """Every account that is not purged, streamed."""
        a, p = t.accounts.c, t.people.c
        d, s = t.dockets.c, t.steps.c
        doing = s.state.in_(["intent", "settling"]) | (s.state == "due") & d.waiting_at.is_(None)
        busy = sa.exists().where(
            s.docket_id == d.id,
            s.account_id == a.id,
            d.subject_id == a.person_id,
            d.state == "running",
            doing,
        )
        query = (
            sa.select(a.id, a.external_id, sa.func.coalesce(p.site, ""), busy, a.state)
            .select_from(t.accounts.outerjoin(t.people, p.id == a.person_id))
            .where(a.application_id == application_id, a.state != AccountState.PURGED.value)
        )
        result = await self.connection.stream(query.execution_options(yield_per=2000))
        async for row in result:
            in_use = row[4] != AccountState.DELETED.value
            yield KnownKey(row[0], row[1], row[2], row[3], in_use)

    async def vanished(self, application_id: str, account_ids: Sequence[str], at: datetime) -> None:
        """Accounts an application no longer has are purged, and somebody has to say if that is right."""
        a = t.accounts
        change = Deviation(DeviationKind.ACCOUNT, "", THERE, GONE)
        found = [
            SeenDeviation(
                id=str(uuid.uuid4()),
                application_id=application_id,
                account_id=account_id,
                change=change,
                seen_at=at,
            )
            for account_id in account_ids
        ]
        await Deviations(self.connection).add(found)
        await self.connection.execute(
            sa.update(a)
            .where(among(a.c.id, account_ids))
            .values(
                state=AccountState.PURGED.value,
                entitlements=sa.text("'{}'"),
                seats=sa.text("'{}'"),
                sessions=0,
                keys=0,
                digest=None,
                seen_at=at,
                rev=a.c.rev + 1,
            )
        )
        await self.connection.execute(HISTORY_SQL, {"ids": list(account_ids), "at": at})


def _row(sighting: Sighting, application_id: str) -> dict[str, Any]:
    seen = sighting.seen
    return {
        "id": sighting.id,
        "application_id": application_id,
        "person_id": sighting.person_id,
        "kind": sighting.kind.value,
        "login": seen.login,
        "display_name": seen.display_name,
        "number": seen.employee_number,
        "external_id": seen.external_id,
        "state": seen.state.value,
        "entitlements": sorted(seen.entitlements),
        "seats": sorted(seen.seats or ()),
        "sessions": seen.sessions,
        "keys": seen.keys,
        "settings": dict(seen.settings),
        "recoverable_until": seen.recoverable_until,
        "digest": sighting.digest,
        "last_used": seen.last_used,
    }
