"""Signing in: sessions, one-time links, passwords and API tokens of one's own."""

from __future__ import annotations

import asyncio
import ipaddress
import secrets
import uuid
from asyncio import to_thread
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError

from yugum.core.documents import Document
from yugum.core.operators import RANK, OperatorRole
from yugum.engine.events import make_event
from yugum.engine.hashing import hashed
from yugum.engine.telling import tell_operator
from yugum.errors import Forbidden, InvalidInput, NotFound, Throttled, Unauthenticated
from yugum.ports.clock import Clock
from yugum.ports.operators import OperatorRecord, TokenLine, TokenRecord
from yugum.ports.pages import ListPage
from yugum.ports.services import Vault
from yugum.ports.units import Database, UnitOfWork
from yugum.settings import Settings

SHORTEST = 12
AT_ONCE = 4
"""Passwords that are hashed at a time: each takes 64 MB and a core, and anybody may ask for one."""
OF_SOURCE, OF_LOGIN = 5, 20
"""How many times the attempts of one login from one address an address, and a login, may have."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Operator:
    """Whoever makes a request.

    ``csrf`` is set for a console session only, ``by_link`` where a one-time link began it; ``token_id``
    for a token only. An integration has an ``owner_id``: who answers for it.
    """

    id: str
    login: str
    name: str
    role: OperatorRole
    csrf: str = ""
    by_link: bool = False
    token_id: str = ""
    active: bool = True
    person_id: str | None = None
    owner_id: str | None = None

    def may(self, role: OperatorRole) -> bool:
        return RANK[self.role] >= RANK[role]


@dataclass(frozen=True, slots=True)
class SignIn:
    """A new session: the cookie's value, which is stored only as a hash, and the CSRF token."""

    cookie: str
    operator: Operator


