"""The Dovecot connector: who may sign in is a row, what is open ends by doveadm, mail by Sieve.

Cut off is a row that no password opens, app passwords gone and every session ended; mail goes on
arriving, and a Sieve script (RFC 5228, put by ManageSieve, RFC 5804) forwards and answers it. An
archived mailbox takes no more mail. There is no recoverable deletion: a mailbox is parked until its
window ends, then removed with its mail.
"""

from __future__ import annotations

import asyncio
import re
from collections.abc import AsyncIterator, Collection, Mapping, Sequence
from datetime import datetime
from typing import Any, NoReturn
from uuid import UUID

import psycopg
from argon2 import PasswordHasher
from pydantic import BaseModel

from yugum.connectors.caldav import Box
from yugum.connectors.dovecot.doveadm import Doveadm
from yugum.connectors.dovecot.handing import Handing
from yugum.connectors.dovecot.layout import SCRIPT, read
from yugum.connectors.dovecot.rows import ROWS, among, by_id, megabytes, put
from yugum.connectors.dovecot.scripts import Scripts
from yugum.connectors.pooled import Connection, Pooled
from yugum.core.accounts import AccountState, Asset, Observed, Unreadable
from yugum.core.actions import NOTHING_DONE, Action, Arguments, Done
from yugum.core.applications import Capability
from yugum.core.attributes import Shape
from yugum.errors import ApplicationRejected, CannotDo
from yugum.ports.connectors import AccountRef, ConnectorSpec, Discovery

CAPABILITIES = frozenset(
    {
        Capability.SUSPEND,
        Capability.SETTINGS,
        Capability.SESSIONS,
        Capability.KEYS,
        Capability.ASSETS,
        Capability.COPY,
        Capability.CREDENTIAL,
        Capability.ARCHIVE,
        Capability.PURGE,
        Capability.RENAME,
        Capability.TRIAL,
    }
)
STATES = {
    "active": AccountState.ACTIVE,
    "suspended": AccountState.SUSPENDED,
    "archived": AccountState.ARCHIVED,
    "parked": AccountState.DELETED,
}
COLUMNS = {"realname": "display_name", "mail": "address"}
"""The attributes of a mailbox, by the columns in which they are kept."""
NAMES = ("alias", "unseen")
"""Further names under which mail arrives; of the second nobody is told."""
WITH_MAIL = (AccountState.ACTIVE, AccountState.SUSPENDED)
"""States in which Dovecot knows the mailbox, so that its scripts can be asked for."""
PAGE = 200
UNSAFE = re.compile(r"[*?%/\s]")
# Dovecot checks each password anew, so its cost is chosen for many sign-ins a second (RFC 9106).
HASHER = PasswordHasher(time_cost=2, memory_cost=8192, parallelism=1)


class Secret(BaseModel):
    """What the connector signs in with: the table's database, doveadm's key, the master user, the calendars' user."""

    database: str
    doveadm: str
    master: str
    calendars: str = ""


