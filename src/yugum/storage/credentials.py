"""Initial credentials: encrypted, shown once through a link, then erased."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import distinct_on
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.errors import Conflict, NotFound
from yugum.ports.credentials import (
    CredentialLine,
    LinkedAccount,
    OpenedCredential,
    ReplacedKey,
    TakenCredential,
    UntoldCredential,
)
from yugum.storage import tables as t
from yugum.storage.rows import among, read, read_all

MOST_KEYS = 200
TAKE_SQL = sa.text("""
WITH newest AS (
  SELECT DISTINCT ON (account_id) id FROM credentials
  WHERE place = '' AND account_id = ANY(cast(:ids AS text[])) ORDER BY account_id, created DESC
), held AS (
  SELECT c.id, c.account_id, c.cipher FROM credentials c JOIN newest USING (id)
  WHERE c.cipher IS NOT NULL AND NOT EXISTS (
    SELECT 1 FROM dockets d JOIN steps s ON s.docket_id = d.id
    WHERE d.subject_id = ANY(cast(:subjects AS text[])) AND d.state IN ('scheduled', 'running')
      AND s.account_id = c.account_id AND s.action = 'set_credential'
      AND s.state NOT IN ('done', 'left_out')
  ) ORDER BY c.id FOR UPDATE OF c
)
UPDATE credentials c SET cipher = NULL, link_hash = NULL, opened_at = :at,
  told_at = coalesce(c.told_at, :at)
