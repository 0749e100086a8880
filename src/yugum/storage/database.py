"""The database: connections, transactions over all stores, migrations."""

from __future__ import annotations

import time
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import orjson
import psycopg
import sqlalchemy as sa
from sqlalchemy.ext.asyncio import AsyncConnection, AsyncEngine, create_async_engine

from yugum.errors import Collided, ConfigError, DatabaseAway, InvalidInput
from yugum.ports.accounts import AccountStore
from yugum.ports.applications import ApplicationStore
from yugum.ports.approvals import ApprovalStore
from yugum.ports.audit import AuditStore
from yugum.ports.birthdays import BirthdayStore
from yugum.ports.clock import ClockStore
from yugum.ports.credentials import CredentialStore
from yugum.ports.decisions import DecisionStore
from yugum.ports.declined import DeclinedStore
from yugum.ports.deviations import DeviationStore
from yugum.ports.dockets import DocketStore
from yugum.ports.equipment import EquipmentStore
from yugum.ports.findings import FindingStore
from yugum.ports.forecasts import ForecastStore
from yugum.ports.gates import GateStore
from yugum.ports.grounds import GroundStore
from yugum.ports.groups import GroupStore
from yugum.ports.handover import HandoverStore
from yugum.ports.idempotency import IdempotencyStore
from yugum.ports.journal import JournalStore
from yugum.ports.leases import LeaseStore
from yugum.ports.mails import MailStore
from yugum.ports.matrix import MatrixStore
from yugum.ports.mentions import MentionStore
from yugum.ports.numbers import NumberStore
from yugum.ports.obligations import ObligationStore
from yugum.ports.operators import OperatorStore
from yugum.ports.orders import OrderStore
from yugum.ports.people import PeopleStore
from yugum.ports.people_files import PeopleFileStore
from yugum.ports.plans import PlanStore
from yugum.ports.population import PopulationStore
from yugum.ports.proposals import ProposalStore
from yugum.ports.questions import QuestionStore
from yugum.ports.readings import ReadingStore
from yugum.ports.reclaim import ReclaimStore
from yugum.ports.reports import ReportStore
from yugum.ports.reservations import ReservationStore
from yugum.ports.rules import RuleStore
from yugum.ports.saved import SavedViewStore
from yugum.ports.seats import SeatStore
from yugum.ports.shared import SharedStore
from yugum.ports.standing import StandingStore
from yugum.ports.takeovers import TakeoverStore
from yugum.ports.tasks import TaskStore
from yugum.ports.units import UnitOfWork
from yugum.ports.views import ViewStore
from yugum.storage.accounts import Accounts
from yugum.storage.applications import Applications
from yugum.storage.approvals import Approvals
from yugum.storage.audit import Audit
from yugum.storage.birthdays import Birthdays
from yugum.storage.clock import ClockRow
from yugum.storage.credentials import Credentials
from yugum.storage.decisions import Decisions
from yugum.storage.declined import DeclinedPeople
from yugum.storage.deviations import Deviations
from yugum.storage.dockets import Dockets
from yugum.storage.equipment import Equipment
from yugum.storage.findings import Findings
from yugum.storage.forecasts import Forecasts
from yugum.storage.gates import Gates
from yugum.storage.grounds import Ground
from yugum.storage.groups import Groups
from yugum.storage.handover import Handover
from yugum.storage.idempotency import Idempotency
from yugum.storage.journal import Journal
from yugum.storage.leases import Leases
from yugum.storage.mails import Mails
from yugum.storage.matrix import Matrix
from yugum.storage.mentions import Mentions
from yugum.storage.numbers import Numbers
from yugum.storage.obligations import Obligations
from yugum.storage.operators import Operators
from yugum.storage.orders import Orders
from yugum.storage.people import People
from yugum.storage.people_files import PeopleFiles
from yugum.storage.plans import Plans
from yugum.storage.population import Population
from yugum.storage.proposals import Proposals
from yugum.storage.questions import Questions
from yugum.storage.queue import Hints, make_app
from yugum.storage.readings import Readings
from yugum.storage.reclaim import Reclaim
from yugum.storage.reports import Reports
from yugum.storage.reservations import Reservations
from yugum.storage.rows import NO_TABLE, NO_TABLE_REMEDY
from yugum.storage.rules import Rules
from yugum.storage.saved import SavedViews
from yugum.storage.seats import Seats
from yugum.storage.shared import Shared
from yugum.storage.standing import Standing
from yugum.storage.takeovers import Takeovers
from yugum.storage.tasks import Tasks
from yugum.storage.views import Views

