"""For tests: a clock that stands still, and a connector that plays what it is told."""

from __future__ import annotations

from collections.abc import AsyncIterator, Sequence
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime, timedelta

from yugum.core.accounts import AccountState, Observed, Unreadable
from yugum.core.actions import NOTHING_DONE, Action, Arguments, Done
from yugum.core.applications import Capability
from yugum.core.invitations import duties_of, shown
from yugum.errors import ApplicationError, ApplicationRejected
from yugum.ports.applications import Connection
from yugum.ports.connectors import AccountRef, Discovery
from yugum.ports.units import UnitOfWork


@dataclass(slots=True)
class FixedClock:
    """Business time that only moves when it is set."""

    moment: datetime

    async def now(self, unit: UnitOfWork | None = None) -> datetime:
        return self.moment


NOT_HERE = frozenset({Capability.RUN, Capability.INVITE})
"""What the connector in memory has no way to show."""


@dataclass(slots=True)
class ScriptedConnector:
    """Shows ``pages`` and fails with ``error`` after them, if there is one."""

    pages: Sequence[Sequence[Observed | Unreadable]] = ()
    error: ApplicationError | None = None
    can: frozenset[Capability] = frozenset(Capability)
    acted: list[tuple[Action, str]] = field(default_factory=list)
    call_timeout: float = 5.0

    async def discover(self) -> Discovery:
        return Discovery(self.can)

    async def read(
        self, since: datetime | None = None
    ) -> AsyncIterator[Sequence[Observed | Unreadable]]:
        for page in self.pages:
            yield page
        if self.error is not None:
            raise self.error

    async def observe(self, ref: AccountRef, *, assets: bool = False) -> Observed | None:
        rows = (r for page in self.pages for r in page if isinstance(r, Observed))
        return next((r for r in rows if r.external_id == ref.external_id), None)

    async def act(
        self,
        action: Action,
        ref: AccountRef,
        item: str,
        arguments: Arguments,
        secret: str = "",
    ) -> Done:
        self.acted.append((action, item))
        return NOTHING_DONE

    async def close(self) -> None:
        return None


@dataclass(slots=True)
class OneConnector:
    """The same connector for every application."""

    connector: ScriptedConnector

    async def of(self, application_id: str) -> ScriptedConnector:
        return self.connector

    def trial(self, connection: Connection) -> ScriptedConnector:
        return self.connector

    def kinds(self) -> list[str]:
        return ["scripted"]

    def forget(self, application_id: str) -> None:
        return None


class MemoryConnector:
    """A small application in memory that does everything right: where to begin a new connector."""

    call_timeout = 5.0
    GROUPS = ("Staff", "Night duty")
    LICENSE = "Planner"

    def __init__(self) -> None:
        self.rows: dict[str, Observed] = {}

    async def close(self) -> None:
        return None

    async def discover(self) -> Discovery:
        return Discovery(frozenset(Capability) - NOT_HERE, {self.LICENSE: 100})

    async def read(
        self, since: datetime | None = None
    ) -> AsyncIterator[Sequence[Observed | Unreadable]]:
        yield list(self.rows.values())

    async def observe(self, ref: AccountRef, *, assets: bool = False) -> Observed | None:
        if ref.external_id:
            return self.rows.get(ref.external_id)
        rows = self.rows.values()
        ours = (r for r in rows if r.correlation == ref.account_id or r.login == ref.login)
        return next(ours, None)

    async def act(
        self,
        action: Action,
        ref: AccountRef,
        item: str,
        arguments: Arguments,
        secret: str = "",
    ) -> Done:
        if action is Action.CREATE:
            made = self.create(ref, arguments.login)
            if arguments.closed:
                key = made.external_id
                self.rows[key] = self.changed(self.rows[key], Action.CUT_OFF, "")
            return made
        row = self.rows.get(ref.external_id)
        if row is None:
            return NOTHING_DONE
        if action is Action.PURGE:
            del self.rows[ref.external_id]
            return NOTHING_DONE
        if action is Action.REQUIRE:
            asked = {item} if arguments.value else set()
            duties = {*duties_of(row)} - {item} | asked
            self.rows[ref.external_id] = replace(row, settings=shown(None, duties))
            return NOTHING_DONE
        self.rows[ref.external_id] = self.changed(row, action, item)
        return NOTHING_DONE

    def create(self, ref: AccountRef, login: str) -> Done:
        if any(r.login == login for r in self.rows.values()):
            raise ApplicationRejected(f"{login} is taken.", remedy="Choose another login.")
        key = f"m{len(self.rows) + 1}"
        self.rows[key] = Observed(
            external_id=key,
            login=login,
            state=AccountState.ACTIVE,
            seats=frozenset(),
            sessions=1,
            devices=1,
            correlation=ref.account_id,
        )
        return Done(external_id=key, login=login)

    def changed(  # noqa: C901, PLR0912 - a case for each action
        self, row: Observed, action: Action, item: str
    ) -> Observed:
        seats = row.seats or frozenset()
        match action:
            case Action.CUT_OFF:
                return replace(row, state=AccountState.SUSPENDED, sessions=0, keys=0)
            case Action.LOCK:
                return replace(row, sessions=0, keys=0)
            case Action.END_DEVICES:
                return replace(row, devices=0)
            case Action.RESUME:
                return replace(row, state=AccountState.ACTIVE)
            case Action.GRANT if item not in self.GROUPS:
                raise ApplicationRejected(f"There is no group {item}.")
            case Action.GRANT:
                return replace(row, entitlements=row.entitlements | {item})
            case Action.REVOKE:
                return replace(row, entitlements=row.entitlements - {item})
            case Action.TAKE_SEAT:
                return replace(row, seats=seats | {item})
            case Action.FREE_SEAT:
                return replace(row, seats=seats - {item})
            case Action.RENAME:
                return replace(row, login=item)
            case Action.DELETE:
                until = datetime.now(UTC) + timedelta(days=30)
                return replace(row, state=AccountState.DELETED, recoverable_until=until)
            case Action.RESTORE:
                return replace(row, state=AccountState.SUSPENDED, recoverable_until=None)
            case _:
                return row
