"""Accounts as last seen, why they hold what they hold, and what they held before."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol

from yugum.core.accounts import Account, AccountKind, AccountState
from yugum.core.alike import Shown
from yugum.core.applications import Duty
from yugum.core.decisions import Decision, LedgerKey, Origin
from yugum.core.invitations import ToDo
from yugum.core.lifeline import HistoryEntry
from yugum.core.lists import AccountSort, Order
from yugum.core.people import Person
from yugum.ports.pages import ListPage


@dataclass(frozen=True, slots=True, kw_only=True)
class Known:
    """Everything stored about some subjects, loaded in a handful of statements.

    An account that is nobody's stands among the people as if it were one; ``nobody`` names those.
    ``disputed`` are attributes (account, name) changed outside about which nobody has decided yet.
    """

    people: Mapping[str, Person]
    revisions: Mapping[str, int]
    accounts: Mapping[str, Sequence[Account]]
    nobody: frozenset[str]
    ledger: Mapping[LedgerKey, Origin]
    decisions: Mapping[str, Sequence[Decision]]
    disputed: frozenset[tuple[str, str]] = frozenset()


@dataclass(frozen=True, slots=True, kw_only=True)
class AccountLine:
    """An account in a list; one that is ``locked`` lets nobody in and takes mail.

    ``invited_at`` is since when an invitation is open, ``duties`` are those of the first sign-in not done.
    """

    id: str
    application_id: str
    application_name: str
    person_id: str | None
    person_name: str | None
    kind: AccountKind
    login: str
    external_id: str
    state: AccountState
    locked: bool
    invited_at: datetime | None
    duties: Sequence[Duty]
    entitlements: Sequence[str]
    seats: Sequence[str]
    sessions: int
    keys: int
    settings: Mapping[str, str]
    recoverable_until: datetime | None
    last_used: datetime | None
    seen_at: datetime | None


@dataclass(frozen=True, slots=True, kw_only=True)
class ChosenAccounts:
    """Which accounts, and in what order; ``query`` is what the login begins with."""

    application: str = ""
    state: AccountState | None = None
    kind: AccountKind | None = None
    to_do: ToDo | None = None
    person_id: str = ""
    query: str = ""
    sort: AccountSort = AccountSort.APPLICATION
    order: Order = Order.ASCENDING


class AccountStore(Protocol):
    async def last_used(self, account_ids: Sequence[str]) -> Mapping[str, datetime]:
        """When accounts were last used, as far as their applications tell."""
        ...

    async def known(self, person_ids: Sequence[str]) -> Known:
        """All that is stored about some subjects, in six statements whatever their number."""
        ...

    async def in_use(self, person_ids: Sequence[str]) -> Mapping[str, Sequence[Account]]:
        """The accounts of some people that are not gone, without what they hold, by person."""
        ...

    async def shown_by(
        self, person_ids: Sequence[str], application_ids: Sequence[str]
    ) -> Mapping[str, Sequence[Shown]]:
        """What the accounts of some people in some applications say of them, by person; not those gone."""
        ...

    async def refresh(self, accounts: Sequence[Account], at: datetime) -> None:
        """Store what was just seen of known accounts, with what they own."""
        ...

    async def get(self, account_id: str) -> Account:
        """One account, without what it owns.

        Raises:
            NotFound: there is none of that id.
        """
        ...

    async def namesakes(self, account_ids: Sequence[str]) -> Mapping[str, tuple[str, str]]:
        """Whose login another account in use has in the same application: the login, and who has it."""
        ...

    async def some(self, account_ids: Iterable[str]) -> dict[str, Account]:
        """Accounts by id, without what they own; those that do not exist yet are left out."""
        ...

    async def page(
        self,
        chosen: ChosenAccounts,
        cursor: str | None = None,
        limit: int = 50,
    ) -> ListPage[AccountLine]:
        """Accounts as chosen; groups have a list of their own."""
        ...

    async def history(self, account_ids: Sequence[str]) -> Sequence[HistoryEntry]:
        """What accounts were and held, in the order in which it began."""
        ...

    async def others_in(
        self,
        groups: Mapping[str, str],
        levels: Sequence[tuple[str, str, str]],
        person_ids: Sequence[str],
    ) -> Mapping[str, int]:
        """How many open accounts of others hold a group or a level, by application.

        ``levels`` are applications, the setting that holds the level, and the level.
        """
        ...

    async def be_of_kind(self, account_id: str, kind: AccountKind) -> None:
        """Say whose kind of account it is."""
        ...

    async def set_seats(self, seats: Mapping[str, Iterable[str]]) -> None:
        """Set the seats that Yugum keeps the books of, by account."""
        ...

    async def adopt(self, origins: Sequence[tuple[LedgerKey, Origin]], at: datetime) -> None:
        """Write origins of things found that a rule would give anyway; known ones stay."""
        ...
