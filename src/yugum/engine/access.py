"""Who may work with Yugum: operators, sessions, tokens, one-time links."""

from __future__ import annotations

import hashlib
import hmac
import secrets
import uuid
from asyncio import to_thread
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError

from yugum.core.documents import Document
from yugum.core.operators import RANK, OperatorRole
from yugum.engine.events import make_event
from yugum.errors import InvalidInput, NotFound, Throttled, Unauthenticated
from yugum.ports.clock import Clock
from yugum.ports.operators import OperatorRecord, TokenLine, TokenRecord
from yugum.ports.pages import ListPage
from yugum.ports.units import Database
from yugum.settings import Settings

SHORTEST = 12


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
            found = await unit.operators.by_login(login)
        stored = (found.password_hash if found else None) or self._nobody
        good = await to_thread(self._fits, stored, password)
        if found is None or not found.active or not found.password_hash or not good:
            async with self._database.unit() as unit:
                for key in keys:
                    await unit.operators.fail(key)
            raise Unauthenticated("Login and password do not fit.", remedy="Try again.")
        async with self._database.unit() as unit:
            await unit.operators.clear_failures(keys[0])
        return await self._session(found)

    def _fits(self, stored: str, password: str) -> bool:
        try:
            return self._hasher.verify(stored, password)
        except (VerificationError, InvalidHashError):
            return False

    async def sign_in_by_link(self, token: str) -> SignIn:
        """A session for a one-time link, which is used up with this."""
        async with self._database.unit() as unit:
            found = await unit.operators.use_link(hashed(token))
        if found is None or not found.active:
            raise Unauthenticated(
                "This link was used already, or has expired.",
                remedy="Make a new one on the server: yugum operators link LOGIN.",
            )
        return await self._session(found)

    async def _session(self, operator: OperatorRecord) -> SignIn:
        cookie, csrf = secrets.token_urlsafe(32), secrets.token_urlsafe(24)
        now = await self._clock.now()
        async with self._database.unit() as unit:
            await unit.operators.add_session(
                hashed(cookie), operator.id, csrf, self._settings.session_hours
            )
            event = make_event(now, operator.login, "session.begun", operator.id, {})
            await unit.audit.add([event])
        return SignIn(cookie, _operator(operator, csrf=csrf))

    async def sign_out(self, cookie: str) -> None:
        async with self._database.unit() as unit:
            await unit.operators.end_session(hashed(cookie))

    async def by_session(self, cookie: str) -> Operator | None:
        async with self._database.unit() as unit:
            session = await unit.operators.session(hashed(cookie))
        return _operator(session.operator, csrf=session.csrf) if session else None

    async def by_token(self, token: str) -> Operator | None:
        """The operator of an API token, with no more rights than the token's scope."""
        async with self._database.unit() as unit:
            found = await unit.operators.token(hashed(token))
        if found is None:
            return None
        operator, scope = found
        role = min(scope, operator.role, key=lambda r: RANK[r])
        return _operator(replace(operator, role=role))

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
            operator = await unit.operators.get(operator_id)
            await unit.operators.put(replace(operator, password_hash=digest))

    async def page(self, cursor: str | None, limit: int) -> ListPage[OperatorRecord]:
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
            record = OperatorRecord(
                id=str(uuid.uuid4()), login=login, name=name, role=role, person_id=person_id
            )
            await unit.operators.put(record)
            await unit.operators.add_link(hashed(token), record.id, self._settings.link_hours)
            payload = {"login": login, "role": role.value}
            await unit.audit.add([make_event(now, author, "operator.added", record.id, payload)])
        return _operator(record), token

    async def change(
        self, operator_id: str, *, role: OperatorRole | None, active: bool | None, author: str
    ) -> OperatorRecord:
        """Change role or standing; the last active administrator keeps both."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            before = await unit.operators.get(operator_id)
            after = replace(
                before,
                role=before.role if role is None else role,
                active=before.active if active is None else active,
            )
            if (
                _administers(before)
                and not _administers(after)
                and await unit.operators.administrators() <= 1
            ):
                raise InvalidInput(
                    "This is the last administrator.",
                    place="role",
                    remedy="Make somebody else one first.",
                )
            await unit.operators.put(after)
            payload: Document = {"role": after.role.value, "active": after.active}
            await unit.audit.add(
                [make_event(now, author, "operator.changed", operator_id, payload)]
            )
            return after

    async def link(self, login: str, author: str) -> str:
        """The token of a new one-time sign-in link."""
        now = await self._clock.now()
        token = secrets.token_urlsafe(24)
        async with self._database.unit() as unit:
            found = await unit.operators.by_login(login)
            if found is None:
                raise NotFound(f"There is no operator {login}.", remedy="yugum operators list")
            await unit.operators.add_link(hashed(token), found.id, self._settings.link_hours)
            await unit.audit.add([make_event(now, author, "operator.link", found.id, {})])
        return token

    async def add_token(
        self, operator: Operator, name: str, scope: OperatorRole, days: int | None
    ) -> tuple[TokenLine, str]:
        """A new API token; its text is shown this once and stored as a hash."""
        if not operator.may(scope):
            raise InvalidInput("A token cannot have more rights than its operator.", place="scope")
        token = f"yg_{secrets.token_urlsafe(32)}"
        record = TokenRecord(
            id=str(uuid.uuid4()),
            hash=hashed(token),
            operator_id=operator.id,
            name=name,
            scope=scope,
            expires=datetime.now(UTC) + timedelta(days=days) if days else None,
        )
        now = await self._clock.now()
        async with self._database.unit() as unit:
            await unit.operators.add_token(record)
            payload = {"name": name, "scope": scope.value}
            await unit.audit.add(
                [make_event(now, operator.login, "token.added", operator.id, payload)]
            )
        return record, token

    async def tokens(self, operator: Operator) -> Sequence[TokenLine]:
        async with self._database.unit() as unit:
            return await unit.operators.tokens(operator.id)

    async def revoke_token(self, operator: Operator, token_id: str) -> None:
        async with self._database.unit() as unit:
            if not await unit.operators.revoke_token(operator.id, token_id):
                raise NotFound("There is no such token of yours.")


def same(one: str, other: str) -> bool:
    """Compare secrets in constant time."""
    return hmac.compare_digest(one.encode(), other.encode())


def _administers(operator: OperatorRecord) -> bool:
    return operator.active and operator.role is OperatorRole.ADMINISTRATOR


def _operator(record: OperatorRecord, csrf: str = "") -> Operator:
    return Operator(
        id=record.id,
        login=record.login,
        name=record.name,
        role=record.role,
        csrf=csrf,
        person_id=record.person_id,
    )