class Access:
    def __init__(self, database: Database, clock: Clock, vault: Vault, settings: Settings) -> None:
        self._database = database
        self._clock = clock
        self._vault = vault
        self._settings = settings
        self._hasher = PasswordHasher()
        self._nobody = self._hasher.hash(secrets.token_urlsafe(16))
        self._hashing = asyncio.Semaphore(AT_ONCE)

    async def sign_in(self, login: str, password: str, source: str) -> SignIn:
        """A session for a login and password.

        An attempt is counted before the password is looked at, and forgotten when it was right. After
        too many of a login from one address, of one address, or of a login from anywhere, further
        ones are refused for a while.

        Raises:
            Throttled: too many attempts; ``retry_after`` says when there may be one.
            Unauthenticated: login and password do not fit.
        """
        async with self._database.unit() as unit:
            found = await unit.operators.by_login(login)
        who = await self._try(found, login, password, source)
        return await self._session(who, by_link=False)

    async def _try(
        self, found: OperatorRecord | None, login: str, password: str, source: str
    ) -> OperatorRecord:
        """The operator whose password it is; counted as an attempt before it is looked at."""
        often, minutes = self._settings.sign_in_attempts, self._settings.sign_in_minutes
        known = login.lower() if found else hashed(login.lower())
        place = _network(source)
        pair = f"{known} {place}"
        limits = {pair: often, f"* {place}": often * OF_SOURCE, f"{known} *": often * OF_LOGIN}
        async with self._database.unit() as unit:
            counted = await unit.operators.attempt(limits, minutes)
        if not counted.ids:
            raise Throttled(
                "Too many failed sign-ins.",
                retry_after=counted.wait,
                remedy="Wait, or ask an administrator for a one-time link.",
            )
        stored = (found.password_hash if found else None) or self._nobody
        async with self._hashing:
            good = await to_thread(self._fits, stored, password)
        if found is None or not found.active or not found.password_hash or not good:
            raise Unauthenticated("Login and password do not fit.", remedy="Try again.")
        async with self._database.unit() as unit:
            await unit.operators.forget(counted.ids, pair)
        return found

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
        return await self._session(found, by_link=True)

    async def _session(self, operator: OperatorRecord, *, by_link: bool) -> SignIn:
        cookie, csrf = secrets.token_urlsafe(32), secrets.token_urlsafe(24)
        now = await self._clock.now()
        async with self._database.unit() as unit:
            hours = self._settings.session_hours
            await unit.operators.add_session(
                hashed(cookie), operator.id, csrf, hours, by_link=by_link
            )
            event = make_event(now, operator.login, "session.begun", operator.id, {})
            await unit.audit.add([event])
        return SignIn(cookie, operator_of(operator, csrf=csrf, by_link=by_link))

    async def sign_out(self, cookie: str) -> None:
        async with self._database.unit() as unit:
            await unit.operators.end_session(hashed(cookie))

    async def by_session(self, cookie: str) -> Operator | None:
        async with self._database.unit(alone=True) as unit:
            session = await unit.operators.session(hashed(cookie))
        if session is None:
            return None
        return operator_of(session.operator, csrf=session.csrf, by_link=session.by_link)

    async def by_token(self, token: str) -> Operator | None:
        """The operator of an API token, with no more rights than the token's scope."""
        async with self._database.unit(alone=True) as unit:
            found = await unit.operators.token(hashed(token))
        if found is None:
            return None
        role = min(found.scope, found.operator.role, key=lambda r: RANK[r])
        return operator_of(replace(found.operator, role=role), token_id=found.id)

    async def has_password(self, operator: Operator) -> bool:
        """Whether somebody can sign in again without a link."""
        async with self._database.unit(alone=True) as unit:
            return bool((await unit.operators.get(operator.id)).password_hash)

    async def set_password(
        self, operator: Operator, password: str, current: str, source: str
    ) -> None:
        """Set one's own password; argon2id at rest. Every other session of one's own ends.

        The present one must be given, unless there is none or a one-time link began the session: that
        is the way back for who has forgotten it.

        Raises:
            Forbidden: it comes with a token.
            InvalidInput: the new one is too short.
        """
        must_be_session(operator)
        if len(password) < SHORTEST:
            raise InvalidInput(
                f"A password has at least {SHORTEST} characters.",
                place="password",
                remedy="A sentence of four words does.",
            )
        async with self._database.unit() as unit:
            found = await unit.operators.get(operator.id)
        if found.password_hash and not operator.by_link:
            await self._prove(operator, current, source)
        async with self._hashing:
            digest = await to_thread(self._hasher.hash, password)
        async with self._database.unit() as unit:
            found = await unit.operators.get(operator.id)
            await unit.operators.put(replace(found, password_hash=digest))
            await self._changed(unit, operator, "password.set", "your password was set", {})

    async def sign_out_others(self, operator: Operator, password: str, source: str) -> None:
        """End every other session of one's own.

        Raises:
            Forbidden: it comes with a token, or the password is not the present one.
        """
        await self._prove(operator, password, source)
        async with self._database.unit() as unit:
            await self._changed(unit, operator, "sessions.ended", "other sessions were ended", {})

    async def add_token(
        self,
        operator: Operator,
        name: str,
        scope: OperatorRole,
        days: int | None,
        *,
        password: str,
        source: str,
        integration: str = "",
    ) -> tuple[TokenLine, str]:
        """A new API token of one's own, or of an ``integration`` (its login) one answers for.

        Its text is shown this once and stored as a hash.

        Raises:
            Forbidden: it comes with a token, or the password is not the present one.
            InvalidInput: it would have more rights than whose it is.
            NotFound: there is no such integration of one's own.
        """
        await self._prove(operator, password, source)
        async with self._database.unit() as unit:
            whose = await unit.operators.get(operator.id)
            if integration:
                found = await unit.operators.by_login(integration)
                if found is None or found.owner_id != operator.id or not found.active:
                    raise NotFound(
                        f"You answer for no integration {integration}.",
                        place="integration",
                        remedy="See: yugum integrations list.",
                    )
                whose = found
            if RANK[scope] > RANK[whose.role]:
                raise InvalidInput(
                    "A token cannot have more rights than whose it is.", place="scope"
                )
            made = await issue_token(unit, whose, name, scope, days)
            payload: Document = {"name": name, "scope": scope.value, "of": whose.login}
            text = f"an API token {name} of {whose.login} was made"
            await self._changed(unit, operator, "token.added", text, payload)
        return made

    async def tokens(
        self, operator: Operator, of: str, cursor: str | None, limit: int
    ) -> ListPage[TokenLine]:
        """The tokens of one's own, and of the integrations one answers for; ``of`` is one login of these.

        Raises:
            NotFound: it is no login of these.
        """
        async with self._database.unit() as unit:
            mine = {operator.login: operator.id}
            mine |= {o.login: o.id for o in await unit.operators.owned([operator.id])}
            if of and of not in mine:
                raise NotFound(
                    f"{of} is neither you nor an integration you answer for.",
                    place="of",
                    remedy=f"There are: {', '.join(sorted(mine))}.",
                )
            chosen = [mine[of]] if of else list(mine.values())
            return await unit.operators.tokens(chosen, cursor, limit)

    async def revoke_token(self, operator: Operator, token_id: str) -> None:
        """Revoke a token of one's own, or of an integration; with a token only itself.

        Raises:
            Forbidden: it comes with another token.
            NotFound: there is no such token of one's own.
        """
        if operator.token_id != token_id:
            must_be_session(operator)
        now = await self._clock.now()
        async with self._database.unit() as unit:
            theirs = await unit.operators.owned([operator.id])
            mine = [operator.id, *(o.id for o in theirs)]
            if not await unit.operators.revoke_token(mine, token_id):
                raise NotFound("There is no such token of yours.", remedy="See: yugum tokens list.")
            event = make_event(now, operator.login, "token.revoked", operator.id, {"id": token_id})
            await unit.audit.add([event])

    async def _prove(self, operator: Operator, password: str, source: str) -> None:
        """That whoever has the session knows the password too.

        Raises:
            Forbidden: it is a token, there is no password yet, or this is not it.
            Throttled: it was tried too often.
        """
        must_be_session(operator)
        async with self._database.unit() as unit:
            found = await unit.operators.get(operator.id)
        if not found.password_hash:
            raise Forbidden("You have no password yet.", remedy="Set one first, in the console.")
        try:
            await self._try(found, found.login, password, source)
        except Unauthenticated:
            raise Forbidden("This is not your present password.", remedy="Try again.") from None

    async def _changed(
        self, unit: UnitOfWork, operator: Operator, name: str, said: str, payload: Document
    ) -> None:
        """What lets somebody in has changed: on record, told by mail, every other session ended."""
        now = await self._clock.now(unit)
        await unit.operators.end_others(operator.id, operator.csrf)
        await unit.audit.add([make_event(now, operator.login, name, operator.id, payload)])
        text = f"{said[0].upper()}{said[1:]}. If that was not you, tell an administrator at once."
        await tell_operator(unit, operator.person_id, f"Yugum: {said}", text, self._vault, now)


