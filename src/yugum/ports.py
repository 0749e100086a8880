"""What the engine needs from outside, as Protocols; ``bootstrap`` says who provides it."""

from __future__ import annotations

from collections.abc import AsyncIterator, Iterable, Mapping, Sequence
from contextlib import AbstractAsyncContextManager
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any, Protocol

from yugum.core.accounts import Account, AccountKind, Observed, Unreadable
from yugum.core.actions import Action
from yugum.core.applications import Application, Capability, Trust
from yugum.core.conditions import Condition
from yugum.core.decisions import Decision, LedgerKey, Origin
from yugum.core.dockets import DoneStep, Step, StepState
from yugum.core.matching import Candidate
from yugum.core.merkle import Frontier
from yugum.core.people import Person
from yugum.core.seats import Pool

# --- connectors ---------------------------------------------------------------------------------


@dataclass(frozen=True, slots=True)
class AccountRef:
    """How to find an account: by the application's id, else by our correlation id or the login."""

    account_id: str
    external_id: str
    login: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ConnectorSpec:
    """What a connector is made of: an application's record with its secret opened.

    ``database`` is Yugum's own, for connectors that keep their book there. An entry point of the group ``yugum.connectors`` is a function of this that returns a Connector.
    """

    name: str
    application_id: str = ""
    url: str = ""
    secret: str = ""
    database: Database | None = None
    options: Mapping[str, str] = field(default_factory=dict)
    timeout: float = 8.0
    connections: int = 16


@dataclass(frozen=True, slots=True)
class Discovery:
    """What an application says it can do. ``licenses`` maps a name to the seats bought."""

    capabilities: frozenset[Capability]
    licenses: Mapping[str, int] = field(default_factory=dict)


class Connector(Protocol):
    """Speaks to one application. Every call may raise an ``errors.ApplicationError``."""

    call_timeout: float

    async def discover(self) -> Discovery:
        """The application's capabilities and licenses."""
        ...

    def read(self, since: datetime | None = None) -> AsyncIterator[Sequence[Observed | Unreadable]]:
        """Every account with what it owns, page by page.

        With ``since``, where the application can tell, only what has changed after that machine
        time; where it cannot, every account.
        """
        ...

    async def observe(self, ref: AccountRef, *, assets: bool = False) -> Observed | None:
        """The account as it is now; None when the application has none."""
        ...

    async def act(
        self,
        action: Action,
        ref: AccountRef,
        item: str,
        arguments: Mapping[str, Any],
        secret: str = "",
    ) -> Mapping[str, Any]:
        """Carry out one action; returns what was done, without secrets."""
        ...

    async def close(self) -> None: ...


class Connectors(Protocol):
    """The connectors of all applications, opened when first needed."""

    async def of(self, application_id: str) -> Connector: ...


class Clock(Protocol):
    """Business time."""

    async def now(self) -> datetime: ...


class Vault(Protocol):
    """Encrypts what must not lie around in clear."""

    def seal(self, text: str) -> bytes: ...
    def open(self, cipher: bytes) -> str: ...


class Signer(Protocol):
    """Signs the heads of the audit log (Ed25519)."""

    def sign(self, message: bytes) -> bytes: ...


# --- rows that travel between engine and storage --------------------------------------------------


@dataclass(frozen=True, slots=True)
class Share:
    """Among how many workers an application's permits go, and the seconds it is paused for."""

    workers: int
    paused: float


@dataclass(frozen=True, slots=True)
class Lease:
    """A worker's claim on a subject, good while nobody holds a later ``epoch``."""

    subject_id: str
    epoch: int


@dataclass(slots=True, kw_only=True)
class Entry:
    """One row of the journal: a step's intent, receipt, problem or wait, and what follows from it.

    It carries no time: the journal stamps a whole flush with one reading of business time.
    """

    step: Step
    epoch: int
    state: StepState
    attempts: int
    retry_seconds: float | None = None
    problem: Mapping[str, Any] | None = None
    found: Mapping[str, Any] | None = None
    outcome: str = ""
    did: Mapping[str, Any] = field(default_factory=dict)
    seen: Mapping[str, Any] = field(default_factory=dict)
    took_ms: float = 0.0
    account: Account | None = None
    origins: Sequence[tuple[LedgerKey, Origin | None]] = ()
    freed_licenses: Sequence[str] = ()
    credential: bytes | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class KnownAccount:
    """What a reading compares an account with; ``busy`` while a docket of its person runs."""

    id: str
    person_id: str | None
    kind: str
    state: str
    entitlements: frozenset[str]
    seats: frozenset[str]
    digest: bytes | None
    busy: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Sighting:
    """An account as a reading stores it."""

    id: str
    person_id: str | None
    kind: str
    seen: Observed
    digest: bytes
    new: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Draft:
    """A plan to be kept until it is confirmed."""

    id: str
    batch_id: str
    subject_id: str
    verb: str
    cause: Mapping[str, Any]
    steps: Sequence[Mapping[str, Any]]
    document: Mapping[str, Any]
    inputs: Mapping[str, Any]
    digest: str
    due_at: datetime
    made_at: datetime
    author: str


