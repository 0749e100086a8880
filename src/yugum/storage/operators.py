"""Operators, their sessions, tokens and one-time links, and failed sign-ins. Machine time."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict
from typing import Any

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.exc import IntegrityError
from sqlalchemy.ext.asyncio import AsyncConnection

from yugum.core.operators import OperatorRole
from yugum.errors import Conflict, NotFound
from yugum.ports.operators import OperatorRecord, SessionRecord, TokenLine, TokenRecord
from yugum.ports.pages import ListPage
from yugum.storage import tables as t
from yugum.storage.pages import fetch
from yugum.storage.rows import among, read, reader


def _hours(count: float) -> sa.ColumnElement[Any]:
    return sa.func.now() + sa.func.make_interval(0, 0, 0, 0, 0, 0, count * 3600)


class Operators:
    def __init__(self, connection: AsyncConnection) -> None:
        self.connection = connection

    async def _first(self, query: sa.Executable) -> Mapping[str, Any] | None:
        row = (await self.connection.execute(query)).mappings().first()
        return {str(k): v for k, v in row.items()} if row else None

    async def by_login(self, login: str) -> OperatorRecord | None:
        row = await self._first(sa.select(t.operators).where(t.operators.c.login == login))
        return read(OperatorRecord, row) if row else None

    async def get(self, operator_id: str) -> OperatorRecord:
        row = await self._first(sa.select(t.operators).where(t.operators.c.id == operator_id))
        if row is None:
            raise NotFound("There is no such operator.", remedy="See: yugum operators list.")
        return read(OperatorRecord, row)

    async def page(self, cursor: str | None, limit: int) -> ListPage[OperatorRecord]:
        o = t.operators.c
        query = sa.select(o.id, o.login, o.name, o.role, o.active, o.person_id)
        return await fetch(
            self.connection, query, [o.login], reader(OperatorRecord), cursor=cursor, limit=limit
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

    async def administrators(self) -> int:
        """How many active administrators there are."""
        o = t.operators.c
        query = sa.select(sa.func.count()).where(o.role == "administrator", o.active)
        return int(await self.connection.scalar(query) or 0)

    async def end_access(self, person_ids: Sequence[str]) -> Sequence[OperatorRecord]:
        """End what some people can do here: operators, sessions, tokens; returns who it was."""
        o = t.operators
        rows = (
            await self.connection.execute(
                sa.update(o)
                .where(among(o.c.person_id, person_ids), o.c.active)
                .values(active=False)
                .returning(o)
            )
        ).mappings()
        ended = [read(OperatorRecord, r) for r in rows]
        if ids := [r.id for r in ended]:
            for table in (t.sessions, t.tokens):
                await self.connection.execute(
                    sa.delete(table).where(among(table.c.operator_id, ids))
                )
        return ended

    async def add_session(self, digest: str, operator_id: str, csrf: str, hours: float) -> None:
        await self.connection.execute(
            sa.insert(t.sessions).values(
                hash=digest, operator_id=operator_id, csrf=csrf, expires=_hours(hours)
            )
        )
        await self.connection.execute(
            sa.delete(t.sessions).where(t.sessions.c.expires < sa.func.now())
        )

    async def session(self, digest: str) -> SessionRecord | None:
        s, o = t.sessions.c, t.operators.c
        row = await self._first(
            sa.select(t.operators, s.csrf)
            .join(t.operators, o.id == s.operator_id)
            .where(s.hash == digest, s.expires > sa.func.now(), o.active)
        )
        if row is None:
            return None
        return SessionRecord(operator=read(OperatorRecord, row), csrf=row["csrf"])

    async def end_session(self, digest: str) -> None:
        await self.connection.execute(sa.delete(t.sessions).where(t.sessions.c.hash == digest))

    async def add_token(self, token: TokenRecord) -> None:
        values = {**asdict(token), "scopes": [token.scope.value]}
        del values["scope"]
        await self.connection.execute(sa.insert(t.tokens).values(**values))

    async def token(self, digest: str) -> tuple[OperatorRecord, OperatorRole] | None:
        k, o = t.tokens.c, t.operators.c
        row = await self._first(
            sa.select(t.operators, k.scopes)
            .join(t.operators, o.id == k.operator_id)
            .where(k.hash == digest, o.active)
            .where(sa.or_(k.expires.is_(None), k.expires > sa.func.now()))
        )
        if row is None:
            return None
        return read(OperatorRecord, row), OperatorRole(row["scopes"][0])

    async def tokens(self, operator_id: str) -> Sequence[TokenLine]:
        k = t.tokens.c
        query = (
            sa.select(k.id, k.name, k.scopes[1].label("scope"), k.expires)
            .where(k.operator_id == operator_id)
            .order_by(k.created)
            .limit(200)
        )
        return [read(TokenLine, r) for r in (await self.connection.execute(query)).mappings()]

    async def revoke_token(self, operator_id: str, token_id: str) -> bool:
        k = t.tokens.c
        gone = await self.connection.execute(
            sa.delete(t.tokens).where(k.id == token_id, k.operator_id == operator_id)
        )
        return gone.rowcount > 0

    async def add_link(self, digest: str, operator_id: str, hours: float) -> None:
        await self.connection.execute(
            sa.insert(t.sign_in_links).values(
                hash=digest, operator_id=operator_id, expires=_hours(hours)
            )
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

    async def failures(self, key: str, minutes: float) -> tuple[int, float]:
        """How often sign-in failed lately, and seconds until the oldest of these is forgotten."""
        f = t.sign_in_failures.c
        window = sa.func.make_interval(0, 0, 0, 0, 0, 0, minutes * 60)
        row = (
            await self.connection.execute(
                sa.select(
                    sa.func.count(),
                    sa.func.extract("epoch", sa.func.min(f.created) + window - sa.func.now()),
                ).where(f.key == key, f.created > sa.func.now() - window)
            )
        ).one()
        return int(row[0]), float(row[1] or 0)

    async def fail(self, key: str) -> None:
        await self.connection.execute(sa.insert(t.sign_in_failures).values(key=key))

    async def clear_failures(self, key: str) -> None:
        await self.connection.execute(
            sa.delete(t.sign_in_failures).where(t.sign_in_failures.c.key == key)
        )
