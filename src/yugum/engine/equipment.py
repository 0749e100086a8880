"""Equipment and keys that people have: given, and given back."""

from __future__ import annotations

from contextlib import suppress
from datetime import timedelta

from yugum.core.documents import full
from yugum.engine.events import make_event
from yugum.errors import Conflict, NotFound
from yugum.ports.clock import Clock
from yugum.ports.equipment import Thing, ThingLine
from yugum.ports.pages import ListPage
from yugum.ports.units import Database

AHEAD = timedelta(days=7)
"""How long before somebody leaves what they have is to be collected."""


class Equipment:
    def __init__(self, database: Database, clock: Clock) -> None:
        self._database = database
        self._clock = clock

    async def page(
        self, *, who: str, only_due: bool, q: str, cursor: str | None, limit: int
    ) -> ListPage[ThingLine]:
        """All of it, what one person has, or what is to be collected: its holder leaves or has left."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            holder = (await unit.people.resolve(who)).id if who else None
            return await unit.equipment.page(
                holder_id=holder,
                due_by=now + AHEAD if only_due else None,
                q=q,
                cursor=cursor,
                limit=limit,
            )

    async def put(
        self, thing_id: str, name: str, holder: str, author: str, *, renamed: bool = False
    ) -> None:
        """Something new, or another holder; the same twice is once.

        Raises:
            Conflict: it is called otherwise, and nobody says that it is ``renamed``: perhaps another is meant.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            with suppress(NotFound):
                known = await unit.equipment.one(thing_id)
                if known.name != name and not renamed:
                    raise Conflict(
                        f"{thing_id} is {known.name}.",
                        place="name",
                        remedy="Correct what stands on it, or say that it is called otherwise (--renamed).",
                    )
            has = (await unit.people.resolve(holder)).id if holder else None
            thing = Thing(id=thing_id, name=name, holder_id=has, since=now if has else None)
            await unit.equipment.put(thing)
            await unit.audit.add([make_event(now, author, "equipment.put", thing_id, full(thing))])

    async def back(self, thing_id: str, note: str, author: str) -> None:
        """It was given back: nobody has it."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            thing = await unit.equipment.one(thing_id)
            if thing.holder_id is None:
                return
            await unit.equipment.put(Thing(id=thing_id, name=thing.name))
            payload = {"from": thing.holder_id, "note": note}
            await unit.audit.add([make_event(now, author, "equipment.back", thing_id, payload)])

    async def drop(self, thing_id: str, author: str) -> None:
        now = await self._clock.now()
        async with self._database.unit() as unit:
            await unit.equipment.drop(thing_id)
            await unit.audit.add([make_event(now, author, "equipment.dropped", thing_id, {})])