@dataclass(frozen=True, slots=True, kw_only=True)
class DocketRow:
    """A docket as the engine works with it."""

    id: str
    number: int
    subject_id: str
    verb: str
    state: str
    cause: Mapping[str, Any]
    reference: str
    reason: str
    author: str
    inputs: Mapping[str, Any]
    undoes: str | None
    due_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class Obligation:
    subject_id: str
    account_id: str | None
    kind: str
    due_at: datetime
    basis: str
    id: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Event:
    """Something for the audit log."""

    id: str
    at: datetime
    actor: str
    action: str
    subject: str
    docket_id: str | None
    payload: Mapping[str, Any]
    salt: bytes
    digest: bytes


@dataclass(frozen=True, slots=True, kw_only=True)
class Known:
    """Everything stored about some subjects, loaded in a handful of statements.

    An account that is nobody's stands among the people as if it were one; ``nobody`` names those.
    """

    people: Mapping[str, Person]
    revisions: Mapping[str, int]
    accounts: Mapping[str, Sequence[Account]]
    nobody: frozenset[str]
    ledger: Mapping[LedgerKey, Origin]
    decisions: Mapping[str, Sequence[Decision]]


Row = Mapping[str, Any]


class ListPage(Protocol):
    """A page of a list: rows and the next cursor."""

    @property
    def items(self) -> Sequence[Row]: ...
    @property
    def next(self) -> str | None: ...
    @property
    def total(self) -> int | None: ...


# --- stores ---------------------------------------------------------------------------------------


class PeopleStore(Protocol):
    async def many(self, ids: Iterable[str]) -> dict[str, tuple[Person, int]]: ...
    async def resolve(self, who: str) -> Person: ...
    async def insert(self, people: Sequence[Person]) -> None: ...
    async def change(self, people: Sequence[Person]) -> None: ...
    async def record(self, facts: Sequence[Row]) -> None: ...
    async def page(
        self,
        now: datetime,
        *,
        condition: Condition | None,
        query: str,
        state: str,
        cursor: str | None,
        limit: int,
    ) -> ListPage: ...
    async def logins_taken(self, logins: Iterable[str]) -> set[str]: ...
    async def by_keys(self, logins: Iterable[str], numbers: Iterable[str]) -> Sequence[Row]: ...
    async def facts_of(self, person_id: str, limit: int = 50) -> Sequence[Row]: ...


class AccountStore(Protocol):
    async def known(self, person_ids: Sequence[str]) -> Known: ...
    async def refresh(self, accounts: Sequence[Account], at: datetime) -> None: ...
    async def get(self, account_id: str) -> Account: ...
    async def some(self, account_ids: Iterable[str]) -> dict[str, Account]: ...
    async def page(
        self,
        *,
        application: str = "",
        state: str = "",
        person_id: str = "",
        query: str = "",
        cursor: str | None = None,
        limit: int = 50,
    ) -> ListPage: ...
    async def history(self, account_ids: Sequence[str]) -> Sequence[Row]: ...
    async def ledger_rows(self, account_ids: Sequence[str]) -> Sequence[Row]: ...
    async def assets_of(self, account_ids: Sequence[str]) -> Sequence[Row]: ...
    async def be_of_kind(self, account_id: str, kind: AccountKind) -> None: ...
    async def set_seats(self, seats: Mapping[str, Iterable[str]]) -> None: ...
    async def adopt(self, origins: Sequence[tuple[LedgerKey, Origin]], at: datetime) -> None: ...


