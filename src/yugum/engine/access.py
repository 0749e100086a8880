"""Who may work with Yugum: operators, sessions, tokens, one-time links."""

from __future__ import annotations

import hashlib
import hmac
import secrets
import uuid
from asyncio import to_thread
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from enum import StrEnum
from typing import Any

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError

from yugum.engine.events import make_event
from yugum.errors import InvalidInput, NotFound, Throttled, Unauthenticated
from yugum.ports import Clock, Database, ListPage, Row
from yugum.settings import Settings

SHORTEST = 12


class OperatorRole(StrEnum):
    VIEWER = "viewer"
    OPERATOR = "operator"
    ADMINISTRATOR = "administrator"


RANK = {OperatorRole.VIEWER: 0, OperatorRole.OPERATOR: 1, OperatorRole.ADMINISTRATOR: 2}


@dataclass(frozen=True, slots=True, kw_only=True)
class Operator:
    """Whoever makes a request; ``csrf`` is set for a console session only."""

    id: str
    login: str
    name: str
    role: OperatorRole
    csrf: str = ""
    person_id: str | None = None

    def may(self, role: OperatorRole) -> bool:
        return RANK[self.role] >= RANK[role]


@dataclass(frozen=True, slots=True)
class SignIn:
    """A new session: the cookie's value, which is stored only as a hash, and the CSRF token."""

    cookie: str
    operator: Operator