FROM held WHERE c.id = held.id RETURNING held.account_id, held.cipher
""")


class Credentials:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def link(self, account_id: str, link_hash: str, seconds: float) -> None:
        """Put a new one-time link on the newest unopened credential; earlier links of the account die."""
        c = t.credentials
        await self.connection.execute(
            sa.update(c)
            .where(c.c.account_id == account_id, c.c.place == "", c.c.link_hash.isnot(None))
            .values(link_hash=None)
        )
        linked = await self.connection.execute(
            sa.update(c)
            .where(c.c.id == _newest(account_id), c.c.cipher.isnot(None))
            .values(
                link_hash=link_hash,
                expires=sa.func.now() + sa.func.make_interval(0, 0, 0, 0, 0, 0, seconds),
            )
        )
        if not linked.rowcount:
            raise _none_unopened()

    async def must_be_unopened(self, account_id: str) -> None:
        c = t.credentials.c
        query = sa.select(c.id).where(c.id == _newest(account_id), c.cipher.isnot(None))
        if (await self.connection.execute(query)).first() is None:
            raise _none_unopened()

    async def link_one(self, credential_id: str, link_hash: str, seconds: float) -> None:
        """Put a one-time link on one credential; earlier links of its account, or its place there, die."""
        c = t.credentials
        this = c.alias()
        whose = sa.select(this.c.account_id, this.c.place).where(this.c.id == credential_id)
        await self.connection.execute(
            sa.update(c)
            .where(
                sa.tuple_(c.c.account_id, c.c.place).in_(whose),
                c.c.id != credential_id,
                c.c.link_hash.isnot(None),
            )
            .values(link_hash=None)
        )
        await self.connection.execute(
            sa.update(c)
            .where(c.c.id == credential_id)
            .values(
                link_hash=link_hash,
                expires=sa.func.now() + sa.func.make_interval(0, 0, 0, 0, 0, 0, seconds),
            )
        )

    async def untold(self, limit: int) -> Sequence[UntoldCredential]:
        """Credentials nobody was told of yet, locked for this transaction.

        One that somebody has handed a link to is left alone while that link opens it: a new one
        would put it out of use.
        """
        c, a, s = t.credentials, t.accounts, t.steps.c
        until = sa.select(s.arguments["until"].astext).where(s.id == c.c.id).scalar_subquery()
        query = (
            sa.select(
                sa.func.coalesce(until, "").label("until"),
                c.c.id,
                c.c.account_id,
                c.c.docket_id,
                c.c.place,
                c.c.contact,
                a.c.person_id,
                a.c.login,
                t.applications.c.name.label("application_name"),
            )
            .join(a, a.c.id == c.c.account_id)
            .join(t.applications, t.applications.c.id == a.c.application_id)
            .where(c.c.told_at.is_(None), c.c.cipher.isnot(None))
            .where(sa.or_(c.c.link_hash.is_(None), c.c.expires <= sa.func.now()))
            .order_by(c.c.set_at)
            .limit(limit)
            .with_for_update(of=c, skip_locked=True)
        )
        return [UntoldCredential(**r) for r in (await self.connection.execute(query)).mappings()]

    async def told(self, credential_id: str, at: datetime, to: str, how: str) -> None:
        c = t.credentials
        await self.connection.execute(
            sa.update(c).where(c.c.id == credential_id).values(told_at=at, told_to=to, told_how=how)
        )

    async def behind(self, link_hash: str) -> LinkedAccount:
        """The account behind a link that still opens something.

        Raises:
            NotFound: it was used, or has expired.
        """
        c, a = t.credentials.c, t.accounts.c
        query = (
            sa.select(
                c.account_id,
                c.place,
                a.login,
                a.application_id,
                t.applications.c.name.label("application_name"),
            )
            .join(t.accounts, a.id == c.account_id)
            .join(t.applications, t.applications.c.id == a.application_id)
            .where(c.link_hash == link_hash, c.cipher.isnot(None), c.expires > sa.func.now())
        )
        row = (await self.connection.execute(query)).mappings().first()
        if row is None:
            raise NotFound(
                "This link was used already, or has expired.",
                remedy="Ask whoever sent it for a new link.",
            )
        return LinkedAccount(**row)

    async def of(self, account_ids: Sequence[str]) -> Sequence[CredentialLine]:
        """The newest credential of each account: when set, told to whom, opened, still there."""
        c = t.credentials
        query = (
            sa.select(
                c.c.account_id,
                c.c.set_at,
                c.c.told_at,
                c.c.told_to,
                c.c.told_how,
                c.c.opened_at,
                c.c.cipher.isnot(None).label("unopened"),
                (c.c.expires < sa.func.now()).label("expired"),
            )
            .where(among(c.c.account_id, account_ids), c.c.place == "")
            .ext(distinct_on(c.c.account_id))
            .order_by(c.c.account_id, c.c.created.desc())
        )
        return [CredentialLine(**r) for r in (await self.connection.execute(query)).mappings()]

    async def open(self, link_hash: str, at: datetime) -> OpenedCredential:
        """The encrypted credential behind a link, which with this is used up and erased."""
        c, a = t.credentials, t.accounts
        row = (
            (
                await self.connection.execute(
                    sa.select(
                        c.c.id,
                        c.c.cipher,
                        c.c.account_id,
                        c.c.place,
                        a.c.login,
                        t.applications.c.name.label("application_name"),
                    )
                    .join(a, a.c.id == c.c.account_id)
                    .join(t.applications, t.applications.c.id == a.c.application_id)
                    .where(c.c.link_hash == link_hash, c.c.cipher.isnot(None))
                    .where(c.c.expires > sa.func.now())
                    .with_for_update(of=c)
                )
            )
            .mappings()
            .first()
        )
        if row is None:
            raise NotFound(
                "This link was used already, or has expired.",
                remedy="Ask whoever sent it for a new link.",
            )
        await self.connection.execute(
            sa.update(c)
            .where(c.c.id == row["id"])
            .values(cipher=None, link_hash=None, opened_at=at)
        )
        return read(OpenedCredential, row)

    async def keys(self, account_ids: Sequence[str]) -> Sequence[ReplacedKey]:
        c, s = t.credentials.c, t.steps.c
        query = (
            sa.select(
                c.id,
                s.application_id,
                c.place,
                s.arguments["to_name"].astext.label("to_name"),
                s.arguments["value"].astext.label("login"),
                sa.func.coalesce(s.arguments["until"].astext, "").label("until"),
                c.set_at,
                c.told_at,
                c.contact,
                c.told_to,
                c.opened_at,
                c.cipher.isnot(None).label("unopened"),
            )
            .join(t.steps, s.id == c.id)
            .where(among(s.account_id, account_ids), c.place != "")
            .order_by(c.set_at.desc(), c.place)
            .limit(MOST_KEYS)
        )
        return read_all(ReplacedKey, await self.connection.execute(query))

    async def tell_anew(self, credential_id: str, account_ids: Sequence[str]) -> None:
        c = t.credentials.c
        theirs = sa.select(t.steps.c.id).where(among(t.steps.c.account_id, account_ids))
        mine = (c.id == credential_id, c.id.in_(theirs), c.place != "", c.cipher.isnot(None))
        anew = sa.update(t.credentials).where(*mine)
        done = await self.connection.execute(anew.values(told_at=None, link_hash=None))
        if not done.rowcount:
            raise NotFound(
                f"There is no key {credential_id} of theirs that nobody has opened.",
                place="key_id",
                remedy="Look which there are: yugum handover references WHO.",
            )

    async def take(
        self, account_ids: Sequence[str], subject_ids: Sequence[str], at: datetime
    ) -> Sequence[TakenCredential]:
        values = {"ids": list(account_ids), "subjects": list(subject_ids), "at": at}
        rows = await self.connection.execute(TAKE_SQL, values)
        return read_all(TakenCredential, rows)


def _newest(account_id: str) -> sa.ScalarSelect[str]:
    c = t.credentials.c
    mine = sa.select(c.id).where(c.account_id == account_id, c.place == "")
    return mine.order_by(c.created.desc()).limit(1).scalar_subquery()


def _none_unopened() -> Conflict:
    return Conflict(
        "No unopened initial credential is kept for this account.",
        remedy="It was opened already, or none was set. Set a new one.",
    )
