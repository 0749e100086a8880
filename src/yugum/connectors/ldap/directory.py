"""Pooled connections to a directory that speak our errors."""

from __future__ import annotations

import asyncio
import secrets
from collections.abc import AsyncIterator, Callable, Mapping, Sequence
from contextlib import asynccontextmanager

import bonsai
from bonsai import LDAPEntry, LDAPModOp, LDAPSearchScope
from bonsai.asyncio import AIOConnectionPool, AIOLDAPConnection

from yugum.connectors.ldap.layout import PERMANENT, Layout, rdn_value
from yugum.errors import ApplicationError, ApplicationRejected, ApplicationUnavailable

LOST = (bonsai.ConnectionError, bonsai.ClosedConnection, bonsai.TimeoutError, TimeoutError, OSError)


class Directory:
    """Connections over TLS, bound as ``layout.bind``."""

    def __init__(
        self,
        name: str,
        url: str,
        password: str,
        layout: Layout,
        *,
        timeout: float,
        connections: int,
    ) -> None:
        self._name = name
        self._bind = layout.bind
        self._timeout = timeout
        self._url = url
        self._ca_file = layout.ca_file
        client = self._client(layout.bind, password)
        self._pool = AIOConnectionPool(client, 0, connections, timeout=timeout)

    def _client(self, user: str, password: str) -> bonsai.LDAPClient:
        client = bonsai.LDAPClient(self._url)
        client.set_credentials("SIMPLE", user=user, password=password)
        client.set_cert_policy("demand")
        if self._ca_file:
            client.set_ca_cert(self._ca_file)
        return client

    async def try_as(
        self, connection: AIOLDAPConnection, dn: str, password: str, *, closed: bool
    ) -> None:
        """Bind once as an entry with a password that nobody keeps; it is ``closed`` again afterwards.

        A new password lifts an entry's lock, which is put back.

        Raises:
            ApplicationRejected: the directory does not let it in.
        """
        await connection.modify_password(dn, new_password=password, timeout=self._timeout)
        try:
            await self.sign_in(dn, password)
        finally:
            scrambled = [secrets.token_urlsafe(32)]
            await modify(connection, dn, {"userPassword": scrambled}, self._timeout)
            if closed:
                lock = {"pwdAccountLockedTime": [PERMANENT]}
                await modify(connection, dn, lock, self._timeout)

    async def sign_in(self, dn: str, password: str) -> None:
        """Bind once as somebody, on a connection of its own (RFC 4513 5.1.3).

        Raises:
            ApplicationRejected: the directory does not let them in.
        """
        try:
            made = await self._client(dn, password).connect(True, timeout=self._timeout)
        except LOST as error:
            raise ApplicationUnavailable(
                f"{self._name} does not answer ({type(error).__name__})."
            ) from error
        except bonsai.LDAPError as error:
            raise ApplicationRejected(
                f"{self._name} does not let the new account sign in: {error}",
                remedy="Look at its rules for passwords and locks; then retry the step.",
            ) from error
        made.close()

    async def close(self) -> None:
        await self._pool.close()

    @asynccontextmanager
    async def connect(self) -> AsyncIterator[AIOLDAPConnection]:
        """A connection from the pool; errors translated, a broken connection thrown away."""
        connection = None
        try:
            if self._pool.closed:
                await self._pool.open()
            connection = await asyncio.wait_for(self._pool.get(), self._timeout)
            yield connection
        except ApplicationError:
            raise
        except LOST as error:
            if connection is not None:
                connection.close()
            raise ApplicationUnavailable(
                f"{self._name} does not answer ({type(error).__name__})."
            ) from error
        except bonsai.AuthenticationError as error:
            raise ApplicationRejected(
                f"{self._name} does not accept Yugum's credentials.",
                remedy="Renew them: yugum apps connect.",
            ) from error
        except bonsai.InsufficientAccess as error:
            raise ApplicationRejected(
                f"{self._name} does not let {self._bind} do this.",
                remedy="Give it write access below the people's, leavers' and groups' containers.",
            ) from error
        except bonsai.LDAPError as error:
            raise ApplicationRejected(f"{self._name} refused: {error}") from error
        finally:
            if connection is not None:
                await self._pool.put(connection)


async def modify(
    connection: AIOLDAPConnection, dn: object, values: Mapping[str, Sequence[str]], timeout: float
) -> None:
    """Replace attributes in one request; no value takes the attribute away (RFC 4511 4.6)."""
    changed = LDAPEntry(str(dn), connection)
    for name, wanted in values.items():
        changed.change_attribute(name, LDAPModOp.REPLACE, *wanted)  # type: ignore[arg-type]
    await changed.modify(timeout=timeout)


async def move(
    connection: AIOLDAPConnection,
    entry: LDAPEntry,
    dn: str,
    timeout: float,
    taken: Callable[[str], ApplicationRejected],
) -> None:
    """Give an entry another DN; ``taken`` says what is wrong where something stands there already."""
    if str(entry.dn).lower() == dn.lower():
        return
    try:
        await LDAPEntry(entry.dn, connection).rename(dn, timeout=timeout)
    except bonsai.AlreadyExists as error:
        raise taken(rdn_value(dn)) from error


async def dn_of(
    connection: AIOLDAPConnection, layout: Layout, name: str, login: str, part: str
) -> list[str]:
    """The DN of an account as the value of an attribute that points at it; none for no login.

    Raises:
        ApplicationRejected: there is none of that login to be the ``part``.
    """
    if not login:
        return []
    found = await connection.search(
        layout.base, LDAPSearchScope.SUB, layout.named(layout.login, login), ["1.1"]
    )
    if not found:
        raise ApplicationRejected(f"{name} has no entry {login} to be the {part}.")
    return [str(found[0].dn)]
