"""Accounts as last seen, what they own, why they hold what they hold, and what they held before."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import fields, replace
from datetime import datetime
from functools import lru_cache
from typing import Any

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import insert

from yugum.core.accounts import Account, AccountKind, AccountState, Asset
from yugum.core.conditions import fold
from yugum.core.decisions import (
    Decision,
    LedgerKey,
    Origin,
)
from yugum.core.lifeline import HistoryEntry
from yugum.core.lists import AccountSort, Order
from yugum.core.people import Person
from yugum.errors import NotFound
from yugum.ports.accounts import AccountLine, ChosenAccounts, Known
from yugum.ports.pages import ListPage
from yugum.storage import tables as t
from yugum.storage.managers import Managers
from yugum.storage.origins import beside
from yugum.storage.owned import own, owned_by
from yugum.storage.pages import Listing, Row, listed
from yugum.storage.people import MANY, person_from
from yugum.storage.rows import (
    among,
    among_ids,
    begins_with,
    locked_sql,
    named,
    read_all,
    reader,
    statement,
    to_array,
    to_json,
)
from yugum.storage.to_do import SHOWN, TO_DO

HISTORY_SQL = sa.text("""
WITH now_held AS (
  SELECT a.id, 'state' AS kind, a.state AS item FROM accounts a WHERE a.id = ANY(:ids)
  UNION ALL SELECT a.id, 'entitlement', e FROM accounts a, unnest(a.entitlements) e
    WHERE a.id = ANY(:ids)
  UNION ALL SELECT a.id, 'seat', s FROM accounts a, unnest(a.seats) s WHERE a.id = ANY(:ids)
), closed AS (
  UPDATE history h SET until_at = :at
  WHERE h.account_id = ANY(:ids) AND h.until_at IS NULL
    AND NOT EXISTS (SELECT 1 FROM now_held n
                    WHERE n.id = h.account_id AND n.kind = h.kind AND n.item = h.item)
  RETURNING 1
)
INSERT INTO history (account_id, kind, item, from_at)
SELECT n.id, n.kind, n.item, :at FROM now_held n
ON CONFLICT (account_id, kind, item) WHERE until_at IS NULL DO NOTHING
""")
"""Brings the history of some accounts up to what they hold now."""

UPSERT_SQL = sa.text("""
INSERT INTO accounts AS a (id, application_id, person_id, kind, login, display_name, external_id,
  state, entitlements, seats, sessions, keys, settings, recoverable_until, seen_at)
SELECT r.id, r.application_id, r.person_id, r.kind, r.login, coalesce(r.display_name, ''),
  r.external_id, r.state, r.entitlements, r.seats, r.sessions, r.keys,
  coalesce(r.settings, '{}'), r.recoverable_until, :at
FROM jsonb_to_recordset(cast(:rows AS jsonb)) AS r(id text, application_id text, person_id text,
  kind text, login text, display_name text, external_id text, state text, entitlements text[],
  seats text[], sessions int, keys int, settings jsonb, recoverable_until timestamptz)
ON CONFLICT (id) DO UPDATE SET login = excluded.login, external_id = excluded.external_id,
  state = excluded.state, entitlements = excluded.entitlements, seats = excluded.seats,
  sessions = excluded.sessions, keys = excluded.keys, settings = excluded.settings,
  recoverable_until = excluded.recoverable_until, digest = NULL,
  seen_at = excluded.seen_at, rev = a.rev + 1
WHERE (a.login, a.external_id, a.state, a.entitlements, a.seats, a.sessions, a.keys,
       a.settings, a.recoverable_until)
  IS DISTINCT FROM (excluded.login, excluded.external_id, excluded.state, excluded.entitlements,
       excluded.seats, excluded.sessions, excluded.keys, excluded.settings,
       excluded.recoverable_until)
