"""Applications, their profiles and how they are reached."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import Protocol

from yugum.core.applications import Application, Capability, Profile, Trust


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
    """An application in a list. ``covered``: whether Yugum cuts off the sign-on ``through``."""

    id: str
    name: str
    kind: str
    profile: Profile
    contact: str
    owner: str
    capabilities: Sequence[Capability]
    seen_at: datetime | None
    reading_at: datetime | None
    problem: str
    trust: Trust
    credential_ends: datetime | None
    paused_until: datetime | None
    address: str
    through: str
    covered: bool | None
    accounts: int
    active: int


class ApplicationStore(Protocol):
    async def all(self) -> dict[str, Application]:
        """Every application by id; an organisation has tens of them, so this is no page."""
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
        self, application_id: str, capabilities: Iterable[Capability], at: datetime
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