async def issue_token(
    unit: UnitOfWork, whose: OperatorRecord, name: str, scope: OperatorRole, days: int | None
) -> tuple[TokenLine, str]:
    """Store a new token; its text is nowhere else."""
    token = f"yg_{secrets.token_urlsafe(32)}"
    record = TokenRecord(
        id=str(uuid.uuid4()),
        hash=hashed(token),
        operator_id=whose.id,
        name=name,
        scope=scope,
        of=whose.login,
        expires=datetime.now(UTC) + timedelta(days=days) if days else None,
    )
    await unit.operators.add_token(record)
    return record, token


def operator_of(
    record: OperatorRecord, *, csrf: str = "", by_link: bool = False, token_id: str = ""
) -> Operator:
    return Operator(
        id=record.id,
        login=record.login,
        name=record.name,
        role=record.role,
        csrf=csrf,
        by_link=by_link,
        token_id=token_id,
        active=record.active,
        person_id=record.person_id,
        owner_id=record.owner_id,
    )


def must_be_session(operator: Operator) -> None:
    if not operator.csrf:
        raise Forbidden(
            "This needs a session: a token cannot do it.",
            remedy="Sign in with login and password, in the console or by the command.",
        )


def _network(source: str) -> str:
    """What counts as one address: of IPv6 a whole /64, which one host has to choose from."""
    try:
        address = ipaddress.ip_address(source.partition("%")[0])
    except ValueError:
        return source[:60]
    if address.version == 4:
        return str(address)
    return str(ipaddress.ip_network((address, 64), strict=False))
