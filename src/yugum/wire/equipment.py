"""Equipment and keys: what somebody has, to be given back when they leave."""

from __future__ import annotations

from datetime import date

from pydantic import Field

from yugum.wire.common import Line, Model, Moment, Request, Slug, Words


class NewThing(Request):
    """Something that can be given to somebody; ``id`` is what stands on it."""

    id: Slug
    name: Words
    holder: Line = Field("", description="Login or number of who has it; nobody if left out.")
    renamed: bool = Field(default=False, description="It is called otherwise from now on.")


class ThingBack(Request):
    note: Line = ""


class ThingRow(Model):
    """``display_name`` is who has it since when; the days are those on which they leave, if they do."""

    id: str
    name: str
    holder_id: str | None
    since: Moment | None
    display_name: str | None
    user_name: str | None
    last_working_day: date | None
    access_ends: Moment | None
