"""Views of lists, as operators keep and share them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

from yugum.core.views import ListName, SavedView
from yugum.ports.pages import ListPage


@dataclass(frozen=True, slots=True, kw_only=True)
class ViewLine(SavedView):
    """A view with its owner's login, and whether it is what the asking operator starts with."""

    owner: str
    start: bool


class SavedViewStore(Protocol):
    async def page(
        self, operator_id: str, page: ListName | None, cursor: str | None, limit: int
    ) -> ListPage[ViewLine]:
        """An operator's own views and those that others share, by list and name."""
        ...

    async def kept_by(self, operator_id: str) -> int:
        """How many views are an operator's own."""
        ...

    async def one(self, view_id: str, operator_id: str) -> ViewLine:
        """A view that an operator may see.

        Raises:
            NotFound: there is none, or somebody else keeps it for themselves.
        """
        ...

    async def start_of(self, operator_id: str) -> ViewLine | None:
        """What an operator starts with; nothing once it is theirs or shared no more."""
        ...

    async def put(self, view: SavedView) -> None:
        """Keep a view, or change it.

        Raises:
            Conflict: they have another one of that name.
        """
        ...

    async def drop(self, view_id: str) -> None: ...

    async def start(self, operator_id: str, view_id: str | None) -> None:
        """Start with a view from now on, or with none."""
        ...
