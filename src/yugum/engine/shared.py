"""Shared credentials: who knows them, and that they are changed when one of those leaves."""

from __future__ import annotations

from collections.abc import Sequence

from yugum.core.documents import Document, full
from yugum.engine.events import make_event
from yugum.errors import NotFound
from yugum.ports.clock import Clock
from yugum.ports.pages import ListPage
from yugum.ports.shared import Knower, SharedCredential, SharedLine
from yugum.ports.units import Database, UnitOfWork


class Shared:
    def __init__(self, database: Database, clock: Clock) -> None:
        self._database = database
        self._clock = clock

    async def page(
        self, *, only_due: bool, q: str, cursor: str | None, limit: int
    ) -> ListPage[SharedLine]:
        """All of them, or those to be changed because somebody who knew them has left; ``q`` is a part."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            return await unit.shared.page(now, only_due=only_due, q=q, cursor=cursor, limit=limit)

    async def knowers(self, shared_id: str, cursor: str | None, limit: int) -> ListPage[Knower]:
        async with self._database.unit() as unit:
            return await unit.shared.knowers(shared_id, cursor, limit)

    async def put(self, shared_id: str, name: str, place: str, owner: str, author: str) -> None:
        """A new one, or another name, place or owner; the same twice is once."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            holder = (await unit.people.resolve(owner)).id if owner else None
            shared = SharedCredential(id=shared_id, name=name, place=place, owner_id=holder)
            await unit.shared.put(shared, now)
            await unit.audit.add([make_event(now, author, "shared.put", shared_id, full(shared))])

    async def drop(self, shared_id: str, author: str) -> None:
        now = await self._clock.now()
        async with self._database.unit() as unit:
            await unit.shared.drop(shared_id)
            await unit.audit.add([make_event(now, author, "shared.dropped", shared_id, {})])

    async def know(
        self, shared_id: str, add: Sequence[str], remove: Sequence[str], author: str
    ) -> None:
        """Write down who knows it from now on, and who does not; all are found before any is."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            more = await _people(unit, add)
            fewer = await _people(unit, remove)
            await unit.shared.know(shared_id, more, now)
            await unit.shared.forget(shared_id, fewer)
            payload: Document = {"add": [*more], "remove": [*fewer]}
            await unit.audit.add([make_event(now, author, "shared.known", shared_id, payload)])

    async def changed(self, shared_id: str, note: str, author: str) -> None:
        """It was changed where it is kept: leavers do not know it any more."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            await unit.shared.changed(shared_id, now)
            payload = {"note": note}
            await unit.audit.add([make_event(now, author, "shared.changed", shared_id, payload)])


async def _people(unit: UnitOfWork, names: Sequence[str]) -> list[str]:
    """Ids of people by login or number, in one statement whatever their number.

    Raises:
        NotFound: one is nobody.
    """
    if not names:
        return []
    found = await unit.people.by_keys(names, names)
    ids = {key: p.id for p in found for key in (p.user_name, p.employee_number)}
    for name in names:
        if name not in ids:
            raise NotFound(
                f"Nobody has the login or number {name}.", place="add", remedy="Give either."
            )
    return [ids[name] for name in names]