class DovecotConnector:
    """Speaks to one mail store."""

    def __init__(self, spec: ConnectorSpec, secret: Secret) -> None:
        self.call_timeout = spec.timeout
        self._name = spec.name
        self._domain = spec.options["domain"]
        self._scripts = Scripts.of(spec, secret.master)
        self._pool = Pooled(
            spec.name,
            secret.database,
            timeout=spec.timeout,
            connections=min(spec.connections, 8),
        )
        self._doveadm = Doveadm(spec.name, spec.url, secret.doveadm, timeout=spec.timeout)
        self._handing = Handing(spec.name, self._doveadm)

    async def close(self) -> None:
        await self._pool.close()
        await self._doveadm.close()

    async def discover(self) -> Discovery:
        async with self._pool.connect() as connection:
            await connection.execute(ROWS + " LIMIT 1")
        await self._doveadm.call("who", {})
        return Discovery(CAPABILITIES, attributes=dict.fromkeys(COLUMNS, Shape()))

    # --- observe -----------------------------------------------------------------------------

    async def read(
        self,
        since: datetime | None = None,  # noqa: ARG002 - every account is looked at
    ) -> AsyncIterator[Sequence[Observed | Unreadable]]:
        after = UUID(int=0)
        sessions = await self._doveadm.sessions()
        while True:
            async with self._pool.connect() as connection:
                query = ROWS + " WHERE b.id > %s ORDER BY b.id LIMIT %s"
                rows = await (await connection.execute(query, (after, PAGE))).fetchall()
            if not rows:
                return
            after = rows[-1]["id"]
            asked = [r["login"] for r in rows if STATES[r["state"]] in WITH_MAIL]
            scripts = await self._doveadm.scripts(asked, SCRIPT)
            yield [
                self._observed(r, sessions.get(r["login"], 0), scripts.get(r["login"], ""))
                for r in rows
            ]

    async def observe(self, ref: AccountRef, *, assets: bool = False) -> Observed | None:  # noqa: ARG002 - one row tells them
        async with self._pool.connect() as connection:
            row = await self._row(connection, ref)
        if row is None:
            return None
        login, scripts = row["login"], {}
        sessions = await self._doveadm.sessions(login)
        if STATES[row["state"]] in WITH_MAIL:
            scripts = await self._doveadm.scripts([login], SCRIPT)
        return self._observed(row, sessions.get(login, 0), scripts.get(login, ""))

    async def _row(self, connection: Connection, ref: AccountRef) -> dict[str, Any] | None:
        if ref.external_id:
            return await by_id(connection, ref.external_id)
        found = await connection.execute(ROWS + " WHERE b.login = %s", (ref.login,))
        return await found.fetchone()

    def _observed(self, row: Mapping[str, Any], sessions: int, script: str) -> Observed:
        ours = read(script)
        settings = {"quota": str(row["quota_mb"])} | (ours.settings() if ours else {})
        attributes = {"realname": row["display_name"], "mail": row["address"]}
        settings |= {name: value for name, value in attributes.items() if value}
        settings |= {name: row[name] for name in NAMES if row[name]}
        return Observed(
            external_id=str(row["id"]),
            login=row["login"],
            state=STATES[row["state"]],
            recoverable_until=row["parked_until"],
            sessions=sessions,
            keys=row["keys"],
            correlation=row["account"],
            settings=settings,
            display_name=row["display_name"],
            mail=row["address"],
            assets=tuple(Asset("mailbox", key, name, name) for key, name in row["owned"] or ()),
        )

    # --- act ---------------------------------------------------------------------------------

    async def act(  # noqa: C901, PLR0912 - a case for each action
        self,
        action: Action,
        ref: AccountRef,
        item: str,
        arguments: Arguments,
        secret: str = "",
    ) -> Done:
        async with self._pool.connect() as connection:
            if action is Action.CREATE:
                return await self._create(connection, ref, arguments)
            row = await self._row(connection, ref)
            if row is None:
                raise ApplicationRejected(f"{self._name} has no mailbox {ref.login}.")
            match action:
                case Action.CUT_OFF:
                    return await self._cut_off(connection, row, keys_kept=arguments.keys_kept)
                case Action.RESUME:
                    await put(connection, row, state="active")
                case Action.SET_CREDENTIAL:
                    verifier = "{ARGON2ID}" + await asyncio.to_thread(HASHER.hash, secret)
                    await put(connection, row, password=verifier)
                case Action.TRY_SIGN_IN:
                    return await self._try(connection, row, secret, closed=arguments.closed)
                case Action.UPDATE if item in COLUMNS:
                    await put(connection, row, **{COLUMNS[item]: arguments.value})
                case Action.SET:
                    return await self._set(connection, row, item, arguments)
                case Action.TRANSFER:
                    return await self._handing.transfer(connection, row, arguments)
                case Action.COPY:
                    return await self._handing.copy(connection, row, arguments)
                case Action.ARCHIVE:
                    await put(connection, row, state="archived")
                case Action.REOPEN:
                    await put(connection, row, state="suspended")
                case Action.PARK:
                    until = datetime.fromisoformat(arguments.until)
                    await put(connection, row, state="parked", parked_until=until)
                    return Done(until=arguments.until)
                case Action.RESTORE:
                    await put(connection, row, state="suspended", parked_until=None)
                case Action.PURGE:
                    await self._doveadm.empty(row["login"])
                    await connection.execute("DELETE FROM mailboxes WHERE id = %s", (row["id"],))
                case Action.RENAME:
                    return await self._rename(connection, row, item, arguments)
                case _:
                    raise CannotDo(f"{self._name} cannot {action.value.replace('_', ' ')}.")
        return NOTHING_DONE

    async def _create(self, connection: Connection, ref: AccountRef, arguments: Arguments) -> Done:
        login = arguments.login
        self._speakable(login)
        settings = arguments.settings
        try:
            made = await connection.execute(
                "INSERT INTO mailboxes (login, display_name, address, account, state, quota_mb)"
                " VALUES (%s, %s, %s, %s, %s, %s) RETURNING id",
                (
                    login,
                    arguments.attributes.get("realname") or arguments.display_name,
                    arguments.attributes.get("mail") or arguments.mail or f"{login}@{self._domain}",
                    ref.account_id,
                    "suspended" if arguments.closed else "active",
                    megabytes(settings.get("quota") or "1024"),
                ),
            )
        except psycopg.errors.UniqueViolation as error:
            self._taken(login, error)
        row = await made.fetchone()
        assert row is not None
        return Done(external_id=str(row["id"]), login=login)

    async def _try(
        self, connection: Connection, row: Mapping[str, Any], secret: str, *, closed: bool
    ) -> Done:
        """Sign in once by ManageSieve; afterwards no password opens it, and it is closed again."""
        verifier = "{ARGON2ID}" + await asyncio.to_thread(HASHER.hash, secret)
        await put(connection, row, password=verifier, state="active")
        try:
            await asyncio.to_thread(self._scripts.sign_in, row["login"], secret)
        finally:
            state = "suspended" if closed else "active"
            await put(connection, row, password="", state=state)
        return Done(note="signed in", password_replaced=True)

    def _speakable(self, login: str) -> None:
        """doveadm takes ``*`` and ``?`` for wild cards, Dovecot's look-ups ``%`` for a variable."""
        if UNSAFE.search(login):
            raise ApplicationRejected(
                f"{self._name} takes no login like {login!r}.",
                remedy="Choose one without spaces and without * ? % /.",
            )

    def _taken(self, login: str, error: Exception) -> NoReturn:
        raise ApplicationRejected(
            f"{self._name} has a mailbox {login} already that is not ours.",
            remedy="Link it to the person, or choose another login.",
        ) from error

    async def _cut_off(
        self, connection: Connection, row: Mapping[str, Any], *, keys_kept: bool
    ) -> Done:
        """After the row is written nobody gets in any more, so that what is open can be ended."""
        async with connection.transaction():
            await connection.execute(
                "UPDATE mailboxes SET password = '',"
                " state = CASE state WHEN 'active' THEN 'suspended' ELSE state END WHERE id = %s",
                (row["id"],),
            )
            if not keys_kept:
                await connection.execute(
                    "DELETE FROM app_passwords WHERE mailbox = %s", (row["id"],)
                )
        ended = await self._doveadm.end(row["login"], seconds=min(4.0, self.call_timeout / 2))
        counts = {"sessions": ended, "app passwords": 0 if keys_kept else row["keys"]}
        return Done(suspended=True, ended=counts)

    async def _set(
        self,
        connection: Connection,
        row: Mapping[str, Any],
        name: str,
        arguments: Arguments,
    ) -> Done:
        value = arguments.value
        if name == "quota":
            await put(connection, row, quota_mb=megabytes(value or "1024"))
        elif name in NAMES:
            try:
                await put(connection, row, **{name: value or None})
            except psycopg.errors.UniqueViolation as error:
                self._taken(value, error)
        elif name in ("forward", "reply"):
            await asyncio.to_thread(
                self._scripts.change,
                row["login"],
                name,
                value,
                str(arguments.ground),
                self._addresses(row),
            )
        else:
            raise ApplicationRejected(
                f"{self._name} has no setting {name}.",
                remedy="It has quota, alias, unseen, forward and reply.",
            )
        return Done(values={name: value})

    async def boxes(
        self, external_ids: Collection[str] = (), addresses: Collection[str] = ()
    ) -> Sequence[Box]:
        """The mailboxes with these ids or addresses, for the calendars that belong to them."""
        async with self._pool.connect() as connection:
            rows = await among(connection, self._domain, external_ids, addresses)
        return [
            Box(
                str(row["id"]),
                row["login"],
                row["display_name"],
                tuple(a.lower() for a in self._addresses(row)),
            )
            for row in rows
        ]

    def _addresses(self, row: Mapping[str, Any]) -> tuple[str, ...]:
        """The addresses under which this mailbox is written to, its own first."""
        names = [row["address"], f"{row['login']}@{self._domain}"]
        if row["alias"]:
            names.append(f"{row['alias']}@{self._domain}")
        return tuple(dict.fromkeys(n for n in names if n))

    async def _rename(
        self,
        connection: Connection,
        row: Mapping[str, Any],
        login: str,
        arguments: Arguments,
    ) -> Done:
        self._speakable(login)
        values = {"login": login}
        if arguments.display_name:
            values["display_name"] = arguments.display_name
        if arguments.mail:
            values["address"] = arguments.mail
        try:
            await put(connection, row, **values)
        except psycopg.errors.UniqueViolation as error:
            self._taken(login, error)
        return Done(login=login)