class ApplicationStore(Protocol):
    async def all(self) -> dict[str, Application]: ...
    async def rows(self) -> Sequence[Row]: ...
    async def connection_of(self, application_id: str) -> Row: ...
    async def put(self, application: Application, config: Row, secret: bytes | None) -> None: ...
    async def discovered(
        self, application_id: str, capabilities: Iterable[Capability], at: datetime
    ) -> None: ...
    async def read_at(self, application_id: str, at: datetime, count: int) -> None: ...
    async def forget(self, application_id: str) -> None: ...
    async def trust(self, application_id: str, trust: Trust) -> None: ...
    async def problem(self, application_id: str, text: str) -> None: ...


class SeatStore(Protocol):
    async def pools(self) -> dict[tuple[str, str], Pool]: ...
    async def put(self, pool: Pool) -> None: ...
    async def claim(
        self, application_id: str, license: str, account_id: str, person_id: str, at: datetime
    ) -> int | None: ...
    async def rows(self) -> Sequence[Row]: ...
    async def holders(self, pool_id: str, cursor: str | None, limit: int) -> ListPage: ...
    async def held_by(self, person_ids: Sequence[str]) -> Sequence[Row]: ...
    async def reconcile(self, application_id: str, at: datetime) -> None: ...


class RuleStore(Protocol):
    async def current(self) -> tuple[int, Row]: ...
    async def adopt(self, document: Row, at: datetime, by: str, note: str) -> int: ...
    async def page(self, cursor: str | None, limit: int) -> ListPage: ...


class DecisionStore(Protocol):
    async def put(self, decision: Decision, at: datetime, docket_id: str | None) -> None: ...
    async def end(self, decision_id: str, at: datetime) -> Row: ...
    async def end_of_docket(self, docket_id: str, at: datetime) -> None: ...
    async def page(self, subject_id: str, cursor: str | None, limit: int) -> ListPage: ...


class PlanStore(Protocol):
    async def keep(self, drafts: Sequence[Draft]) -> None: ...
    async def batch(self, batch_id: str, *, whole: bool = True) -> Sequence[Row]: ...
    async def confirm(
        self, batch_id: str, *, now: datetime, reference: str, reason: str, undoes: str | None
    ) -> Sequence[Row]: ...


class DocketStore(Protocol):
    async def schedule(
        self, obligations: Sequence[Obligation], now: datetime, author: str
    ) -> None: ...
    async def due(
        self, subject_ids: Sequence[str], now: datetime
    ) -> Sequence[tuple[DocketRow, bool]]: ...
    async def begin(self, docket_ids: Sequence[str], now: datetime) -> None: ...
    async def replace_steps(
        self, docket_id: str, steps: Sequence[Row], document: Row, inputs: Row, digest: str
    ) -> None: ...
    async def supersede(self, subject_ids: Sequence[str], now: datetime) -> None: ...
    async def open_steps(self, subject_ids: Sequence[str]) -> Sequence[Step]: ...
    async def finish(self, subject_ids: Sequence[str], now: datetime) -> Sequence[DocketRow]: ...
    async def done_steps(self, docket_id: str) -> Sequence[DoneStep]: ...
    async def latest(self, subject_id: str, verb: str) -> DocketRow | None: ...
    async def by_name(self, name: str) -> DocketRow: ...
    async def page(
        self,
        *,
        state: str = "",
        verb: str = "",
        subject_id: str = "",
        batch_id: str = "",
        stuck: bool = False,
        cursor: str | None = None,
        limit: int = 50,
    ) -> ListPage: ...
    async def one(self, docket_id: str) -> Row: ...
    async def settle_step(self, step_id: str, how: str, note: str, at: datetime) -> Row: ...
    async def cancel(self, docket_id: str, now: datetime) -> None: ...
    async def cancel_scheduled(
        self, subject_ids: Sequence[str], verb: str, now: datetime
    ) -> None: ...
    async def drop(self, docket_ids: Sequence[str], now: datetime) -> None: ...
    async def note_cause(self, docket_id: str, cause: Row, verb: str) -> None: ...
    async def facts(self, docket_id: str) -> Sequence[Row]: ...


class ObligationStore(Protocol):
    async def replace(
        self, subject_ids: Sequence[str], obligations: Sequence[Obligation]
    ) -> None: ...
    async def due(self, now: datetime, limit: int) -> Sequence[Obligation]: ...
    async def settle(self, ids: Sequence[str], state: str) -> None: ...
    async def next_moment(self, after: datetime) -> datetime | None: ...
    async def of(self, subject_id: str) -> Sequence[Row]: ...
    async def page(
        self,
        *,
        kind: str = "",
        until: datetime | None = None,
        cursor: str | None = None,
        limit: int = 50,
    ) -> ListPage: ...