def hashed(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


class Access:
    def __init__(self, database: Database, clock: Clock, settings: Settings) -> None:
        self._database = database
        self._clock = clock
        self._settings = settings
        self._hasher = PasswordHasher()
        self._nobody = self._hasher.hash(secrets.token_urlsafe(16))

    async def sign_in(self, login: str, password: str, source: str) -> SignIn:
        """A session for a login and password.

        After too many failures for a login or a source, further tries are refused for a while,
        the right password among them.
        """
        keys = (f"login:{login.lower()}", f"source:{source}")
        async with self._database.unit() as unit:
            for key, factor in zip(keys, (1, 5), strict=True):
                count, seconds = await unit.operators.failures(key, self._settings.sign_in_minutes)
                if count >= self._settings.sign_in_attempts * factor:
                    raise Throttled(
                        "Too many failed sign-ins.",
                        retry_after=max(1.0, seconds),
                        remedy="Wait, or ask an administrator for a one-time link.",
                    )
            row = await unit.operators.by_login(login)
        stored = (row or {}).get("password_hash") or self._nobody
        good = await to_thread(self._fits, stored, password)
        if row is None or not row["active"] or not row["password_hash"] or not good:
            async with self._database.unit() as unit:
                for key in keys:
                    await unit.operators.fail(key)
            raise Unauthenticated("Login and password do not fit.", remedy="Try again.")
        async with self._database.unit() as unit:
            await unit.operators.forgive(keys[0])
        return await self._session(row)

    def _fits(self, stored: str, password: str) -> bool:
        try:
            return self._hasher.verify(stored, password)
        except (VerificationError, InvalidHashError):
            return False

    async def sign_in_by_link(self, token: str) -> SignIn:
        """A session for a one-time link, which is used up with this."""
        async with self._database.unit() as unit:
            row = await unit.operators.use_link(hashed(token))
        if row is None or not row["active"]:
            raise Unauthenticated(
                "This link was used already, or has expired.",
                remedy="Make a new one on the server: yugum operators link LOGIN.",
            )
        return await self._session(row)

    async def _session(self, row: Row) -> SignIn:
        cookie, csrf = secrets.token_urlsafe(32), secrets.token_urlsafe(24)
        now = await self._clock.now()
        async with self._database.unit() as unit:
            await unit.operators.add_session(
                hashed(cookie), row["id"], csrf, self._settings.session_hours
            )
            await unit.audit.add([make_event(now, row["login"], "session.begun", row["id"], {})])
        return SignIn(cookie, _operator({**row, "csrf": csrf}))

    async def sign_out(self, cookie: str) -> None:
        async with self._database.unit() as unit:
            await unit.operators.end_session(hashed(cookie))

    async def by_session(self, cookie: str) -> Operator | None:
        async with self._database.unit() as unit:
            row = await unit.operators.session(hashed(cookie))
        return _operator(row) if row else None

    async def by_token(self, token: str) -> Operator | None:
        """The operator of an API token, with no more rights than the token's scope."""
        async with self._database.unit() as unit:
            row = await unit.operators.token(hashed(token))
        if row is None:
            return None
        scope = OperatorRole(row["scopes"][0])
        own = OperatorRole(row["role"])
        return _operator({**row, "role": min(scope, own, key=lambda r: RANK[r])})

    async def set_password(self, operator_id: str, password: str) -> None:
        """Set an own password; argon2id at rest."""
        if len(password) < SHORTEST:
            raise InvalidInput(
                f"A password has at least {SHORTEST} characters.",
                place="password",
                remedy="A sentence of four words does.",
            )
        digest = await to_thread(self._hasher.hash, password)
        async with self._database.unit() as unit:
            row = await unit.operators.get(operator_id)
            await unit.operators.put({"id": row["id"], "password_hash": digest})

    async def page(self, cursor: str | None, limit: int) -> ListPage:
        async with self._database.unit() as unit:
            return await unit.operators.page(cursor, limit)

    async def add(
        self, login: str, name: str, role: OperatorRole, author: str, *, person: str = ""
    ) -> tuple[Operator, str]:
        """A new operator and the token of their one-time sign-in link."""
        now = await self._clock.now()
        token = secrets.token_urlsafe(24)
        async with self._database.unit() as unit:
            person_id = (await unit.people.resolve(person)).id if person else None
            row: dict[str, Any] = {
                "id": str(uuid.uuid4()),
                "login": login,
                "name": name,
                "role": role.value,
                "person_id": person_id,
            }
            await unit.operators.put(row)
            await unit.operators.add_link(hashed(token), row["id"], self._settings.link_hours)
            payload = {"login": login, "role": role.value}
            await unit.audit.add([make_event(now, author, "operator.added", row["id"], payload)])
        return _operator(row), token

    async def change(
        self, operator_id: str, *, role: OperatorRole | None, active: bool | None, author: str
    ) -> Row:
        """Change role or standing; the last active administrator keeps both."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            row = dict(await unit.operators.get(operator_id))
            values: dict[str, Any] = {"id": operator_id}
            if role is not None:
                values["role"] = role.value
            if active is not None:
                values["active"] = active
            is_one = row["active"] and row["role"] == OperatorRole.ADMINISTRATOR
            loses = is_one and (
                values.get("role", row["role"]) != OperatorRole.ADMINISTRATOR
                or values.get("active") is False
            )
            if loses and await unit.operators.administrators() <= 1:
                raise InvalidInput(
                    "This is the last administrator.",
                    place="role",
                    remedy="Make somebody else one first.",
                )
            await unit.operators.put(values)
            await unit.audit.add([make_event(now, author, "operator.changed", operator_id, values)])
            return await unit.operators.get(operator_id)

    async def link(self, login: str, author: str) -> str:
        """The token of a new one-time sign-in link."""
        now = await self._clock.now()
        token = secrets.token_urlsafe(24)
        async with self._database.unit() as unit:
            row = await unit.operators.by_login(login)
            if row is None:
                raise NotFound(f"There is no operator {login}.", remedy="yugum operators list")
            await unit.operators.add_link(hashed(token), row["id"], self._settings.link_hours)
            await unit.audit.add([make_event(now, author, "operator.link", row["id"], {})])
        return token

    async def add_token(
        self, operator: Operator, name: str, scope: OperatorRole, days: int | None
    ) -> tuple[Row, str]:
        """A new API token; its text is shown this once and stored as a hash."""
        if not operator.may(scope):
            raise InvalidInput("A token cannot have more rights than its operator.", place="scope")
        token = f"yg_{secrets.token_urlsafe(32)}"
        row = {
            "id": str(uuid.uuid4()),
            "hash": hashed(token),
            "operator_id": operator.id,
            "name": name,
            "scopes": [scope.value],
            "expires": datetime.now(UTC) + timedelta(days=days) if days else None,
        }
        now = await self._clock.now()
        async with self._database.unit() as unit:
            await unit.operators.add_token(row)
            payload = {"name": name, "scope": scope.value}
            await unit.audit.add(
                [make_event(now, operator.login, "token.added", operator.id, payload)]
            )
        return {k: v for k, v in row.items() if k != "hash"}, token

    async def tokens(self, operator: Operator) -> Sequence[Row]:
        async with self._database.unit() as unit:
            return await unit.operators.tokens(operator.id)

    async def revoke_token(self, operator: Operator, token_id: str) -> None:
        async with self._database.unit() as unit:
            if not await unit.operators.revoke_token(operator.id, token_id):
                raise NotFound("There is no such token of yours.")


def same(one: str, other: str) -> bool:
    """Compare secrets in constant time."""
    return hmac.compare_digest(one.encode(), other.encode())


def _operator(row: Row) -> Operator:
    return Operator(
        id=row["id"],
        login=row["login"],
        name=row["name"],
        role=OperatorRole(row["role"]),
        csrf=row.get("csrf", ""),
        person_id=row.get("person_id"),
    )
