"""Views of lists, and what has changed."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field, StringConstraints

from yugum.core.views import ListName, Noun
from yugum.wire.common import Model, Moment, Request, Seen

ViewName = Annotated[
    str,
    StringConstraints(
        strip_whitespace=True, min_length=1, max_length=60, pattern=r"^[^\x00-\x1f]+$"
    ),
]
Said = Annotated[str, StringConstraints(max_length=500)]


class NewView(Request):
    """A list as it is wanted: ``query`` as the list's own parameters, ``columns`` as its rows' fields.

    Without columns it shows those it always has.
    """

    page: ListName
    name: ViewName
    query: Annotated[
        dict[Annotated[str, StringConstraints(max_length=40)], Said], Field(max_length=20)
    ] = {}
    columns: Annotated[
        list[Annotated[str, StringConstraints(max_length=40)]], Field(max_length=40)
    ] = []
    shared: bool = False


class ViewRow(Model):
    """``mine`` can be changed; ``start`` is what the asking operator begins with."""

    id: str
    page: Seen[ListName]
    name: str
    query: dict[str, str]
    columns: list[str]
    shared: bool
    owner: str
    mine: bool
    start: bool
    changed_at: Moment


class Changed(Model):
    """What is not as it was, by noun; it says nothing of what or whose."""

    nouns: list[Seen[Noun]]