class LeaseStore(Protocol):
    async def make_subjects(self, subject_ids: Iterable[str]) -> None: ...
    async def wake(self, subject_ids: Iterable[str], *, priority: int) -> None: ...
    async def wake_due(self, now: datetime) -> int: ...
    async def claim(
        self, worker: str, limit: int, seconds: float, *, most_urgent: bool = False
    ) -> Sequence[Lease]: ...
    async def renew(
        self, worker: str, subject_ids: Iterable[str], seconds: float
    ) -> Sequence[Lease]: ...
    async def release(self, leases: Sequence[Lease]) -> None: ...
    async def recover(self) -> int: ...
    async def due_now(self) -> int: ...
    async def working(self) -> int: ...


class ReadingStore(Protocol):
    async def begin(self, row: Row) -> None: ...
    async def end(
        self, reading_id: str, state: str, counts: Mapping[str, int], problem: str, at: datetime
    ) -> None: ...
    async def page(self, application_id: str, cursor: str | None, limit: int) -> ListPage: ...
    async def last(self, application_id: str) -> Row | None: ...
    async def digests(
        self, application_id: str, external_ids: Sequence[str]
    ) -> Mapping[str, tuple[bytes | None, bool]]: ...
    async def known(
        self, application_id: str, external_ids: Sequence[str]
    ) -> Mapping[str, KnownAccount]: ...
    async def candidates(self, seen: Sequence[Observed]) -> Sequence[Candidate]: ...
    async def created_by_us(self, application_id: str, correlations: Sequence[str]) -> set[str]: ...
    async def store(
        self, application_id: str, accounts: Sequence[Sighting], at: datetime
    ) -> None: ...
    async def settle_statistics(self) -> None: ...
    async def deviate(self, rows: Sequence[Row]) -> None: ...
    async def propose(self, rows: Sequence[Row]) -> None: ...
    async def complain(
        self, application_id: str, records: Sequence[Unreadable], at: datetime
    ) -> None: ...
    async def forgive(self, application_id: str, external_ids: Sequence[str]) -> None: ...
    async def problems(self, application_id: str, cursor: str | None, limit: int) -> ListPage: ...
    async def in_use(self, application_id: str) -> int: ...
    async def rows_of(self, application_id: str) -> int: ...
    def all_keys(self, application_id: str) -> AsyncIterator[tuple[str, str, bool]]: ...
    async def vanished(
        self, application_id: str, account_ids: Sequence[str], at: datetime
    ) -> None: ...
    async def due(self, now: datetime) -> Sequence[str]: ...
    async def proposals(self, cursor: str | None, limit: int) -> ListPage: ...
    async def deviations(
        self, application_id: str, state: str, cursor: str | None, limit: int
    ) -> ListPage: ...
    async def deviation(self, deviation_id: str) -> Row: ...
    async def settle_deviation(
        self, deviation_id: str, state: str, by: str, docket_id: str | None
    ) -> None: ...
    async def decide(self, account_id: str, person_id: str | None, by: str) -> None: ...


class FindingStore(Protocol):
    async def page(
        self, now: datetime, *, kind: str, cursor: str | None, limit: int
    ) -> ListPage: ...
    async def counts(self, now: datetime) -> Mapping[str, tuple[int, int]]: ...


class TaskStore(Protocol):
    async def book(self, application_id: str, after: str, limit: int) -> Sequence[Observed]: ...
    async def entry(
        self, application_id: str, external_id: str, account_id: str, login: str
    ) -> Observed | None: ...
    async def write(self, application_id: str, entries: Iterable[Observed]) -> None: ...
    async def strike(self, application_id: str, external_id: str) -> None: ...
    async def open(
        self,
        *,
        application_id: str,
        account_id: str,
        external_id: str,
        login: str,
        action: str,
        item: str,
        arguments: Row,
        instructions: str,
        now: datetime,
        within: timedelta,
    ) -> str: ...
    async def one(self, task_id: str) -> Row: ...
    async def close(self, task_id: str, state: str, by: str, note: str, at: datetime) -> None: ...
    async def refuse_step(self, step_id: str, text: str, remedy: str) -> None: ...
    async def page(
        self, state: str, application_id: str, cursor: str | None, limit: int
    ) -> ListPage: ...
    async def press(self, now: datetime) -> Sequence[Row]: ...


