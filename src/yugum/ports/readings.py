"""Readings: what they compare with and what they store."""

from __future__ import annotations

from collections.abc import AsyncIterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Protocol

from yugum.core.accounts import Account, AccountKind, AccountState, Observed, Unreadable
from yugum.core.matching import Candidate
from yugum.core.people import Person
from yugum.core.readings import KnownKey, ReadingMode, ReadingState
from yugum.ports.pages import ListPage


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading:
    """One reading of an application; its moments are machine time."""

    id: str
    application_id: str
    mode: ReadingMode
    state: ReadingState
    author: str
    began_at: datetime
    ended_at: datetime | None = None
    counts: Mapping[str, int]
    problem: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class UnreadableLine:
    """A record that could not be understood, and why."""

    external_id: str
    login: str
    reason: str
    at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class KnownAccount:
    """What a reading compares an account with; ``busy`` while a docket of its person runs."""

    id: str
    person_id: str | None
    kind: AccountKind
    state: AccountState
    entitlements: frozenset[str]
    seats: frozenset[str]
    settings: Mapping[str, str]
    digest: bytes | None
    busy: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Sighting:
    """An account as a reading stores it."""

    id: str
    person_id: str | None
    kind: AccountKind
    seen: Observed
    digest: bytes
    new: bool = False


class ReadingStore(Protocol):
    async def begin(self, reading: Reading) -> None:
        """Write down that a reading is under way."""
        ...

    async def goes_on(self, reading_id: str) -> None:
        """Its process is alive."""
        ...

    async def end_dead(self, silent: timedelta) -> None:
        """End as failed what runs and has said nothing for so long."""
        ...

    async def end(
        self,
        reading_id: str,
        state: ReadingState,
        counts: Mapping[str, int],
        problem: str,
        at: datetime,
    ) -> None:
        """Write down how a reading ended; ``at`` is machine time."""
        ...

    async def page(self, application_id: str, cursor: str | None, limit: int) -> ListPage[Reading]:
        """The readings of an application, the latest first."""
        ...

    async def last(self, application_id: str) -> Reading | None:
        """The last reading that was carried through."""
        ...

    async def digests(
        self, application_id: str, external_ids: Sequence[str]
    ) -> Mapping[str, tuple[bytes | None, bool]]:
        """Of accounts that are known: their digest, and whether somebody is behind them."""
        ...

    async def known(
        self, application_id: str, external_ids: Sequence[str]
    ) -> Mapping[str, KnownAccount]:
        """What is known of accounts, by the application's id."""
        ...

    async def candidates(self, seen: Sequence[Observed]) -> Sequence[Candidate]:
        """The people any of these accounts could belong to."""
        ...

    async def unlinked(self, people: Sequence[Person]) -> Sequence[tuple[Account, Observed]]:
        """Accounts that are nobody's and could be one of these people's, as last seen."""
        ...

    async def created_by_us(self, application_id: str, correlations: Sequence[str]) -> set[str]:
        """Which of these are ids that a docket of ours meant for an account there."""
        ...

    async def store(self, application_id: str, accounts: Sequence[Sighting], at: datetime) -> None:
        """Store new and changed accounts with what they own and their history."""
        ...

    async def settle_statistics(self) -> None:
        """After very many new rows, let the planner of the database hear of them at once."""
        ...

    async def keep_unreadable(
        self, application_id: str, records: Sequence[Unreadable], at: datetime
    ) -> None:
        """Keep the records that could not be understood, each with its reason."""
        ...

    async def clear_unreadable(self, application_id: str, external_ids: Sequence[str]) -> None:
        """Records that are understood now are no problem any more."""
        ...

    async def is_unreadable(self, application_id: str, external_id: str) -> bool:
        """Whether a record of that id could not be understood."""
        ...

    async def unreadable(
        self, application_id: str, cursor: str | None, limit: int
    ) -> ListPage[UnreadableLine]:
        """The records that could not be understood, by login."""
        ...

    async def in_use(self, application_id: str) -> int:
        """How many accounts are not purged."""
        ...

    async def any_known(self, application_id: str) -> bool:
        """Whether there is any account at all, a purged one included."""
        ...

    def all_keys(self, application_id: str) -> AsyncIterator[KnownKey]:
        """Every account that is not purged, streamed."""
        ...

    async def vanished(self, application_id: str, account_ids: Sequence[str], at: datetime) -> None:
        """Purge accounts an application no longer has; somebody has to say whether that is right."""
        ...

    async def due(self, now: datetime) -> Sequence[str]:
        """The applications to be read now, claimed so that one worker reads each."""
        ...
