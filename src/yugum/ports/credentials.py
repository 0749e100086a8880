"""Initial credentials: encrypted, shown once through a link, then erased."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol


@dataclass(frozen=True, slots=True, kw_only=True)
class UntoldCredential:
    """A credential that nobody was told of yet; of a ``place`` it is a key, for its ``contact``."""

    id: str
    account_id: str
    docket_id: str | None
    place: str
    contact: str
    until: str
    person_id: str | None
    login: str
    application_name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class LinkedAccount:
    """The account behind a link that still opens something; with a ``place`` it is the key of that."""

    account_id: str
    place: str
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
    place: str
    login: str
    application_name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ReplacedKey:
    """A key that took the place of one of somebody's: whose it is, who got it, until when the old one goes on (ISO 8601)."""

    id: str
    application_id: str
    place: str
    to_name: str
    login: str
    until: str
    set_at: datetime
    told_at: datetime | None
    contact: str
    told_to: str
    opened_at: datetime | None
    unopened: bool


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

    async def keys(self, account_ids: Sequence[str]) -> Sequence[ReplacedKey]:
        """Keys that took the place of ones of some accounts, the newest first; at most 200."""
        ...

    async def tell_anew(self, credential_id: str, account_ids: Sequence[str]) -> None:
        """Have a key that nobody has opened told of once more, by a link of its own.

        Raises:
            NotFound: none such took the place of one of these accounts.
        """
        ...

    async def take(
        self, account_ids: Sequence[str], subject_ids: Sequence[str], at: datetime
    ) -> Sequence[TakenCredential]:
        """The unopened credentials of some subjects' accounts, which with this are used up and erased.

        One that a docket is about to replace stays: it would be good for nothing.
        """
        ...
