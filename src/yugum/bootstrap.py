"""The only place that wires implementations together."""

from __future__ import annotations

import asyncio
import os
import socket
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from dataclasses import dataclass

from yugum.cluster import Cluster
from yugum.connectors.postgres import PostgresConnector
from yugum.connectors.scim import ScimConnector
from yugum.engine.access import Access
from yugum.engine.applications import Applications
from yugum.engine.audit import Exports
from yugum.engine.clock import BusinessClock, Clock
from yugum.engine.credentials import Credentials
from yugum.engine.decisions import Decisions
from yugum.engine.dockets import Dockets
from yugum.engine.people import People
from yugum.engine.plans import Plans
from yugum.engine.rules import Rules
from yugum.engine.seats import Seats
from yugum.engine.services import Services
from yugum.engine.work import Worker
from yugum.errors import ConfigError
from yugum.ports import Connector, Database, Vault
from yugum.settings import Settings
from yugum.storage.database import PostgresDatabase, migrate
from yugum.storage.keys import Keys

DATABASE = "yugum"
CLUSTER_SETTINGS = {"max_connections": "100", "shared_buffers": "64MB"}


class ConnectorRegistry:
    """Opens each application's connector when it is first needed, and again when it changed."""

    def __init__(self, database: Database, vault: Vault, settings: Settings) -> None:
        self._database = database
        self._vault = vault
        self._settings = settings
        self._open: dict[str, tuple[object, Connector]] = {}
        self._lock = asyncio.Lock()

    async def of(self, application_id: str) -> Connector:
        if (found := self._open.get(application_id)) is not None:
            return found[1]
        async with self._lock:
            if (found := self._open.get(application_id)) is not None:
                return found[1]
            async with self._database.unit() as unit:
                row = await unit.applications.connection_of(application_id)
            secret = self._vault.open(row["secret"]) if row["secret"] else ""
            connector = self._make(row["kind"], row["name"], row["config"].get("url", ""), secret)
            self._open[application_id] = (row["config"], connector)
            return connector

    def _make(self, kind: str, name: str, url: str, secret: str) -> Connector:
        timeout, connections = self._settings.call_timeout, self._settings.concurrency
        if kind == "scim":
            return ScimConnector(name, url, secret, timeout=timeout, connections=connections)
        if kind == "postgres":
            few = min(connections, 16)
            return PostgresConnector(name, secret, timeout=timeout, connections=few)
        raise ConfigError(f"There is no connector of kind {kind}.", remedy="Use scim or postgres.")

    async def forget(self, application_id: str) -> None:
        """Close a connector whose settings have changed."""
        found = self._open.pop(application_id, None)
        if found is not None:
            await found[1].close()

    async def close(self) -> None:
        for application_id in list(self._open):
            await self.forget(application_id)


@dataclass(frozen=True, slots=True)
class House:
    """Everything a process of Yugum has running."""

    settings: Settings
    services: Services
    database: PostgresDatabase
    connectors: ConnectorRegistry
    keys: Keys
    clock: BusinessClock

    def worker(self) -> Worker:
        name = self.settings.worker_name or f"{socket.gethostname()}-{os.getpid()}"
        return Worker(
            self.database, self.connectors, self.clock, self.keys, self.keys, self.settings, name
        )


@asynccontextmanager
async def open_house(settings: Settings) -> AsyncIterator[House]:
    """Services over the database of ``settings``, which must have been migrated."""
    keys = Keys.load(settings.key_file)
    database = PostgresDatabase(settings.database_url)
    clock = BusinessClock(database)
    connectors = ConnectorRegistry(database, keys, settings)
    services = Services(
        settings=settings,
        database=database,
        now=clock,
        access=Access(database, clock, settings),
        applications=Applications(database, connectors, clock, keys),
        clock=Clock(database, clock),
        credentials=Credentials(database, clock, keys, settings),
        decisions=Decisions(database, clock),
        dockets=Dockets(database, clock),
        exports=Exports(database, keys.public_key),
        people=People(database, clock),
        plans=Plans(database, connectors, clock),
        rules=Rules(database, clock),
        seats=Seats(database, clock),
    )
    try:
        yield House(settings, services, database, connectors, keys, clock)
    finally:
        await connectors.close()
        await database.close()


def with_database(settings: Settings) -> tuple[Settings, Cluster | None]:
    """Settings that name a migrated database: the given one, else the private cluster, started."""
    cluster = None
    if not settings.database_url:
        cluster = Cluster(settings.state / "postgres", CLUSTER_SETTINGS)
        cluster.start()
        cluster.create_database(DATABASE)
        settings = settings.model_copy(update={"database_url": cluster.url(DATABASE)})
    migrate(settings.database_url)
    return settings, cluster
