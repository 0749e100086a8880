"""Initial credentials: encrypted, shown once through a link, then erased."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol


@dataclass(frozen=True, slots=True, kw_only=True)
class UntoldCredential:
    """A credential that nobody was told of yet."""

    id: str
    account_id: str
    docket_id: str | None
    person_id: str | None
    login: str
    application_name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class LinkedAccount:
    """The account behind a link that still opens something."""

    account_id: str
    login: str
    application_id: str
    application_name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class CredentialLine:
    """The newest credential of an account: when set, told to whom, opened, still to be fetched.

    ``expired`` is None where there is no link.
    """

    account_id: str
    set_at: datetime
    told_at: datetime | None
    told_to: str
    told_how: str
    opened_at: datetime | None
    unopened: bool
    expired: bool | None


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenedCredential:
    """What was behind a link, encrypted; with this it is used up and erased."""

    cipher: bytes
    account_id: str
    login: str
    application_name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class TakenCredential:
    """An account's newest credential, encrypted, that was unopened; with this it is erased."""

    account_id: str
    cipher: bytes


class CredentialStore(Protocol):
    async def link(self, account_id: str, link_hash: str, seconds: float) -> None:
        """Put a new one-time link on the newest unopened credential; an earlier link ends.

        Raises:
            Conflict: none is kept unopened.
        """
        ...

    async def must_be_unopened(self, account_id: str) -> None:
        """Make sure that a link could be made.

        Raises:
            Conflict: none is kept unopened.
        """
        ...

    async def link_one(self, credential_id: str, link_hash: str, seconds: float) -> None:
        """Put a one-time link on one credential, good for ``seconds`` of machine time."""
        ...

    async def untold(self, limit: int) -> Sequence[UntoldCredential]:
        """Credentials nobody was told of yet, locked for this transaction.

        One that somebody has handed a link to is left alone while that link opens it: a new one
        would put it out of use.
        """
        ...

    async def told(self, credential_id: str, at: datetime, to: str, how: str) -> None:
        """Write down who was told of a credential, and how."""
        ...

    async def behind(self, link_hash: str) -> LinkedAccount:
        """The account behind a link that still opens something.

        Raises:
            NotFound: it was used, or has expired.
        """
        ...

    async def of(self, account_ids: Sequence[str]) -> Sequence[CredentialLine]:
        """The newest credential of each account."""
        ...

    async def open(self, link_hash: str, at: datetime) -> OpenedCredential:
        """The encrypted credential behind a link, which with this is used up and erased.

        Raises:
            NotFound: it was used, or has expired.
        """
        ...

    async def take(
        self, account_ids: Sequence[str], subject_ids: Sequence[str], at: datetime
    ) -> Sequence[TakenCredential]:
        """The unopened credentials of some subjects' accounts, which with this are used up and erased.

        One that a docket is about to replace stays: it would be good for nothing.
        """
        ...
