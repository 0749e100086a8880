"""Views without the former names that whoever asks must not read."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TypeVar

from yugum.engine.access import Operator
from yugum.engine.services import Services
from yugum.ports import ListPage, Row
from yugum.wire.common import Model

M = TypeVar("M", bound=Model)


@dataclass(frozen=True, slots=True)
class Rows:
    """A page of rows that were gone through."""

    items: Sequence[Row]
    next: str | None
    total: int | None


async def discreet(use: Services, operator: Operator, view: M, subject_id: str) -> M:
    """A view of one subject."""
    veil = await use.veils.before(operator.role, [subject_id])
    if not veil.names:
        return view
    return type(view).model_validate(veil.over(view.model_dump(), subject_id))


async def discreet_rows(use: Services, operator: Operator, page: ListPage, column: str) -> ListPage:
    """A page of rows, each about the subject in ``column``."""
    veil = await use.veils.before(operator.role, {r[column] for r in page.items if r[column]})
    if not veil.names:
        return page
    items = [veil.over(dict(row), row[column]) for row in page.items]
    return Rows(items, page.next, page.total)