IDLE_MS = 15_000
"""A process that stands still in a transaction loses it, and with it the locks others wait for."""
RESTED_SECONDS = 1.0
"""A connection unused for longer is tried out before it is given to anybody. Until then it is trusted:
most are used many times a second, and the first failure replaces all of them."""
RETRY_SECONDS = 2.0
"""When a request may be made again that found the database away, or every connection in use."""
POOL_SECONDS = 10.0
PREPARED = 400
"""Statements a connection keeps prepared: a service asks some three hundred, and to plan one of the larger takes
longer than its answer."""
SEEN_BEFORE = 2
"""A statement is prepared when it is asked more often than so."""
COLLIDED = frozenset({"40001", "40P01"})
"""Serialization failure and deadlock: the transaction was rolled back, and may be run again."""


@dataclass(slots=True)
class _Opened:
    """A transaction of the running task, or of the one that started it."""

    database: PostgresDatabase
    over: bool = False


_open: ContextVar[_Opened | None] = ContextVar("open", default=None)


class Unit:
    """One transaction over all stores."""

    def __init__(self, connection: AsyncConnection, hints: Hints) -> None:
        self._connection = connection
        self._hints = hints
        self.people: PeopleStore = People(connection)
        self.birthdays: BirthdayStore = Birthdays(connection)
        self.mentions: MentionStore = Mentions(connection)
        self.handover: HandoverStore = Handover(connection)
        self.declined: DeclinedStore = DeclinedPeople(connection)
        self.population: PopulationStore = Population(connection)
        self.accounts: AccountStore = Accounts(connection)
        self.applications: ApplicationStore = Applications(connection)
        self.orders: OrderStore = Orders(connection)
        self.questions: QuestionStore = Questions(connection)
        self.takeovers: TakeoverStore = Takeovers(connection)
        self.matrix: MatrixStore = Matrix(connection)
        self.forecasts: ForecastStore = Forecasts(connection)
        self.reclaim: ReclaimStore = Reclaim(connection)
        self.reports: ReportStore = Reports(connection)
        self.reservations: ReservationStore = Reservations(connection)
        self.seats: SeatStore = Seats(connection)
        self.rules: RuleStore = Rules(connection)
        self.decisions: DecisionStore = Decisions(connection)
        self.plans: PlanStore = Plans(connection)
        self.dockets: DocketStore = Dockets(connection)
        self.obligations: ObligationStore = Obligations(connection)
        self.standing: StandingStore = Standing(connection)
        self.readings: ReadingStore = Readings(connection)
        self.deviations: DeviationStore = Deviations(connection)
        self.proposals: ProposalStore = Proposals(connection)
        self.findings: FindingStore = Findings(connection)
        self.tasks: TaskStore = Tasks(connection)
        self.numbers: NumberStore = Numbers(connection)
        self.shared: SharedStore = Shared(connection)
        self.equipment: EquipmentStore = Equipment(connection)
        self.people_files: PeopleFileStore = PeopleFiles(connection)
        self.grounds: GroundStore = Ground(connection)
        self.groups: GroupStore = Groups(connection)
        self.gates: GateStore = Gates(connection)
        self.leases: LeaseStore = Leases(connection)
        self.journal: JournalStore = Journal(connection)
        self.credentials: CredentialStore = Credentials(connection)
        self.approvals: ApprovalStore = Approvals(connection)
        self.mails: MailStore = Mails(connection)
        self.audit: AuditStore = Audit(connection)
        self.clock: ClockStore = ClockRow(connection)
        self.operators: OperatorStore = Operators(connection)
        self.idempotency: IdempotencyStore = Idempotency(connection)
        self.views: ViewStore = Views(connection)
        self.saved: SavedViewStore = SavedViews(connection)

    async def hint(self) -> None:
        await self._hints.send(self._connection)


