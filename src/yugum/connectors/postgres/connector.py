"""The PostgreSQL connector.

Cut off is NOLOGIN, a password nobody knows and every session ended. There is no recoverable
deletion: an account is parked (suspended and marked until its window ends), then dropped once it
owns nothing. Identifiers are always quoted by psycopg; passwords leave as SCRAM verifiers only.
"""

from __future__ import annotations

import re
import secrets
from collections.abc import AsyncIterator, Collection, Mapping, Sequence
from datetime import datetime
from typing import Any

import psycopg
from psycopg import sql

from yugum.connectors.pooled import Connection, Pooled
from yugum.connectors.postgres import grants, queries
from yugum.connectors.postgres.handing import hand_over
from yugum.core.accounts import AccountKind, AccountState, Asset, Observed, Unreadable
from yugum.core.actions import NOTHING_DONE, Action, Arguments, Done
from yugum.core.applications import Capability
from yugum.core.attributes import Shape
from yugum.errors import ApplicationRejected, CannotDo
from yugum.ports.connectors import AccountRef, ConnectorSpec, Discovery

CAPABILITIES = frozenset(
    {
        Capability.SUSPEND,
        Capability.ENTITLEMENTS,
        Capability.ASSETS,
        Capability.SESSIONS,
        Capability.CREDENTIAL,
        Capability.PURGE,
        Capability.RENAME,
        Capability.TRIAL,
    }
)
PARKED = re.compile(r"parked until (\S+)")
OURS = re.compile(rf"^{queries.MARK} (\S+)")


def connect(spec: ConnectorSpec) -> PostgresConnector:
    """The connector's entry point; ``spec.secret`` is the whole connection URL."""
    return PostgresConnector(
        spec.name, spec.secret, timeout=spec.timeout, connections=min(spec.connections, 16)
    )


