"""Accounts: one lifecycle over all applications, and what is seen of an account."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime
from enum import StrEnum


class AccountState(StrEnum):
    ACTIVE = "active"
    SUSPENDED = "suspended"
    ARCHIVED = "archived"
    DELETED = "deleted"
    PURGED = "purged"


class AccountKind(StrEnum):
    PERSON = "person"
    SHARED = "shared"
    SERVICE = "service"
    GROUP = "group"


class HoldingKind(StrEnum):
    """What a role or a decision can give in an application; the account itself is one."""

    ACCOUNT = "account"
    ENTITLEMENT = "entitlement"
    SEAT = "seat"
    SETTING = "setting"


MOVES: dict[AccountState, frozenset[AccountState]] = {
    AccountState.ACTIVE: frozenset(
        {AccountState.SUSPENDED, AccountState.ARCHIVED, AccountState.DELETED}
    ),
    AccountState.SUSPENDED: frozenset(
        {AccountState.ACTIVE, AccountState.ARCHIVED, AccountState.DELETED}
    ),
    AccountState.ARCHIVED: frozenset({AccountState.SUSPENDED, AccountState.DELETED}),
    # A restored account comes back suspended; who brings it back resumes it in a step of its own.
    AccountState.DELETED: frozenset({AccountState.SUSPENDED, AccountState.PURGED}),
    AccountState.PURGED: frozenset(),
}
"""From which state an account can go where; a purged one never comes back."""


@dataclass(frozen=True, slots=True)
class Asset:
    """A thing an account owns; ``container`` is the database, folder or calendar it lies in."""

    kind: str
    external_id: str
    name: str
    container: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Observed:
    """What an application showed of one account, at one moment.

    ``entitlements`` and ``seats`` hold the application's own names. ``seats`` is None where the
    application knows none (they are Yugum's own bookkeeping), ``assets`` where they were not
    asked for; both differ from holding nothing. ``settings`` are values by name (container,
    hidden, manager…), as far as the application has them. ``devices`` are those on which somebody is
    trusted without being asked for a second proof. ``mentions`` are texts of places by their keys, where some
    were asked for.
    """

    external_id: str
    login: str
    state: AccountState
    entitlements: frozenset[str] = frozenset()
    seats: frozenset[str] | None = None
    sessions: int = 0
    keys: int = 0
    devices: int = 0
    recoverable_until: datetime | None = None
    correlation: str = ""
    assets: tuple[Asset, ...] | None = None
    settings: Mapping[str, str] = field(default_factory=dict)
    display_name: str = ""
    employee_number: str = ""
    mail: str = ""
    kind: AccountKind = AccountKind.PERSON
    last_used: datetime | None = None
    mentions: Mapping[str, str] | None = None


@dataclass(frozen=True, slots=True)
class Unreadable:
    """A record of an application that could not be understood, and why."""

    external_id: str
    login: str
    reason: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Account:
    """An account as last seen; ``seen_at`` says when. ``rev`` counts its changes.

    ``restored_at`` is when it last came back from being deleted.
    """

    id: str
    application_id: str
    person_id: str | None
    kind: AccountKind = AccountKind.PERSON
    login: str = ""
    external_id: str = ""
    state: AccountState = AccountState.ACTIVE
    entitlements: frozenset[str] = frozenset()
    seats: frozenset[str] = frozenset()
    sessions: int = 0
    keys: int = 0
    recoverable_until: datetime | None = None
    restored_at: datetime | None = None
    settings: Mapping[str, str] = field(default_factory=dict)
    seen_at: datetime | None = None
    rev: int = 0
    assets: tuple[Asset, ...] = field(default=())


def is_open(account: Account | Observed) -> bool:
    """Whether somebody could get in by it."""
    return account.state is AccountState.ACTIVE or account.sessions > 0 or account.keys > 0
