"""Pooled connections to a directory that speak our errors."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager

import bonsai
from bonsai.asyncio import AIOConnectionPool, AIOLDAPConnection

from yugum.connectors.ldap.layout import Layout
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
        client = bonsai.LDAPClient(url)
        client.set_credentials("SIMPLE", user=layout.bind, password=password)
        client.set_cert_policy("demand")
        if layout.ca_file:
            client.set_ca_cert(layout.ca_file)
        self._pool = AIOConnectionPool(client, 0, connections, timeout=timeout)

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