class PostgresDatabase:
    """Opens units of work on PostgreSQL; ``url`` is ``postgresql://…``."""

    def __init__(self, url: str, *, pool_size: int = 8) -> None:
        self.url = url
        self._engine: AsyncEngine = create_async_engine(
            url.replace("postgresql://", "postgresql+psycopg://", 1),
            pool_size=pool_size,
            max_overflow=pool_size,
            pool_timeout=POOL_SECONDS,
            pool_use_lifo=True,  # the one used last has its statements prepared and its caches warm
            connect_args={
                "prepare_threshold": SEEN_BEFORE,
                # A page found by its index costs hardly more than the next one: most are in memory.
                "options": f"-c idle_in_transaction_session_timeout={IDLE_MS} -c jit=off"
                " -c random_page_cost=1.1",
            },
            json_serializer=lambda value: orjson.dumps(value, default=str).decode(),
            json_deserializer=orjson.loads,
        )
        self._single = self._engine.execution_options(isolation_level="AUTOCOMMIT")
        sa.event.listen(self._engine.sync_engine, "connect", _keeping)
        sa.event.listen(self._engine.sync_engine, "checkin", _used)
        sa.event.listen(self._engine.sync_engine, "checkout", _tried)
        self._hints = Hints(make_app(url))

    @asynccontextmanager
    async def unit(self, *, alone: bool = False) -> AsyncIterator[UnitOfWork]:
        """One transaction; ``alone``: each statement by itself, which saves two ways there and back.

        Raises:
            InvalidInput: a value from outside fits no column, such as a text with a NUL.
            DatabaseAway: it cannot be reached, or every connection is in use.
            RuntimeError: there is one already: whoever waits for a second connection while holding
                one may wait for ever.
        """
        before = _open.get()
        if before is not None and before.database is self and not before.over:
            raise RuntimeError("A transaction was begun within another one.")
        opened = _Opened(self)
        _open.set(opened)
        try:
            async with (self._single if alone else self._engine).begin() as connection:
                yield Unit(connection, self._hints)
        except sa.exc.DataError as error:
            raise InvalidInput(NO_TABLE, remedy=NO_TABLE_REMEDY) from error
        except sa.exc.TimeoutError as error:
            raise DatabaseAway(
                "Every connection to the database is in use.",
                remedy="Try again in a moment.",
                retry_after=RETRY_SECONDS,
            ) from error
        except sa.exc.DBAPIError as error:
            if getattr(error.orig, "sqlstate", None) in COLLIDED:
                raise Collided(
                    "Somebody else changed the same at that moment.",
                    remedy="Try again.",
                    retry_after=RETRY_SECONDS,
                ) from error
            if not _is_away(error):
                raise
            raise DatabaseAway(
                "The database cannot be reached.",
                remedy="Try again in a moment.",
                retry_after=RETRY_SECONDS,
            ) from error
        finally:
            opened.over = True

    async def close(self) -> None:
        await self._engine.dispose()


def _is_away(error: sa.exc.DBAPIError) -> bool:
    """Whether the database, or the way to it, is gone: not something that was wrong with a statement.

    The classes of SQLSTATE are connection exceptions, shutting down or starting up, and too many
    connections (PostgreSQL, appendix A); a connection that was never made has none.
    """
    state = getattr(error.orig, "sqlstate", None)
    if error.connection_invalidated or state is None:
        return isinstance(error, (sa.exc.OperationalError, sa.exc.InterfaceError))
    return str(state).startswith(("08", "57P", "53", "25P03"))


def _keeping(connection: Any, _: Any) -> None:
    connection.driver_connection.prepared_max = PREPARED


def _used(_: Any, record: Any) -> None:
    record.info["used"] = time.monotonic()


def _tried(connection: Any, record: Any, _: Any) -> None:
    """Ask a rested connection whether it is still there; the pool replaces one that is not."""
    if time.monotonic() - record.info.get("used", 0.0) < RESTED_SECONDS:
        return
    try:
        cursor = connection.cursor()
        try:
            cursor.execute("SELECT 1")
        finally:
            cursor.close()
        connection.rollback()
    except psycopg.Error as error:
        raise sa.exc.DisconnectionError from error


def _reached(engine: sa.Engine) -> sa.Connection:
    try:
        return engine.connect()
    except sa.exc.OperationalError as error:
        reason = str(error.orig).strip().splitlines()[0]
        raise ConfigError(
            f"The database at {engine.url.host}:{engine.url.port} cannot be used: {reason}",
            remedy="Check YUGUM_DATABASE_URL, or leave it out for a private cluster.",
        ) from error


MIGRATIONS = Path(__file__).parent / "migrations"


def migrate(url: str) -> None:
    """Bring the schema to the newest version; two processes at once do it one after the other."""
    engine = sa.create_engine(url.replace("postgresql://", "postgresql+psycopg://", 1))
    try:
        with _reached(engine) as lock:
            lock.execute(sa.text("SELECT pg_advisory_lock(1498760021)"))
            if not _is_newest(engine):
                _upgrade(engine)
            lock.execute(sa.text("SELECT pg_advisory_unlock(1498760021)"))
    finally:
        engine.dispose()


def _is_newest(engine: sa.Engine) -> bool:
    """Whether nothing is to be done; asked first, since the tool for it is ten megabytes."""
    newest = max(p.stem for p in (MIGRATIONS / "versions").glob("v*.py"))
    with engine.connect() as connection:
        if not sa.inspect(connection).has_table("alembic_version"):
            return False
        found = connection.execute(sa.text("SELECT version_num FROM alembic_version")).scalars()
        return [f"v{version}" for version in found] == [newest.partition("_")[0]]


def _upgrade(engine: sa.Engine) -> None:
    from alembic import command
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