RETURNING a.id
""")
"""Projects accounts; unchanged rows are not rewritten. What was last read is not what is known any more."""


def account_from(row: Row, assets: Sequence[Asset] = ()) -> Account:
    return Account(
        id=row["id"],
        application_id=row["application_id"],
        person_id=row["person_id"],
        kind=AccountKind(row["kind"]),
        login=row["login"],
        external_id=row["external_id"],
        state=AccountState(row["state"]),
        entitlements=frozenset(row["entitlements"]),
        seats=frozenset(row["seats"]),
        sessions=row["sessions"],
        keys=row["keys"],
        settings=row["settings"],
        recoverable_until=row["recoverable_until"],
        restored_at=row["restored_at"],
        seen_at=row["seen_at"],
        rev=row["rev"],
        assets=tuple(assets),
    )


def account_row(account: Account) -> dict[str, Any]:
    return {
        "id": account.id,
        "application_id": account.application_id,
        "person_id": account.person_id,
        "kind": account.kind.value,
        "login": account.login,
        "external_id": account.external_id,
        "state": account.state.value,
        "entitlements": sorted(account.entitlements),
        "seats": sorted(account.seats),
        "sessions": account.sessions,
        "keys": account.keys,
        "settings": dict(account.settings),
        "recoverable_until": account.recoverable_until,
    }


NAMESAKES_SQL = """
SELECT DISTINCT ON (a.id) a.id, a.login, coalesce(p.display_name, b.login) AS holder
FROM unnest(cast(:ids AS text[])) AS x(id)
CROSS JOIN LATERAL (SELECT * FROM accounts WHERE id = x.id OFFSET 0) a
JOIN accounts b ON b.application_id = a.application_id AND lower(b.login) = lower(a.login)
  AND b.id <> a.id AND b.state IN ('active', 'suspended', 'archived')
LEFT JOIN people p ON p.id = b.person_id
ORDER BY a.id, b.id
"""
"""Accounts whose login another one in use has in the same application."""

NONE_KNOWN = Known(
    people={}, revisions={}, accounts={}, nobody=frozenset(), ledger={}, decisions={}
)


LINES = (
    sa.select(
        t.accounts,
        t.people.c.display_name.label("person_name"),
        t.applications.c.name.label("application_name"),
        sa.literal_column(locked_sql("accounts"), sa.Boolean).label("locked"),
        *SHOWN,
    )
    .select_from(t.accounts.outerjoin(t.people, t.people.c.id == t.accounts.c.person_id))
    .join(t.applications, t.applications.c.id == t.accounts.c.application_id)
)
"""All accounts; made once, since putting it together takes as long as it takes to be answered."""


THEIRS = sa.union_all(
    sa.select(t.accounts).where(among_ids(t.accounts.c.person_id)),
    sa.select(t.accounts).where(among_ids(t.accounts.c.id), t.accounts.c.person_id.is_(None)),
)
"""The accounts of some people, and those that are nobody's among the ids."""

ENTRIES = sa.select(*(t.history.c[f.name] for f in fields(HistoryEntry))).order_by(
    t.history.c.from_at, t.history.c.id
)
HISTORY = ENTRIES.where(among_ids(t.history.c.account_id))


