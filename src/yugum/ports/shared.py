"""Shared credentials and who knows them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol

from yugum.ports.pages import ListPage


@dataclass(frozen=True, slots=True, kw_only=True)
class SharedCredential:
    """Something several people know; never the credential itself."""

    id: str
    name: str
    place: str
    owner_id: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class SharedLine(SharedCredential):
    """One in a list: ``known_by`` counts who is here, ``left`` names who knew it and has left."""

    owner_name: str | None
    changed_at: datetime
    known_by: int
    left: Sequence[str]
    due_since: datetime | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Knower:
    """Somebody who knows it."""

    person_id: str
    display_name: str
    user_name: str
    since: datetime
    left_at: datetime | None


class SharedStore(Protocol):
    async def put(self, shared: SharedCredential, at: datetime) -> None:
        """A new one (changed ``at``), or another name, place or owner for one that is known."""
        ...

    async def drop(self, shared_id: str) -> None:
        """Take one away.

        Raises:
            NotFound: there is none of that id.
        """
        ...

    async def know(self, shared_id: str, person_ids: Sequence[str], at: datetime) -> None:
        """From now on these know it too.

        Raises:
            NotFound: there is none of that id.
        """
        ...

    async def forget(self, shared_id: str, person_ids: Sequence[str]) -> None:
        """These do not know it any more."""
        ...

    async def changed(self, shared_id: str, at: datetime) -> None:
        """It was changed: whoever has left by then does not know it any more.

        Raises:
            NotFound: there is none of that id.
        """
        ...

    async def page(
        self, now: datetime, *, only_due: bool, q: str, cursor: str | None, limit: int
    ) -> ListPage[SharedLine]:
        """All by name, or those to be changed because somebody who knew them has left."""
        ...

    async def knowers(self, shared_id: str, cursor: str | None, limit: int) -> ListPage[Knower]:
        """Who knows one, by name."""
        ...

    async def known_to(self, person_ids: Sequence[str]) -> Mapping[str, Sequence[str]]:
        """The names of what each of some people knows."""
        ...
