"""Connectors: what speaks to one application."""

from __future__ import annotations

from collections.abc import AsyncIterator, Collection, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING, Protocol, runtime_checkable

from yugum.core.accounts import AccountKind, Observed, Unreadable
from yugum.core.actions import Action, Arguments, Done
from yugum.core.applications import Capability
from yugum.core.attributes import Shape
from yugum.core.mentions import Mention
from yugum.ports.applications import Connection

if TYPE_CHECKING:
    from yugum.ports.units import Database


@dataclass(frozen=True, slots=True)
class AccountRef:
    """How to find an account, or a group: by the application's id, else by our correlation id or the login."""

    account_id: str
    external_id: str
    login: str
    kind: AccountKind = AccountKind.PERSON


@dataclass(frozen=True, slots=True, kw_only=True)
class ConnectorSpec:
    """What a connector is made of: an application's record with its secret opened.

    ``database`` is Yugum's own, for connectors that keep their book there, ``scripts`` the folder
    from which local programs may be run, ``timeout`` a call's in seconds. An entry point of the group
    ``yugum.connectors`` is a function of this that returns a Connector.
    """

    name: str
    application_id: str = ""
    url: str = ""
    secret: str = ""
    database: Database | None = None
    options: Mapping[str, str] = field(default_factory=dict)
    scripts: Path | None = None
    timeout: float = 8.0
    connections: int = 16


@dataclass(frozen=True, slots=True)
class Discovery:
    """What an application says it can do. ``licenses`` maps a name to the seats bought.

    ``attributes`` are those its accounts have and that can be written, by the names with which they
    stand among an account's settings; ``groups`` what can be said of groups, where these can be made and
    changed: by the same names.
    """

    capabilities: frozenset[Capability]
    licenses: Mapping[str, int] = field(default_factory=dict)
    attributes: Mapping[str, Shape] = field(default_factory=dict)
    groups: Mapping[str, Shape] = field(default_factory=dict)


class Connector(Protocol):
    """Speaks to one application. Every call may raise an ``errors.ApplicationError``."""

    call_timeout: float
    """Seconds after which a call has ended, one way or the other."""

    async def discover(self) -> Discovery:
        """The application's capabilities and licenses."""
        ...

    def read(self, since: datetime | None = None) -> AsyncIterator[Sequence[Observed | Unreadable]]:
        """Every account with what it owns, page by page, and every group that can be changed.

        With ``since``, where the application can tell, only what has changed after that machine
        time; where it cannot, every account.
        """
        ...

    async def observe(self, ref: AccountRef, *, assets: bool = False) -> Observed | None:
        """The account as it is now; None when the application has none."""
        ...

    async def act(
        self, action: Action, ref: AccountRef, item: str, arguments: Arguments, secret: str = ""
    ) -> Done:
        """Carry out one action; returns what was done, without secrets."""
        ...

    async def close(self) -> None:
        """Let go of connections."""
        ...


@runtime_checkable
class Nesting(Protocol):
    """What a connector offers beside `Connector` when its application has groups inside groups."""

    async def nesting(self) -> Mapping[str, Sequence[str]]:
        """Each group that is inside others, with those; by name, direct ones only."""
        ...


@runtime_checkable
class Offering(Protocol):
    """What a connector offers beside `Connector` when its application says which groups there are."""

    async def entitlements(self) -> Collection[str]:
        """What can be granted there, by name, also what nobody holds."""
        ...


@runtime_checkable
class Mentioning(Protocol):
    """What a connector offers beside `Connector` when its application shows where it names people."""

    def mentions(self, names: Collection[str] = ()) -> AsyncIterator[Sequence[Mention]]:
        """Places, page by page: with ``names`` (folded) only those that may hold one of them."""
        ...

    async def mention(self, key: str) -> Mention | None:
        """One place as it is now; None when it is not there."""
        ...


class Connectors(Protocol):
    """The connectors of all applications, opened when first needed."""

    async def of(self, application_id: str) -> Connector:
        """The connector of an application.

        Raises:
            NotFound: there is no such application.
            InvalidInput: no connector of its kind is installed.
        """
        ...

    def trial(self, connection: Connection) -> Connector:
        """A connector opened as was said, kept by nobody; whoever asked for it closes it."""
        ...

    def kinds(self) -> list[str]:
        """The kinds of application for which a connector is installed."""
        ...

    def forget(self, application_id: str) -> None:
        """Look up at the next use how an application is reached."""
        ...
