"""The only place that wires implementations together."""

from __future__ import annotations

import asyncio
import os
import socket
import time
from collections.abc import AsyncIterator, Callable
from contextlib import asynccontextmanager
from dataclasses import dataclass
from importlib.metadata import entry_points
from typing import Any

from yugum.cluster import Cluster
from yugum.connectors.smtp import NoMailer, SmtpMailer
from yugum.engine.accepting import Accepting
from yugum.engine.access import Access
from yugum.engine.accounts import Accounts
from yugum.engine.allocations import Allocations
from yugum.engine.applications import Applications
from yugum.engine.approvals import Approvals
from yugum.engine.audit import AuditLog
from yugum.engine.birthdays import Birthdays
from yugum.engine.clock import BusinessClock, Clock
from yugum.engine.compare import Comparing
from yugum.engine.courtesy import Courtesy
from yugum.engine.credentials import Credentials
from yugum.engine.decisions import Decisions
from yugum.engine.declined import DeclinedPeople
from yugum.engine.disconnecting import Disconnecting
from yugum.engine.dockets import Dockets
from yugum.engine.equipment import Equipment
from yugum.engine.forecasts import Forecasts
from yugum.engine.groups import Groups
from yugum.engine.handover import Handover
from yugum.engine.issuing import Issuing
from yugum.engine.leaver_files import LeaverFiles
from yugum.engine.leaver_reports import LeaverReports
from yugum.engine.links import Links
from yugum.engine.mails import Mails
from yugum.engine.names import Names
from yugum.engine.operators import Operators
from yugum.engine.orders import Orders
from yugum.engine.overview import Overview
from yugum.engine.people import People
from yugum.engine.people_files import PeopleFiles
from yugum.engine.plans.plans import Plans
from yugum.engine.questions import Questions
from yugum.engine.readiness import Readiness
from yugum.engine.readings import Readings
from yugum.engine.reclaim import Reclaim
from yugum.engine.records import Records
from yugum.engine.references import References
from yugum.engine.replies import Replies
from yugum.engine.reservations import Reservations
from yugum.engine.rules import Rules
from yugum.engine.seat_reports import SeatReports
from yugum.engine.seats import Seats
from yugum.engine.services import Services
from yugum.engine.shared import Shared
from yugum.engine.standings import Standings
from yugum.engine.takeovers import Takeovers
from yugum.engine.tasks import Tasks
from yugum.engine.veils import Veils
from yugum.engine.views import SavedViews
from yugum.engine.watching import Watching
from yugum.engine.work.worker import Worker
from yugum.errors import InvalidInput
from yugum.ports.applications import Connection
from yugum.ports.connectors import Connector, ConnectorSpec
from yugum.ports.services import Mailer, Vault
from yugum.ports.units import Database
from yugum.settings import Settings
from yugum.storage.database import PostgresDatabase, migrate
from yugum.storage.keys import Keys

DATABASE = "yugum"
CLUSTER_SETTINGS = {"max_connections": "100", "shared_buffers": "64MB"}


@dataclass(slots=True)
class _Opened:
    """An open connector, what it was opened with, and when that was last looked up."""

    settings: tuple[object, ...]
    connector: Connector
    checked: float


class ConnectorRegistry:
    """Opens each application's connector when it is first needed, and anew when it has changed.

    Another process may change how an application is reached, so that is looked up again after
    ``LOOK_AGAIN`` seconds. A connector that is replaced stays open for the calls in flight.
    """

    LOOK_AGAIN = 10.0

    def __init__(self, database: Database, vault: Vault, settings: Settings) -> None:
        self._database = database
        self._vault = vault
        self._settings = settings
        self._open: dict[str, _Opened] = {}
        self._retired: list[Connector] = []
        self._lock = asyncio.Lock()

    def kinds(self) -> list[str]:
        """The kinds of application for which a connector is installed."""
        return sorted(entry_points(group="yugum.connectors").names)

    async def of(self, application_id: str) -> Connector:
        found = self._open.get(application_id)
        if found is not None and time.monotonic() - found.checked < self.LOOK_AGAIN:
            return found.connector
        async with self._lock:
            found = self._open.get(application_id)
            if found is not None and time.monotonic() - found.checked < self.LOOK_AGAIN:
                return found.connector
            async with self._database.unit() as unit:
                connection = await unit.applications.connection_of(application_id)
            access = connection.access
            settings = (
                connection.kind,
                connection.name,
                access.url,
                sorted(access.options.items()),
                connection.secret,
            )
            if found is not None and found.settings == settings:
                found.checked = time.monotonic()
                return found.connector
            if found is not None:
                self._retired.append(found.connector)
            connector = self._make(connection)
            self._open[application_id] = _Opened(settings, connector, time.monotonic())
            return connector

    def _make(self, connection: Connection) -> Connector:
        installed, kind = entry_points(group="yugum.connectors"), connection.kind
        if kind not in installed.names:
            raise InvalidInput(
                f"No connector of kind {kind} is installed.",
                place="kind",
                remedy=f"Use one of: {', '.join(sorted(installed.names))}.",
            )
        connect: Callable[[ConnectorSpec], Connector] = installed[kind].load()
        return connect(
            ConnectorSpec(
                name=connection.name,
                application_id=connection.id,
                database=self._database,
                url=connection.access.url,
                secret=self._vault.open(connection.secret) if connection.secret else "",
                options=connection.access.options,
                scripts=self._settings.script_folder,
                timeout=self._settings.call_timeout,
                connections=self._settings.concurrency,
            )
        )

    def trial(self, connection: Connection) -> Connector:
        return self._make(connection)

    def forget(self, application_id: str) -> None:
        """Look up at the next use how an application is reached."""
        if application_id in self._open:
            self._open[application_id].checked = float("-inf")

    async def close(self) -> None:
        for connector in (*(o.connector for o in self._open.values()), *self._retired):
            await connector.close()
        self._open.clear()
        self._retired.clear()


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
            self.database,
            self.connectors,
            self.clock,
            self.keys,
            self.keys,
            self.settings,
            name,
            self.services.mails,
            self.services.approvals,
            self.services.readings,
            self.services.questions,
            self.services.takeovers,
            self.services.forecasts,
        )


