"""Applications, their profiles and how they are reached."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import Protocol

from yugum.core.accounts import AccountState, HoldingKind
from yugum.core.applications import Application, Capability, Profile, Trust
from yugum.core.attributes import Shape
from yugum.core.disconnecting import Tied
from yugum.ports.pages import ListPage


@dataclass(frozen=True, slots=True, kw_only=True)
class Access:
    """How an application is reached, without its secret.

    ``address`` is what is shown where ``url`` says nothing, ``credential_ends`` when what Yugum signs
    in with runs out. Option ``through`` names the sign-on through which alone it is reached.
    """

    url: str = ""
    options: Mapping[str, str] = field(default_factory=dict)
    address: str = ""
    credential_ends: datetime | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Connection:
    """What a connector is opened with; ``secret`` is encrypted."""

    id: str
    name: str
    kind: str
    access: Access
    secret: bytes | None


@dataclass(frozen=True, slots=True, kw_only=True)
class ApplicationLine:
    """An application in a list. ``covered``: whether Yugum cuts off the sign-on ``through``.

    ``taken_this_hour`` counts the steps that took something away, cut-offs apart, since the hour began; they are
    counted where there is a ceiling.
    """

    id: str
    name: str
    kind: str
    profile: Profile
    contact: str
    owner: str
    capabilities: Sequence[Capability]
    attributes: Mapping[str, Shape]
    groups: Mapping[str, Shape]
    seen_at: datetime | None
    reading_at: datetime | None
    problem: str
    trust: Trust
    credential_ends: datetime | None
    paused_until: datetime | None
    taken_this_hour: int
    address: str
    through: str
    covered: bool | None
    accounts: int
    active: int


@dataclass(frozen=True, slots=True, kw_only=True)
class DisconnectedLine:
    """An application that is not connected any more, with how many accounts are kept of it."""

    id: str
    name: str
    kind: str
    disconnected_at: datetime
    archived: int


@dataclass(frozen=True, slots=True, kw_only=True)
class ArchivedAccount:
    """An account as it was when its application was disconnected."""

    id: str
    login: str
    display_name: str
    person_id: str | None
    person: str | None
    state: AccountState
    entitlements: Sequence[str]
    seats: Sequence[str]
    last_used: datetime | None
    seen_at: datetime | None


class ApplicationStore(Protocol):
    async def all(self) -> dict[str, Application]:
        """Every application by id; an organisation has tens of them, so this is no page."""
        ...

    async def names_held(self, application_id: str, kind: HoldingKind) -> Sequence[str]:
        """What accounts of an application hold of a kind, each name once."""
        ...

    async def lines(self) -> Sequence[ApplicationLine]:
        """Every application by name, with how many accounts it has."""
        ...

    async def connection_of(self, application_id: str) -> Connection:
        """How an application is reached.

        Raises:
            NotFound: there is none of that id.
        """
        ...

    async def put(self, application: Application, access: Access, secret: bytes | None) -> None:
        """Store an application, new or known; without a secret the one before stays."""
        ...

    async def discovered(
        self,
        application_id: str,
        capabilities: Iterable[Capability],
        attributes: Mapping[str, Shape],
        groups: Mapping[str, Shape],
        at: datetime,
    ) -> None:
        """Keep what an application has just said that it can do."""
        ...

    async def read_at(self, application_id: str, at: datetime, count: int) -> None:
        """Keep when it was read completely, and how many accounts were in use."""
        ...

    async def trust(self, application_id: str, trust: Trust) -> None:
        """Keep what Yugum may do there."""
        ...

    async def change_profile(self, application_id: str, profile: Profile) -> None:
        """Store another profile."""
        ...

    async def nest(self, application_id: str, nested: Mapping[str, Sequence[str]]) -> None:
        """Keep which of its groups are inside which others."""
        ...

    async def problem(self, application_id: str, text: str) -> None:
        """Keep why it does not answer as it should."""
        ...

    async def tied(self, application_id: str, now: datetime) -> Tied:
        """What hangs on it."""
        ...

    async def hold_still(self, application_id: str) -> tuple[str, bool]:
        """Its name and whether it is connected; nobody else takes in or changes anything of it now.

        Raises:
            NotFound: there has never been one of that id.
        """
        ...

    async def earlier(self, application_id: str) -> Application | None:
        """One that is not connected any more, as it was kept; only watched."""
        ...

    async def stays(self, application_id: str) -> None:
        """It is not disconnected as long as this transaction lasts.

        Raises:
            NotFound: it has been.
        """
        ...

    async def disconnect(self, application_id: str, now: datetime, *, erase: bool) -> Sequence[str]:
        """Take leave of it, keeping or erasing its accounts; whose open steps were left out."""
        ...

    async def come_back(self, application_id: str) -> None:
        """What was kept of it is there again."""
        ...

    async def disconnected(self) -> Sequence[DisconnectedLine]:
        """Those that were disconnected, by name."""
        ...

    async def archived(
        self, application_id: str, cursor: str | None, limit: int
    ) -> ListPage[ArchivedAccount]:
        """The accounts that are kept of one that was disconnected, by login."""
        ...
