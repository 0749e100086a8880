"""Operators, their sessions, tokens and one-time links, and failed sign-ins. Machine time."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict
from typing import Any

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.exc import IntegrityError
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.conditions import fold
from yugum.core.operators import RANK, OperatorRole
from yugum.errors import Conflict, NotFound
from yugum.ports.operators import (
    ALL,
    Attempt,
    ChosenOperators,
    Integration,
    OperatorRecord,
    SessionRecord,
    TokenLine,
    TokenOf,
    TokenRecord,
)
from yugum.ports.pages import ListPage
from yugum.storage import tables as t
from yugum.storage.pages import fetch
from yugum.storage.rows import among, read, read_all, reader, statement, to_array

LOCK_SQL = """
SELECT pg_advisory_xact_lock(1498760022, hashtext(k)) FROM unnest(cast(:keys AS text[])) AS k
"""
"""The locks under which sign-ins are counted have a class of their own."""


_s, _k, _o = t.sessions.c, t.tokens.c, t.operators.c
SESSION = (
    sa.select(t.operators, _s.csrf, _s.by_link)
    .join(t.operators, _o.id == _s.operator_id)
    .where(_s.hash == sa.bindparam("digest"), _s.expires > sa.func.now(), _o.active)
)
TOKEN = (
    sa.select(t.operators, _k.scopes, _k.id.label("token_id"))
    .join(t.operators, _o.id == _k.operator_id)
    .where(_k.hash == sa.bindparam("digest"), _o.active)
    .where(sa.or_(_k.expires.is_(None), _k.expires > sa.func.now()))
)
"""Who comes with a session or a token: asked with every request, so made once."""


def _hours(count: float) -> sa.ColumnElement[Any]:
    return sa.func.now() + sa.func.make_interval(0, 0, 0, 0, 0, 0, count * 3600)


class Operators:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def _first(self, query: sa.Executable, digest: str = "") -> Mapping[str, Any] | None:
        row = (await self.connection.execute(query, {"digest": digest})).mappings().first()
        return {str(k): v for k, v in row.items()} if row else None

    async def by_login(self, login: str) -> OperatorRecord | None:
        row = await self._first(sa.select(t.operators).where(t.operators.c.login == login))
        return read(OperatorRecord, row) if row else None

    async def get(self, operator_id: str) -> OperatorRecord:
        row = await self._first(sa.select(t.operators).where(t.operators.c.id == operator_id))
        if row is None:
            raise NotFound("There is no such operator.", remedy="See: yugum operators list.")
        return read(OperatorRecord, row)

    async def page(
        self, cursor: str | None, limit: int, chosen: ChosenOperators = ALL
    ) -> ListPage[OperatorRecord]:
        o = t.operators.c
        query = sa.select(o.id, o.login, o.name, o.role, o.active, o.person_id, o.owner_id)
        query = query.where(o.owner_id.is_(None), *_which(chosen))
        return await fetch(
            self.connection,
            query,
            [o.login],
            reader(OperatorRecord),
            cursor=cursor,
            limit=limit,
            count=cursor is None,
        )

    async def integrations(
        self, cursor: str | None, limit: int, chosen: ChosenOperators
    ) -> ListPage[Integration]:
        o, owners = t.operators.c, t.operators.alias("owners")
        query = sa.select(o.id, o.login, o.name, o.role, o.active, owners.c.login.label("owner"))
        query = query.join(owners, owners.c.id == o.owner_id).where(*_which(chosen))
        if chosen.owner:
            query = query.where(owners.c.login == chosen.owner)
        return await fetch(
            self.connection,
            query,
            [o.login],
            reader(Integration),
            cursor=cursor,
            limit=limit,
            count=cursor is None,
        )

    async def logins(self) -> frozenset[str]:
        return frozenset((await self.connection.scalars(sa.select(t.operators.c.login))).all())

    async def put(self, operator: OperatorRecord) -> None:
        values = {**asdict(operator), "role": operator.role.value}
        statement = insert(t.operators).values(**values)
        try:
            await self.connection.execute(
                statement.on_conflict_do_update(index_elements=["id"], set_=values)
            )
        except IntegrityError as error:
            raise Conflict(
                f"There is an operator {operator.login} already.",
                remedy="Choose another login.",
                place="login",
            ) from error

    async def count(self) -> int:
        query = sa.select(sa.func.count()).select_from(t.operators)
        return int(await self.connection.scalar(query) or 0)

    async def administrators(self) -> Sequence[OperatorRecord]:
        o = t.operators.c
        chosen = (o.role == "administrator", o.active, o.owner_id.is_(None))
        return await self._some(*chosen)

    async def of_people(self, person_ids: Sequence[str]) -> Sequence[OperatorRecord]:
        o = t.operators.c
        return await self._some(among(o.person_id, person_ids), o.active)

    async def owned(self, owner_ids: Sequence[str]) -> Sequence[OperatorRecord]:
        o = t.operators.c
        return await self._some(among(o.owner_id, owner_ids), o.active)

    async def _some(self, *chosen: sa.ColumnElement[bool]) -> Sequence[OperatorRecord]:
        query = sa.select(t.operators).where(*chosen).order_by(t.operators.c.created)
        return read_all(OperatorRecord, await self.connection.execute(query))

    async def disable(self, operator_ids: Sequence[str]) -> None:
        o = t.operators
        ended = sa.update(o).where(among(o.c.id, operator_ids)).values(active=False)
        await self.connection.execute(ended)
        for table in (t.sessions, t.tokens, t.sign_in_links):
            await self.connection.execute(
                sa.delete(table).where(among(table.c.operator_id, operator_ids))
            )

    async def pass_on(self, integration_id: str, owner_id: str) -> None:
        o = t.operators
        passed = sa.update(o).where(o.c.id == integration_id).values(owner_id=owner_id)
        await self.connection.execute(passed)

    async def add_session(
        self, digest: str, operator_id: str, csrf: str, hours: float, *, by_link: bool
    ) -> None:
        await self.connection.execute(
            sa.insert(t.sessions).values(
                hash=digest,
                operator_id=operator_id,
                csrf=csrf,
                expires=_hours(hours),
                by_link=by_link,
            )
        )
        await self.connection.execute(
            sa.delete(t.sessions).where(t.sessions.c.expires < sa.func.now())
        )

    async def session(self, digest: str) -> SessionRecord | None:
        row = await self._first(SESSION, digest)
        if row is None:
            return None
        return SessionRecord(
            operator=read(OperatorRecord, row), csrf=row["csrf"], by_link=row["by_link"]
        )

    async def end_session(self, digest: str) -> None:
        await self.connection.execute(sa.delete(t.sessions).where(t.sessions.c.hash == digest))

    async def end_others(self, operator_id: str, csrf: str) -> int:
        s = t.sessions.c
        gone = await self.connection.execute(
            sa.delete(t.sessions).where(s.operator_id == operator_id, s.csrf != csrf)
        )
        return gone.rowcount

    async def add_token(self, token: TokenRecord) -> None:
        values = {**asdict(token), "scopes": [token.scope.value]}
        del values["scope"], values["of"]
        await self.connection.execute(sa.insert(t.tokens).values(**values))

    async def token(self, digest: str) -> TokenOf | None:
        row = await self._first(TOKEN, digest)
        if row is None:
            return None
        return TokenOf(
            id=row["token_id"],
            operator=read(OperatorRecord, row),
            scope=OperatorRole(row["scopes"][0]),
        )

    async def roles(self, keys: Sequence[str]) -> Mapping[str, OperatorRole]:
        s, k, o = t.sessions.c, t.tokens.c, t.operators.c
        sessions = (
            sa.select(s.csrf.label("key"), o.role, o.role.label("scope"))
            .join(t.operators, o.id == s.operator_id)
            .where(among(s.csrf, keys), s.expires > sa.func.now(), o.active)
        )
        tokens = (
            sa.select(k.id, o.role, k.scopes[1])
            .join(t.operators, o.id == k.operator_id)
            .where(among(k.id, keys), o.active)
            .where(sa.or_(k.expires.is_(None), k.expires > sa.func.now()))
        )
        rows = await self.connection.execute(sa.union_all(sessions, tokens))
        return {
            key: min(OperatorRole(role), OperatorRole(scope), key=lambda r: RANK[r])
            for key, role, scope in rows
        }

    async def tokens(
        self, operator_ids: Sequence[str], cursor: str | None, limit: int
    ) -> ListPage[TokenLine]:
        k, o = t.tokens.c, t.operators.c
        query = (
            sa.select(k.id, k.name, k.scopes[1].label("scope"), k.expires, o.login.label("of"))
            .join(t.operators, o.id == k.operator_id)
            .where(among(k.operator_id, operator_ids))
        )
        return await fetch(
            self.connection,
            query,
            [k.created, k.id],
            reader(TokenLine),
            cursor=cursor,
            limit=limit,
            count=cursor is None,
        )

    async def revoke_token(self, operator_ids: Sequence[str], token_id: str) -> bool:
        k = t.tokens.c
        gone = await self.connection.execute(
            sa.delete(t.tokens).where(k.id == token_id, among(k.operator_id, operator_ids))
        )
        return gone.rowcount > 0

    async def add_link(self, digest: str, operator_id: str, hours: float) -> None:
        k = t.sign_in_links
        await self.connection.execute(sa.delete(k).where(k.c.operator_id == operator_id))
        await self.connection.execute(
            sa.insert(k).values(hash=digest, operator_id=operator_id, expires=_hours(hours))
        )

    async def use_link(self, digest: str) -> OperatorRecord | None:
        """The operator a one-time link is for; with this it is used up."""
        k = t.sign_in_links
        operator = await self.connection.scalar(
            sa.update(k)
            .where(k.c.hash == digest, k.c.used.is_(None), k.c.expires > sa.func.now())
            .values(used=sa.func.now())
            .returning(k.c.operator_id)
        )
        return await self.get(operator) if operator else None

    async def attempt(self, limits: Mapping[str, int], minutes: float) -> Attempt:
        f = t.sign_in_failures
        # Whoever tries at the same time is counted before or after; locks are taken in one order.
        await self.connection.execute(statement(LOCK_SQL), {"keys": to_array(sorted(limits))})
        window = sa.func.make_interval(0, 0, 0, 0, 0, 0, minutes * 60)
        left = sa.func.extract("epoch", sa.func.min(f.c.created) + window - sa.func.now())
        query = (
            sa.select(f.c.key, sa.func.count().label("count"), left.label("wait"))
            .where(among(f.c.key, list(limits)), f.c.created > sa.func.now() - window)
            .group_by(f.c.key)
        )
        rows = (await self.connection.execute(query)).mappings().all()
        over = [float(r["wait"]) for r in rows if r["count"] >= limits[r["key"]]]
        if over:
            return Attempt(wait=max(1.0, *over))
        made = await self.connection.scalars(
            sa.insert(f).values([{"key": k} for k in limits]).returning(f.c.id)
        )
        return Attempt(ids=made.all())

    async def forget(self, attempt_ids: Sequence[int], key: str) -> None:
        f = t.sign_in_failures.c
        done = sa.or_(f.id.in_(attempt_ids), f.key == key)
        await self.connection.execute(sa.delete(t.sign_in_failures).where(done))

    async def forget_old(self, minutes: float) -> None:
        f, window = t.sign_in_failures.c, sa.func.make_interval(0, 0, 0, 0, 0, 0, minutes * 60)
        await self.connection.execute(
            sa.delete(t.sign_in_failures).where(f.created < sa.func.now() - window)
        )


def _which(chosen: ChosenOperators) -> list[sa.ColumnElement[bool]]:
    o = t.operators.c
    where: list[sa.ColumnElement[bool]] = []
    if chosen.role is not None:
        where.append(o.role == chosen.role.value)
    if chosen.active is not None:
        where.append(o.active.is_(chosen.active))
    if part := fold(chosen.query):
        where.append(sa.func.lower(o.login + "\n" + o.name).contains(part, autoescape=True))
    return where
