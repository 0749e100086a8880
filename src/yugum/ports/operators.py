"""Operators, their sessions, tokens and one-time links, and failed sign-ins. Machine time."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol

from yugum.core.operators import OperatorRole
from yugum.ports.pages import ListPage


@dataclass(frozen=True, slots=True, kw_only=True)
class OperatorRecord:
    """Somebody who works with Yugum, as stored; ``person_id`` is who of the people it is.

    With an ``owner_id`` it is an integration: a program that an operator answers for.
    """

    id: str
    login: str
    name: str
    role: OperatorRole
    active: bool = True
    person_id: str | None = None
    password_hash: str | None = None
    owner_id: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Integration:
    """A program that works with Yugum, and the login of who answers for it."""

    id: str
    login: str
    name: str
    role: OperatorRole
    active: bool
    owner: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ChosenOperators:
    """Which of them: ``query`` is any part of a login or name in any case, ``owner`` a login."""

    query: str = ""
    role: OperatorRole | None = None
    active: bool | None = None
    owner: str = ""


ALL = ChosenOperators()


@dataclass(frozen=True, slots=True, kw_only=True)
class SessionRecord:
    """A console session that is good, with its operator; ``by_link`` where a one-time link began it."""

    operator: OperatorRecord
    csrf: str
    by_link: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class TokenOf:
    """Whose a token is that is good."""

    id: str
    operator: OperatorRecord
    scope: OperatorRole


@dataclass(frozen=True, slots=True)
class Attempt:
    """A sign-in that was counted: ``ids`` of what counts it, or the seconds until one may be made."""

    ids: Sequence[int] = ()
    wait: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class TokenLine:
    """An API token in a list; without ``expires`` it is good until it is revoked.

    ``of`` is the login of whose it is.
    """

    id: str
    name: str
    scope: OperatorRole
    expires: datetime | None
    of: str


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

    async def page(
        self, cursor: str | None, limit: int, chosen: ChosenOperators = ALL
    ) -> ListPage[OperatorRecord]:
        """Operators by login; what they sign in with is left out."""
        ...

    async def integrations(
        self, cursor: str | None, limit: int, chosen: ChosenOperators
    ) -> ListPage[Integration]:
        """Integrations by login."""
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

    async def administrators(self) -> Sequence[OperatorRecord]:
        """The active administrators who are somebody, the oldest first."""
        ...

    async def of_people(self, person_ids: Sequence[str]) -> Sequence[OperatorRecord]:
        """The active operators that some people are."""
        ...

    async def disable(self, operator_ids: Sequence[str]) -> None:
        """End what operators can do here, for good: sessions, tokens and links are gone."""
        ...

    async def owned(self, owner_ids: Sequence[str]) -> Sequence[OperatorRecord]:
        """The active integrations that some operators answer for."""
        ...

    async def pass_on(self, integration_id: str, owner_id: str) -> None:
        """Another operator answers for an integration from now on."""
        ...

    async def add_session(
        self, digest: str, operator_id: str, csrf: str, hours: float, *, by_link: bool
    ) -> None:
        """A session, known by the digest of its cookie, for so many hours."""
        ...

    async def session(self, digest: str) -> SessionRecord | None:
        """The session of a cookie's digest, while it and its operator are good."""
        ...

    async def end_session(self, digest: str) -> None:
        """End a session."""
        ...

    async def end_others(self, operator_id: str, csrf: str) -> int:
        """End an operator's sessions but the one with this CSRF token; how many there were."""
        ...

    async def add_token(self, token: TokenRecord) -> None:
        """Store a new API token."""
        ...

    async def token(self, digest: str) -> TokenOf | None:
        """Whose a token is, while it and its operator are good."""
        ...

    async def roles(self, keys: Sequence[str]) -> Mapping[str, OperatorRole]:
        """As what sessions (by their CSRF token) and tokens (by their id) count now; none for the ended."""
        ...

    async def tokens(
        self, operator_ids: Sequence[str], cursor: str | None, limit: int
    ) -> ListPage[TokenLine]:
        """The tokens of some operators, the oldest first."""
        ...

    async def revoke_token(self, operator_ids: Sequence[str], token_id: str) -> bool:
        """Revoke a token of one of some operators; False when there is no such token."""
        ...

    async def add_link(self, digest: str, operator_id: str, hours: float) -> None:
        """A one-time sign-in link for so many hours; earlier ones of the operator end."""
        ...

    async def use_link(self, digest: str) -> OperatorRecord | None:
        """The operator a one-time link is for; with this it is used up."""
        ...

    async def attempt(self, limits: Mapping[str, int], minutes: float) -> Attempt:
        """Count a sign-in under each key before it is tried, unless one has had as many as it may."""
        ...

    async def forget(self, attempt_ids: Sequence[int], key: str) -> None:
        """Forget an attempt that succeeded, and all others under a key."""
        ...

    async def forget_old(self, minutes: float) -> None:
        """Forget attempts that do not count any more."""
        ...