class PostgresConnector:
    """Speaks to one cluster as a role that may create roles and owns its databases' objects."""

    def __init__(
        self,
        name: str,
        url: str,
        *,
        timeout: float = 8.0,
        connections: int = 4,
        service_prefix: str = "svc_",
    ) -> None:
        self.call_timeout = timeout
        self._name = name
        self._service_prefix = service_prefix
        self._pool = Pooled(name, url, timeout=timeout, connections=connections)
        self._connect = self._pool.connect

    async def close(self) -> None:
        await self._pool.close()

    async def discover(self) -> Discovery:
        async with self._connect() as connection:
            row = await (
                await connection.execute(
                    "SELECT rolsuper FROM pg_roles WHERE rolname = current_user"
                )
            ).fetchone()
            if row is None or not row["rolsuper"]:
                raise ApplicationRejected(
                    f"Yugum's role in {self._name} may not manage all roles and objects.",
                    remedy="Give it SUPERUSER on this cluster.",
                )
        return Discovery(CAPABILITIES, attributes={"comment": Shape()})

    async def read(
        self,
        since: datetime | None = None,  # noqa: ARG002 - every account is looked at
    ) -> AsyncIterator[Sequence[Observed | Unreadable]]:
        owned = await self._assets(None)
        async with self._connect() as connection:
            cursor = connection.cursor()
            await cursor.execute(queries.ROLES + " ORDER BY r.oid")
            while rows := await cursor.fetchmany(500):
                yield [self._observed(r, owned.get(r["oid"], [])) for r in rows]

    async def nesting(self) -> Mapping[str, Sequence[str]]:
        """Group roles inside group roles."""
        async with self._connect() as connection:
            rows = await (await connection.execute(queries.NESTED)).fetchall()
        return {row["name"]: row["inside"] for row in rows}

    async def entitlements(self) -> Collection[str]:
        """Group roles; those of the server itself too, for they can be granted as well."""
        async with self._connect() as connection:
            rows = await (await connection.execute(queries.GRANTABLE)).fetchall()
        return [row["rolname"] for row in rows]

    async def observe(self, ref: AccountRef, *, assets: bool = False) -> Observed | None:
        async with self._connect() as connection:
            row = await self._role(connection, ref)
        if row is None:
            return None
        owned = (await self._assets(row["oid"])).get(row["oid"], []) if assets else None
        return self._observed(row, owned)

    async def _role(self, connection: Connection, ref: AccountRef) -> dict[str, Any] | None:
        if ref.external_id:
            query, key = queries.ROLES + " AND r.oid = %s", ref.external_id
        else:
            query, key = queries.ROLES + " AND r.rolname = %s", ref.login
        return await (await connection.execute(query, (key,))).fetchone()

    async def _assets(self, oid: int | None) -> dict[int, list[Asset]]:
        """What a role (every role, when None) owns, in every database of the cluster."""
        found: dict[int, list[Asset]] = {}
        async with self._connect() as connection:
            result = await connection.execute(queries.OWNED_IN, {"oid": oid})
            databases = [r["datname"] for r in await result.fetchall()]
            result = await connection.execute(queries.DATABASES, {"oid": oid})
            for row in await result.fetchall():
                name = row["datname"]
                asset = Asset("database", f"{name}:database:{name}", name, name)
                found.setdefault(row["owner"], []).append(asset)
        for database in databases:
            async with self._pool.beside(database) as connection:
                result = await connection.execute(queries.OBJECTS, {"oid": oid})
                for row in await result.fetchall():
                    key = f"{database}:{row['type']}:{row['identity']}"
                    asset = Asset(row["type"], key, row["identity"], database)
                    found.setdefault(row["owner"], []).append(asset)
                result = await connection.execute(grants.FOUND, {"oid": oid})
                for row in await result.fetchall():
                    name = grants.name_of(row)
                    asset = Asset(grants.KIND, f"{database}:{grants.KIND}:{name}", name, database)
                    found.setdefault(row["owner"], []).append(asset)
        return found

    def _observed(self, row: Mapping[str, Any], assets: list[Asset] | None) -> Observed:
        mark, comment = parts(row["mark"])
        parked, ours = PARKED.search(mark), OURS.match(mark)
        state = AccountState.ACTIVE if row["rolcanlogin"] else AccountState.SUSPENDED
        if parked and not row["rolcanlogin"]:
            state = AccountState.DELETED
        return Observed(
            external_id=str(row["oid"]),
            login=row["rolname"],
            state=state,
            entitlements=frozenset(row["groups"]),
            sessions=row["sessions"],
            recoverable_until=datetime.fromisoformat(parked[1])
            if parked and state is AccountState.DELETED
            else None,
            correlation=ours[1] if ours else "",
            settings={"comment": comment} if comment else {},
            assets=None if assets is None else tuple(assets),
            kind=AccountKind.SERVICE
            if row["rolname"].startswith(self._service_prefix)
            else AccountKind.PERSON,
        )

    async def act(  # noqa: C901, PLR0912 - a case for each action
        self,
        action: Action,
        ref: AccountRef,
        item: str,
        arguments: Arguments,
        secret: str = "",
    ) -> Done:
        async with self._connect() as connection:
            if action is Action.CREATE:
                return await self._create(connection, ref, arguments)
            row = await self._role(connection, ref)
            if row is None:
                raise ApplicationRejected(f"{self._name} has no role {ref.login}.")
            role = sql.Identifier(row["rolname"])
            match action:
                case Action.CUT_OFF:
                    return await self._cut_off(connection, ref, row)
                case Action.RESUME:
                    await self._alter(connection, role, "LOGIN")
                    await self._mark(connection, role, ref, "", row)
                case Action.SET_CREDENTIAL:
                    await self._password(connection, row["rolname"], secret)
                case Action.TRY_SIGN_IN:
                    return await self._try(connection, row, secret, closed=arguments.closed)
                case Action.GRANT:
                    statement = sql.SQL("GRANT {} TO {}").format(sql.Identifier(item), role)
                    await connection.execute(statement)
                case Action.REVOKE:
                    statement = sql.SQL("REVOKE {} FROM {}").format(sql.Identifier(item), role)
                    await connection.execute(statement)
                case Action.TRANSFER:
                    return await self._transfer(connection, row, item, arguments)
                case Action.PARK:
                    await self._alter(connection, role, "NOLOGIN")
                    await self._mark(connection, role, ref, f"parked until {arguments.until}", row)
                    return Done(until=arguments.until)
                case Action.RESTORE:
                    await self._mark(connection, role, ref, "suspended", row)
                case Action.UPDATE if item == "comment":
                    mark = OURS.sub("", parts(row["mark"])[0]).strip()
                    changed = {"mark": f"\n{arguments.value}"}
                    await self._mark(connection, role, ref, mark, changed)
                case Action.PURGE:
                    await self._purge(connection, row)
                case Action.RENAME:
                    return await self._rename(connection, row, item)
                case _:
                    raise CannotDo(f"{self._name} cannot {action.value.replace('_', ' ')}.")
        return NOTHING_DONE

    async def _create(self, connection: Connection, ref: AccountRef, arguments: Arguments) -> Done:
        role = sql.Identifier(arguments.login)
        async with connection.transaction():
            try:
                word = sql.SQL("NOLOGIN" if arguments.closed else "LOGIN")
                await connection.execute(sql.SQL("CREATE ROLE {} {}").format(role, word))
            except psycopg.errors.DuplicateObject as error:
                raise ApplicationRejected(
                    f"{self._name} has a role {arguments.login} already that is not ours.",
                    remedy="Link it to the person, or choose another login.",
                ) from error
            said = {"mark": f"\n{arguments.attributes.get('comment', '')}"}
            note = "suspended" if arguments.closed else ""
            await self._mark(connection, role, ref, note, said)
        row = await (
            await connection.execute(
                "SELECT oid FROM pg_roles WHERE rolname = %s", (arguments.login,)
            )
        ).fetchone()
        assert row is not None
        return Done(external_id=str(row["oid"]), login=arguments.login)

    async def _rename(self, connection: Connection, row: Mapping[str, Any], login: str) -> Done:
        """A SCRAM password outlives a rename (unlike MD5's, in which the name is mixed)."""
        if row["rolname"] == login:
            return Done(login=login)
        names = sql.Identifier(row["rolname"]), sql.Identifier(login)
        try:
            await connection.execute(sql.SQL("ALTER ROLE {} RENAME TO {}").format(*names))
        except psycopg.errors.DuplicateObject as error:
            raise ApplicationRejected(
                f"{self._name} has a role {login} already.", remedy="Choose another login."
            ) from error
        return Done(login=login)

    async def _cut_off(
        self, connection: Connection, ref: AccountRef, row: Mapping[str, Any]
    ) -> Done:
        login = row["rolname"]
        verifier = self._verifier(connection, login, secrets.token_urlsafe(32))
        # One message, so that the server does all of it or nothing, whatever becomes of us.
        await connection.execute(
            sql.SQL(
                "ALTER ROLE {0} NOLOGIN; ALTER ROLE {0} PASSWORD {1}; COMMENT ON ROLE {0} IS {2}"
            ).format(
                sql.Identifier(login),
                sql.Literal(verifier),
                sql.Literal(_marked(ref, "suspended", row)),
            )
        )
        # After the commit nobody gets in any more, so one sweep ends the last session.
        result = await connection.execute(
            "SELECT pg_terminate_backend(pid, 2000) FROM pg_stat_activity WHERE usesysid = %s",
            (row["oid"],),
        )
        return Done(suspended=True, ended={"sessions": len(await result.fetchall())})

    async def _try(
        self, connection: Connection, row: Mapping[str, Any], secret: str, *, closed: bool
    ) -> Done:
        """Connect once as the role; afterwards nobody knows its password, and it is closed again."""
        role, login = sql.Identifier(row["rolname"]), row["rolname"]
        await self._password(connection, login, secret)
        await self._alter(connection, role, "LOGIN")
        try:
            await self._pool.sign_in(login, secret)
        finally:
            if closed:
                await self._alter(connection, role, "NOLOGIN")
            await self._password(connection, login, secrets.token_urlsafe(32))
        return Done(note="signed in", password_replaced=True)

    async def _alter(self, connection: Connection, role: sql.Identifier, word: str) -> None:
        await connection.execute(sql.SQL("ALTER ROLE {} {}").format(role, sql.SQL(word)))

    async def _mark(
        self,
        connection: Connection,
        role: sql.Identifier,
        ref: AccountRef,
        note: str,
        row: Mapping[str, Any],
    ) -> None:
        """The visible mark: whose account this is, and that it is suspended or parked."""
        text = sql.Literal(_marked(ref, note, row))
        await connection.execute(sql.SQL("COMMENT ON ROLE {} IS {}").format(role, text))

    async def _password(self, connection: Connection, login: str, password: str) -> None:
        verifier = self._verifier(connection, login, password)
        await connection.execute(
            sql.SQL("ALTER ROLE {} PASSWORD {}").format(
                sql.Identifier(login), sql.Literal(verifier)
            )
        )

    def _verifier(self, connection: Connection, login: str, password: str) -> str:
        """The SCRAM verifier of a password, made here so that the server never sees the password."""
        made = connection.pgconn.encrypt_password(
            password.encode(), login.encode(), b"scram-sha-256"
        )
        return made.decode()

    async def _transfer(
        self,
        connection: Connection,
        row: Mapping[str, Any],
        kind: str,
        arguments: Arguments,
    ) -> Done:
        """ALTER … OWNER TO for each object of one kind, one transaction a database."""
        source = int(arguments.from_external_id or row["oid"])
        target = await (
            await connection.execute(
                "SELECT rolname FROM pg_roles WHERE oid = %s", (arguments.to_external_id,)
            )
        ).fetchone()
        if target is None:
            raise ApplicationRejected(
                f"{arguments.to_name} has no role in {self._name} any more.",
                remedy="Name another successor.",
            )
        only = arguments.only
        owned = (await self._assets(source)).get(source, [])
        moving = [a for a in owned if a.kind == kind and (only is None or a.external_id in only)]
        for database in sorted({a.container for a in moving}):
            async with self._pool.beside(database) as other, other.transaction():
                here = [a for a in moving if a.container == database]
                await hand_over(other, here, source, target["rolname"])
        moved = tuple(Asset(a.kind, a.external_id, a.name) for a in moving)
        return Done(assets=moved, to=arguments.to_name)

    async def _purge(self, connection: Connection, row: Mapping[str, Any]) -> None:
        """Drop a role that owns nothing any more, with the privileges granted to it."""
        owned = (await self._assets(row["oid"])).get(row["oid"], [])
        if owned:
            raise ApplicationRejected(
                f"{row['rolname']} still owns {len(owned)} objects in {self._name}, "
                f"{owned[0].name} among them.",
                remedy="Hand them over first.",
            )
        role = sql.Identifier(row["rolname"])
        result = await connection.execute(queries.MENTIONED_IN, {"oid": row["oid"]})
        for database in [r["datname"] for r in await result.fetchall()]:
            async with self._pool.beside(database) as other:
                await other.execute(sql.SQL("DROP OWNED BY {}").format(role))
        await connection.execute(sql.SQL("DROP OWNED BY {}").format(role))
        await connection.execute(sql.SQL("DROP ROLE {}").format(role))


def parts(comment: str) -> tuple[str, str]:
    """A role's comment as our mark, its first line, and what else it says; any other has no mark."""
    head, _, rest = comment.partition("\n")
    return (head, rest) if OURS.match(head) else ("", comment)


def _marked(ref: AccountRef, note: str, row: Mapping[str, Any]) -> str:
    """The comment of a role with our mark before what it says, which stays."""
    head, text = f"{queries.MARK} {ref.account_id} {note}".strip(), row["mark"]
    said = text.removeprefix("\n") if text.startswith("\n") else parts(text)[1]
    return f"{head}\n{said}" if said else head