class Accounts(Managers):
    async def last_used(self, account_ids: Sequence[str]) -> dict[str, datetime]:
        """When accounts were last used, as far as their applications tell."""
        a = t.accounts.c
        query = sa.select(a.id, a.last_used).where(
            among(a.id, account_ids), a.last_used.isnot(None)
        )
        return {r.id: r.last_used for r in await self.connection.execute(query)}

    async def known(self, person_ids: Sequence[str]) -> Known:
        """All that is stored about some people, in four statements whatever their number."""
        ids = list(person_ids)
        if not ids:
            return NONE_KNOWN
        people = (await self.connection.execute(MANY, {"ids": ids})).mappings().all()
        rows = await self._rows_of(ids)
        account_ids = [r["id"] for r in rows]
        assets = await owned_by(self.connection, account_ids)
        others = await beside(self.connection, ids, account_ids)
        accounts: dict[str, list[Account]] = {i: [] for i in ids}
        for r in rows:
            accounts[r["person_id"] or r["id"]].append(account_from(r, assets.get(r["id"], ())))
        decisions: dict[str, list[Decision]] = {i: [] for i in ids}
        for decision in others.decisions:
            decisions[decision.subject_id].append(decision)
        alone = {r["id"]: r for r in rows if r["person_id"] is None}
        faces = {i: _face(r) for i, r in alone.items()}
        return Known(
            people={p["id"]: person_from(p) for p in people} | faces,
            revisions={p["id"]: p["rev"] for p in people} | {i: r["rev"] for i, r in alone.items()},
            accounts=accounts,
            nobody=frozenset(alone),
            ledger=others.ledger,
            decisions=decisions,
            disputed=others.disputed,
        )

    async def _rows_of(self, subject_ids: Sequence[str]) -> Sequence[dict[str, Any]]:
        """The accounts of some people, and those that are nobody's among the ids."""
        rows = named(await self.connection.execute(THEIRS, {"ids": list(subject_ids)}))
        return sorted(rows, key=lambda r: (r["application_id"], r["login"]))

    async def get(self, account_id: str) -> Account:
        row = (
            (
                await self.connection.execute(
                    sa.select(t.accounts).where(t.accounts.c.id == account_id)
                )
            )
            .mappings()
            .first()
        )
        if row is None:
            raise NotFound(
                f"There is no account {account_id}.", remedy="List them: yugum accounts list."
            )
        return account_from(row)

    async def some(self, account_ids: Iterable[str]) -> dict[str, Account]:
        """Accounts by id, without what they own; those that do not exist yet are left out."""
        query = sa.select(t.accounts).where(among(t.accounts.c.id, account_ids))
        rows = (await self.connection.execute(query)).mappings()
        return {row["id"]: account_from(row) for row in rows}

    async def namesakes(self, account_ids: Sequence[str]) -> dict[str, tuple[str, str]]:
        values = {"ids": to_array(account_ids)}
        rows = await self.connection.execute(statement(NAMESAKES_SQL), values)
        return {row.id: (row.login, row.holder) for row in rows}

    async def refresh(self, accounts: Sequence[Account], at: datetime) -> None:
        """Store what was just seen of known accounts, with what they own."""
        if not accounts:
            return
        ids = [a.id for a in accounts]
        rows = to_json([account_row(a) for a in accounts])
        await self.connection.execute(UPSERT_SQL, {"rows": rows, "at": at})
        await self.connection.execute(
            sa.update(t.accounts).where(among(t.accounts.c.id, ids)).values(seen_at=at)
        )
        await self.connection.execute(HISTORY_SQL, {"ids": ids, "at": at})
        await self.connection.execute(sa.delete(t.assets).where(among(t.assets.c.account_id, ids)))
        await own(self.connection, ((a.id, a.assets) for a in accounts))

    async def page(
        self,
        chosen: ChosenAccounts,
        cursor: str | None = None,
        limit: int = 50,
    ) -> ListPage[AccountLine]:
        return await listed(
            self.connection,
            _listing(replace(chosen, person_id="said" if chosen.person_id else "")),
            reader(AccountLine),
            cursor=cursor,
            limit=limit,
            descending=chosen.order is Order.DESCENDING,
            count=cursor is None,
            values={"person": chosen.person_id},
        )

    async def history(self, account_ids: Sequence[str]) -> Sequence[HistoryEntry]:
        result = await self.connection.execute(HISTORY, {"ids": list(account_ids)})
        return read_all(HistoryEntry, result)

    async def be_of_kind(self, account_id: str, kind: AccountKind) -> None:
        a = t.accounts
        await self.connection.execute(
            sa.update(a).where(a.c.id == account_id).values(kind=kind.value)
        )

    async def set_seats(self, seats: Mapping[str, Iterable[str]]) -> None:
        """Seats that Yugum keeps the books of, by account."""
        rows = to_json([{"id": i, "seats": sorted(s)} for i, s in seats.items()])
        await self.connection.execute(
            sa.text(
                """UPDATE accounts a SET seats = r.seats, rev = rev + 1
                   FROM jsonb_to_recordset(cast(:rows AS jsonb)) AS r(id text, seats text[])
                   WHERE a.id = r.id AND a.seats IS DISTINCT FROM r.seats"""
            ),
            {"rows": rows},
        )

    async def adopt(self, origins: Sequence[tuple[LedgerKey, Origin]], at: datetime) -> None:
        """Write origins of things found that a rule would give anyway."""
        rows = [
            {
                "account_id": a,
                "kind": k,
                "item": i,
                "origin_kind": o.kind.value,
                "origin_name": o.name,
                "since_at": at,
            }
            for (a, k, i), o in origins
        ]
        if rows:
            await self.connection.execute(insert(t.ledger).on_conflict_do_nothing(), rows)


@lru_cache(maxsize=256)
def _listing(chosen: ChosenAccounts) -> Listing:
    """The list of what is chosen; the parameter ``person`` is whose, where that is said."""
    a = t.accounts.c
    where = [a.kind != AccountKind.GROUP.value]  # they have a list of their own
    for column, value in (
        (a.application_id, chosen.application),
        (a.state, chosen.state),
        (a.kind, chosen.kind),
    ):
        if value:
            where.append(column == str(value))
    if chosen.person_id:
        where.append(a.person_id == sa.bindparam("person", type_=sa.Text))
    if chosen.to_do is not None:
        where.append(TO_DO[chosen.to_do])
    if fold(chosen.query):
        where.append(begins_with(sa.func.lower(a.login), fold(chosen.query)))
    keys: list[sa.ColumnElement[Any]] = [a.application_id, a.login, a.id]
    if chosen.sort is AccountSort.USED:
        keys = [sa.literal_column(t.USED, t.Moment), a.id]
    return Listing(LINES, keys, chosen=sa.select(a.id).where(*where))


def _face(row: Row) -> Person:
    """An account that is nobody's, as what a plan is about."""
    return Person(id=row["id"], user_name=row["login"], display_name=row["display_name"])