def _mailer(settings: Settings) -> Mailer:
    return SmtpMailer(settings.smtp_url, settings.mail_from) if settings.smtp_url else NoMailer()


def _of_seats(
    settings: Settings,
    keys: Keys,
    database: PostgresDatabase,
    clock: BusinessClock,
    plans: Plans,
    rules: Rules,
) -> dict[str, Any]:
    """The use cases about licenses, takeovers and reports, by their names among the services."""
    return {
        "allocations": Allocations(database, clock, plans),
        "forecasts": Forecasts(database, clock, rules),
        "orders": Orders(database, clock, keys, settings),
        "questions": Questions(database, clock, keys, settings),
        "takeovers": Takeovers(database, clock, keys, settings),
        "reclaim": Reclaim(database, clock, plans),
        "reservations": Reservations(database, clock),
        "leaver_reports": LeaverReports(database, clock),
        "seat_reports": SeatReports(database, clock),
        "seats": Seats(database, clock),
    }


def _services(
    settings: Settings,
    keys: Keys,
    database: PostgresDatabase,
    clock: BusinessClock,
    connectors: ConnectorRegistry,
) -> Services:
    """Every use case, wired."""
    approvals = Approvals(database, clock, keys, settings)
    mails = Mails(database, clock, keys, settings, _mailer(settings))
    courtesy = Courtesy()
    credentials = Credentials(database, clock, keys, settings)
    plans = Plans(database, connectors, clock, keys, approvals)
    rules = Rules(database, clock, connectors)
    standings = Standings(database, clock)
    return Services(
        settings=settings,
        access=Access(database, clock, keys, settings),
        accounts=Accounts(database),
        approvals=approvals,
        mails=mails,
        names=Names(database, connectors, clock),
        operators=Operators(database, clock, keys, settings),
        readiness=Readiness(database, clock),
        shared=Shared(database, clock),
        equipment=Equipment(database, clock),
        people_files=PeopleFiles(database, clock, keys),
        leaver_files=LeaverFiles(database, clock, plans),
        groups=Groups(database, clock),
        handover=Handover(database, connectors, clock),
        references=References(database, connectors, clock),
        applications=Applications(database, connectors, clock, keys),
        clock=Clock(database, clock, mails.remind),
        comparing=Comparing(database),
        connectors=connectors,
        courtesy=courtesy,
        credentials=credentials,
        issuing=Issuing(database, clock, keys, credentials),
        decisions=Decisions(database, clock),
        disconnecting=Disconnecting(database, connectors, clock),
        dockets=Dockets(database, clock, keys, approvals),
        audit=AuditLog(database, keys.public_key),
        links=Links(database, clock),
        overview=Overview(database, clock),
        standing=standings,
        accepting=Accepting(database, clock, standings),
        people=People(database, clock, keys),
        birthdays=Birthdays(database, clock, keys),
        declined=DeclinedPeople(database, clock),
        plans=plans,
        readings=Readings(database, connectors, clock, courtesy),
        records=Records(database, clock),
        replies=Replies(database),
        rules=rules,
        veils=Veils(database, clock),
        watching=Watching(database, clock),
        views=SavedViews(database, clock),
        **_of_seats(settings, keys, database, clock, plans, rules),
        tasks=Tasks(database, clock),
    )


@asynccontextmanager
async def open_house(settings: Settings) -> AsyncIterator[House]:
    """Services over the database of ``settings``, which must have been migrated."""
    keys = Keys.load(settings.key_file)
    database = PostgresDatabase(settings.database_url)
    clock = BusinessClock(database)
    connectors = ConnectorRegistry(database, keys, settings)
    services = _services(settings, keys, database, clock, connectors)
    try:
        yield House(settings, services, database, connectors, keys, clock)
    finally:
        await connectors.close()
        await database.close()


def makes_database(settings: Settings) -> bool:
    """Whether the private cluster is still to be made, which takes a while on a busy disk."""
    folder = settings.state / "postgres"
    return not settings.database_url and not Cluster(folder, CLUSTER_SETTINGS).made


def with_database(settings: Settings) -> tuple[Settings, Cluster | None]:
    """Settings that name a migrated database: the given one, else the private cluster, started
    unless another process has."""
    cluster = None
    if not settings.database_url:
        cluster = Cluster(settings.state / "postgres", CLUSTER_SETTINGS)
        if not cluster.runs():
            cluster.start()
        cluster.create_database(DATABASE)
        settings = settings.model_copy(update={"database_url": cluster.url(DATABASE)})
    migrate(settings.database_url)
    return settings, cluster
