"""Shared credentials: what several people know, and what is to be changed when one leaves."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from yugum.wire.common import Line, Model, Moment, Request, Slug, Words


class NewShared(Request):
    """A credential several people know; the credential itself is never told to Yugum."""

    id: Slug
    name: Words
    place: Line = Field(
        "", description="Where it opens something, in words or an application's id."
    )
    owner: Line = Field("", description="Login or number of who changes it.")


class Knowers(Request):
    """People who know it from now on (``add``), or do not any more (``remove``)."""

    add: Annotated[list[Line], Field(max_length=500)] = []
    remove: Annotated[list[Line], Field(max_length=500)] = []


class ChangedShared(Request):
    note: Line = ""


class SharedRow(Model):
    """``known_by`` counts who is here; ``left`` who knew it, has left since, and still would."""

    id: str
    name: str
    place: str
    owner_id: str | None
    owner_name: str | None
    changed_at: Moment
    known_by: int
    left: list[str]
    due_since: Moment | None


class Knower(Model):
    person_id: str
    display_name: str
    user_name: str
    since: Moment
    left_at: Moment | None
