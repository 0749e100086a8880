"""Views of lists: kept, changed and shared by operators."""

from __future__ import annotations

import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from yugum.core.views import ListName, SavedView
from yugum.engine.access import Operator
from yugum.errors import Conflict, Forbidden
from yugum.ports.clock import Clock
from yugum.ports.pages import ListPage
from yugum.ports.saved import ViewLine
from yugum.ports.units import Database, UnitOfWork

MOST = 200
"""Views of one operator."""


@dataclass(frozen=True, slots=True, kw_only=True)
class WantedView:
    """What a view is to be; what is asked for has been checked against its list."""

    page: ListName
    name: str
    query: Mapping[str, str] = field(default_factory=dict)
    columns: Sequence[str] = ()
    shared: bool = False


class SavedViews:
    def __init__(self, database: Database, clock: Clock) -> None:
        self._database = database
        self._clock = clock

    async def page(
        self, operator: Operator, page: ListName | None, cursor: str | None, limit: int
    ) -> ListPage[ViewLine]:
        async with self._database.unit() as unit:
            return await unit.saved.page(operator.id, page, cursor, limit)

    async def start_of(self, operator: Operator) -> ViewLine | None:
        async with self._database.unit() as unit:
            return await unit.saved.start_of(operator.id)

    async def keep(self, wanted: WantedView, operator: Operator) -> ViewLine:
        """A new view of one's own.

        Raises:
            Conflict: one of that name is there, or there are too many.
        """
        async with self._database.unit() as unit:
            if await unit.saved.kept_by(operator.id) >= MOST:
                raise Conflict(f"You keep {MOST} views.", remedy="Drop some: yugum views drop.")
            return await self._put(unit, str(uuid.uuid4()), wanted, operator)

    async def change(self, view_id: str, wanted: WantedView, operator: Operator) -> ViewLine:
        async with self._database.unit() as unit:
            before = await self._own(unit, view_id, operator)
            if before.page is not wanted.page:
                raise Conflict(
                    "A view stays with its list.", place="page", remedy="Keep a new one."
                )
            return await self._put(unit, view_id, wanted, operator)

    async def drop(self, view_id: str, operator: Operator) -> None:
        async with self._database.unit() as unit:
            await self._own(unit, view_id, operator)
            await unit.saved.drop(view_id)

    async def start(self, view_id: str | None, operator: Operator) -> None:
        """Start with a view from now on, or with the day sheet."""
        async with self._database.unit() as unit:
            if view_id is not None:
                await unit.saved.one(view_id, operator.id)
            await unit.saved.start(operator.id, view_id)

    async def _put(
        self, unit: UnitOfWork, view_id: str, wanted: WantedView, operator: Operator
    ) -> ViewLine:
        view = SavedView(
            id=view_id,
            operator_id=operator.id,
            page=wanted.page,
            name=wanted.name,
            query=dict(wanted.query),
            columns=list(wanted.columns),
            shared=wanted.shared,
            changed_at=await self._clock.now(unit),
        )
        await unit.saved.put(view)
        return await unit.saved.one(view_id, operator.id)

    @staticmethod
    async def _own(unit: UnitOfWork, view_id: str, operator: Operator) -> ViewLine:
        found = await unit.saved.one(view_id, operator.id)
        if found.operator_id != operator.id:
            raise Forbidden(
                f"This view is {found.owner}'s.", remedy="Keep one of your own from it."
            )
        return found
