"""Files of people: what was read of them, and what came of each row."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from yugum.core.file_columns import FileKind
from yugum.core.lists import KnownValue
from yugum.core.people_file import RowState
from yugum.wire.common import Line, Model, Moment, Request, Seen

Name = Annotated[Line, Field(max_length=200)]


class HowToRead(Request):
    """Which column is what (column: field, or "" to leave it out), and what is right though it is new.

    A cell that holds ``empties`` empties its field. ``accepted`` are values that nobody has yet, by field.
    """

    columns: Annotated[dict[Name, Name], Field(max_length=200)] = {}
    empties: Annotated[Line, Field(max_length=60)] = ""
    accepted: Annotated[
        dict[KnownValue, Annotated[list[Name], Field(max_length=500)]],
        Field(max_length=3),
    ] = {}


class FileColumnView(Model):
    """A column and the field it is; "" if it is left out, ``secret`` if it was struck."""

    name: str
    field: str
    secret: bool


class PeopleFileView(Model):
    """A file with how many rows are in which state; ``fresh`` are values that nobody has yet, by field."""

    id: str
    kind: Seen[FileKind]
    name: str
    author: str
    made_at: Moment
    encoding: str
    parting: str
    empties: str
    columns: list[FileColumnView]
    fresh: dict[KnownValue, list[str]]
    accepted: dict[KnownValue, list[str]]
    new: int
    changed: int
    same: int
    faulty: int
    taken: int


class FaultView(Model):
    """What is wrong in which field (or in the row as a whole), and what to do.

    ``value`` is one that may be right though nobody has it yet.
    """

    place: str
    text: str
    remedy: str
    value: str


class FileRowView(Model):
    """``document`` is what is to be stored of somebody: all that was said, or what changes."""

    line: int
    state: Seen[RowState]
    login: str
    name: str
    document: dict[str, str | None]
    faults: list[FaultView]
