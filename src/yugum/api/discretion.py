"""Views without the former names that whoever asks must not read."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TypeVar

from pydantic import BaseModel

from yugum.api.shapes import page_of
from yugum.core.veils import Veil
from yugum.engine.access import Operator
from yugum.engine.services import Services
from yugum.ports.pages import ListPage
from yugum.wire.common import Page

M = TypeVar("M", bound=BaseModel)
S = TypeVar("S")


async def discreet(use: Services, operator: Operator, view: M, subject_id: str) -> M:
    """A view of one subject."""
    veil = await use.veils.before(operator.role, [subject_id])
    return _hidden(view, veil, subject_id) if veil else view


async def discreet_each(
    use: Services, operator: Operator, views: Sequence[M], subject_of: Callable[[M], str]
) -> list[M]:
    """Views of a subject each."""
    veil = await use.veils.before(operator.role, {subject_of(v) for v in views})
    return [_hidden(v, veil, subject_of(v)) for v in views] if veil else list(views)


async def discreet_page(
    use: Services,
    operator: Operator,
    page: ListPage[S],
    subject_of: Callable[[S], str | None],
    make: Callable[[S], M],
) -> Page[M]:
    """A page of lines, each about the subject that ``subject_of`` tells."""
    subjects = {s for line in page.items if (s := subject_of(line))}
    veil = await use.veils.before(operator.role, subjects)
    if not veil:
        return page_of(page, make)
    return page_of(page, lambda line: _hidden(make(line), veil, subject_of(line) or ""))


def _hidden(view: M, veil: Veil, subject_id: str) -> M:
    values = {n: _without(getattr(view, n), veil, subject_id) for n in type(view).model_fields}
    return view.model_copy(update=values)


def _without(value: object, veil: Veil, subject_id: str) -> object:
    """The value with former names hidden in every text; members of closed sets are no texts."""
    if type(value) is str:
        return veil.hide(value, subject_id)
    if isinstance(value, BaseModel):
        return _hidden(value, veil, subject_id)
    if isinstance(value, list):
        return [_without(v, veil, subject_id) for v in value]
    if isinstance(value, dict):
        return {k: _without(v, veil, subject_id) for k, v in value.items()}
    return value
