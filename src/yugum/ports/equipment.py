"""Equipment and keys that people have, to be given back when they leave."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Protocol

from yugum.ports.pages import ListPage


@dataclass(frozen=True, slots=True, kw_only=True)
class Thing:
    """Something that somebody was given; ``id`` is what stands on it, nobody has it without a holder."""

    id: str
    name: str
    holder_id: str | None = None
    since: datetime | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class ThingLine(Thing):
    """One in a list, with who has it and the days on which they leave, if they do."""

    display_name: str | None
    user_name: str | None
    last_working_day: date | None
    access_ends: datetime | None


class EquipmentStore(Protocol):
    async def put(self, thing: Thing) -> None:
        """A new one, or another name or holder for one that is known; the same again changes nothing."""
        ...

    async def one(self, thing_id: str) -> Thing:
        """One of them.

        Raises:
            NotFound: there is none of that id.
        """
        ...

    async def drop(self, thing_id: str) -> None:
        """Take one away.

        Raises:
            NotFound: there is none of that id.
        """
        ...

    async def page(
        self,
        *,
        holder_id: str | None,
        due_by: datetime | None,
        q: str,
        cursor: str | None,
        limit: int,
    ) -> ListPage[ThingLine]:
        """All by name, those of one person, or those whose holder leaves by a moment."""
        ...

    async def held_by(self, person_ids: Sequence[str]) -> Mapping[str, Sequence[str]]:
        """What each of some people has, as ``name (id)``."""
        ...