class GateStore(Protocol):
    async def share(
        self, worker: str, application_ids: Sequence[str], seconds: float
    ) -> Mapping[str, Share]: ...
    async def leave(self, worker: str) -> None: ...
    async def pause(self, application_id: str, seconds: float) -> None: ...
    async def take_of_ceiling(self, application_id: str, ceiling: int) -> bool: ...
    async def stopped(self) -> Row | None: ...
    async def stop(self, author: str, reason: str) -> None: ...
    async def go_on(self) -> None: ...


class JournalStore(Protocol):
    async def write(
        self, entries: Sequence[Entry], events: Sequence[Event], at: datetime
    ) -> set[str]: ...


class CredentialStore(Protocol):
    async def link(self, account_id: str, link_hash: str, seconds: float) -> Row: ...
    async def open(self, link_hash: str, at: datetime) -> Row: ...


class AuditStore(Protocol):
    async def add(self, events: Sequence[Event]) -> None: ...
    async def unsealed(self, limit: int) -> Sequence[Row]: ...
    async def head(self) -> Row | None: ...
    async def seal(
        self,
        places: Sequence[tuple[str, int]],
        frontier: Frontier,
        root: bytes,
        signature: bytes,
    ) -> None: ...
    async def page(
        self,
        *,
        subject: str = "",
        docket_id: str = "",
        action: str = "",
        cursor: str | None = None,
        limit: int = 50,
    ) -> ListPage: ...
    def export(self) -> AsyncIterator[Row]: ...


class ClockStore(Protocol):
    async def read(self) -> tuple[bool, datetime | None]: ...
    async def set(self, moment: datetime) -> None: ...


class OperatorStore(Protocol):
    async def by_login(self, login: str) -> Row | None: ...
    async def get(self, operator_id: str) -> Row: ...
    async def page(self, cursor: str | None, limit: int) -> ListPage: ...
    async def put(self, row: Row) -> None: ...
    async def count(self) -> int: ...
    async def administrators(self) -> int: ...
    async def add_session(self, digest: str, operator_id: str, csrf: str, hours: float) -> None: ...
    async def session(self, digest: str) -> Row | None: ...
    async def end_session(self, digest: str) -> None: ...
    async def add_token(self, row: Row) -> None: ...
    async def token(self, digest: str) -> Row | None: ...
    async def tokens(self, operator_id: str) -> Sequence[Row]: ...
    async def revoke_token(self, operator_id: str, token_id: str) -> bool: ...
    async def add_link(self, digest: str, operator_id: str, hours: float) -> None: ...
    async def use_link(self, digest: str) -> Row | None: ...
    async def failures(self, key: str, minutes: float) -> tuple[int, float]: ...
    async def fail(self, key: str) -> None: ...
    async def forgive(self, key: str) -> None: ...


class IdempotencyStore(Protocol):
    async def begin(self, operator_id: str, key: str, fingerprint: str) -> Row | None: ...
    async def end(self, operator_id: str, key: str, status: int, reply: Any) -> None: ...
    async def drop(self, operator_id: str, key: str) -> None: ...


class ViewStore(Protocol):
    """Read models that no use case decides on."""

    async def installation(self) -> Row | None: ...
    async def found(self, organisation: str, prefix: str, zone: str, demo: bool) -> None: ...
    async def day(self, begin: datetime, now: datetime, until: datetime) -> Row: ...
    async def last_call(self, now: datetime, until: datetime) -> Sequence[Row]: ...
    async def counts(self, now: datetime) -> Row: ...
    async def ping(self) -> float: ...


class UnitOfWork(Protocol):
    """One transaction over all stores: committed at the end, rolled back on an error."""

    people: PeopleStore
    accounts: AccountStore
    applications: ApplicationStore
    seats: SeatStore
    rules: RuleStore
    decisions: DecisionStore
    plans: PlanStore
    dockets: DocketStore
    obligations: ObligationStore
    readings: ReadingStore
    findings: FindingStore
    tasks: TaskStore
    gates: GateStore
    leases: LeaseStore
    journal: JournalStore
    credentials: CredentialStore
    audit: AuditStore
    clock: ClockStore
    operators: OperatorStore
    idempotency: IdempotencyStore
    views: ViewStore

    async def hint(self) -> None:
        """Tell the workers, once this is committed, that something is due."""
        ...


class Database(Protocol):
    def unit(self) -> AbstractAsyncContextManager[UnitOfWork]: ...
    async def close(self) -> None: ...
