"""Operators, their sessions, tokens and one-time links, and failed sign-ins. Machine time."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol

from yugum.core.operators import OperatorRole
from yugum.ports.pages import ListPage


@dataclass(frozen=True, slots=True, kw_only=True)
class OperatorRecord:
    """Somebody who works with Yugum, as stored; ``person_id`` is who of the people it is."""

    id: str
    login: str
    name: str
    role: OperatorRole
    active: bool = True
    person_id: str | None = None
    password_hash: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class SessionRecord:
    """A console session that is good, with its operator."""

    operator: OperatorRecord
    csrf: str


@dataclass(frozen=True, slots=True, kw_only=True)
class TokenLine:
    """An API token in a list; without ``expires`` it is good until it is revoked."""

    id: str
    name: str
    scope: OperatorRole
    expires: datetime | None


@dataclass(frozen=True, slots=True, kw_only=True)
class TokenRecord(TokenLine):
    """A new token, stored by its hash."""

    hash: str
    operator_id: str


class OperatorStore(Protocol):
    async def by_login(self, login: str) -> OperatorRecord | None:
        """The operator of a login, ended ones included."""
        ...

    async def get(self, operator_id: str) -> OperatorRecord:
        """One operator.

        Raises:
            NotFound: there is none of that id.
        """
        ...

    async def page(self, cursor: str | None, limit: int) -> ListPage[OperatorRecord]:
        """Operators by login; what they sign in with is left out."""
        ...

    async def logins(self) -> frozenset[str]:
        """Every operator's login."""
        ...

    async def put(self, operator: OperatorRecord) -> None:
        """Store an operator, new or known by its id.

        Raises:
            Conflict: the login is another operator's.
        """
        ...

    async def count(self) -> int:
        """How many operators there are."""
        ...

    async def administrators(self) -> int:
        """How many active administrators there are."""
        ...

    async def end_access(self, person_ids: Sequence[str]) -> Sequence[OperatorRecord]:
        """End what some people can do here: operators, sessions, tokens; returns who it was."""
        ...

    async def add_session(self, digest: str, operator_id: str, csrf: str, hours: float) -> None:
        """A session, known by the digest of its cookie, for so many hours."""
        ...

    async def session(self, digest: str) -> SessionRecord | None:
        """The session of a cookie's digest, while it and its operator are good."""
        ...

    async def end_session(self, digest: str) -> None:
        """End a session."""
        ...

    async def add_token(self, token: TokenRecord) -> None:
        """Store a new API token."""
        ...

    async def token(self, digest: str) -> tuple[OperatorRecord, OperatorRole] | None:
        """The operator and the scope of a token, while both are good."""
        ...

    async def tokens(self, operator_id: str) -> Sequence[TokenLine]:
        """An operator's tokens, the oldest first."""
        ...

    async def revoke_token(self, operator_id: str, token_id: str) -> bool:
        """Revoke a token of an operator; False when there is no such token."""
        ...

    async def add_link(self, digest: str, operator_id: str, hours: float) -> None:
        """A one-time sign-in link for so many hours."""
        ...

    async def use_link(self, digest: str) -> OperatorRecord | None:
        """The operator a one-time link is for; with this it is used up."""
        ...

    async def failures(self, key: str, minutes: float) -> tuple[int, float]:
        """How often sign-in failed lately, and seconds until the oldest of these is forgotten."""
        ...

    async def fail(self, key: str) -> None:
        """Count a failed sign-in."""
        ...

    async def clear_failures(self, key: str) -> None:
        """Forget the failed sign-ins of a key."""
        ...
