"""Files of people: kept while they are checked, corrected and taken."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import Protocol

from yugum.core.file_columns import FileColumn, FileKind
from yugum.core.lists import KnownValue
from yugum.core.people_file import RowState
from yugum.ports.pages import ListPage


@dataclass(frozen=True, slots=True, kw_only=True)
class PeopleFile:
    """A file as it came; ``empties`` is the text of a cell that empties a field.

    ``fresh`` are values that nobody has yet, by field, ``accepted`` those somebody has said are right.
    """

    id: str
    kind: FileKind
    name: str
    author: str
    made_at: datetime
    encoding: str
    parting: str
    empties: str
    columns: Sequence[FileColumn]
    fresh: Mapping[KnownValue, Sequence[str]] = field(default_factory=dict)
    accepted: Mapping[KnownValue, Sequence[str]] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class PeopleFileLine(PeopleFile):
    """One in a list, with how many rows are in which state."""

    new: int
    changed: int
    same: int
    faulty: int
    taken: int


@dataclass(frozen=True, slots=True, kw_only=True)
class FileRow:
    """A row that was checked: ``document`` is what is to be stored of it, ``faults`` what is wrong."""

    line: int
    state: RowState
    login: str
    name: str
    person_id: str | None
    manager_id: str | None
    rev: int
    rank: int
    document: Mapping[str, str | None]
    faults: Sequence[Mapping[str, str]]
    cells: Sequence[str]


class PeopleFileStore(Protocol):
    async def add(self, file: PeopleFile, content: bytes) -> None: ...

    async def change(self, file: PeopleFile, content: bytes) -> None:
        """How a kept file is read from now on, and what is kept of it."""
        ...

    async def put(self, file_id: str, rows: Sequence[FileRow]) -> None:
        """What came of a check, instead of what came of the one before."""
        ...

    async def hold(self, file_id: str) -> None:
        """Keep others from taking or checking it meanwhile."""
        ...

    async def one(self, file_id: str) -> PeopleFileLine:
        """One file.

        Raises:
            NotFound: there is none of that id.
        """
        ...

    async def content(self, file_id: str) -> bytes: ...

    async def page(self, cursor: str | None, limit: int) -> ListPage[PeopleFileLine]:
        """The last ones first."""
        ...

    async def rows(
        self, file_id: str, state: RowState | None, cursor: str | None, limit: int
    ) -> ListPage[FileRow]:
        """The rows of a file in its order."""
        ...

    async def to_take(self, file_id: str, limit: int) -> Sequence[FileRow]:
        """The first rows that are new or changed and not taken yet, managers before who reports to them."""
        ...

    async def taken(self, file_id: str, lines: Sequence[int]) -> None: ...

    async def taken_for(self, file_id: str, person_ids: Sequence[str]) -> None:
        """Rows about some people are taken, where the file is still kept."""
        ...

    async def refuse(self, file_id: str, rows: Sequence[FileRow]) -> None:
        """Rows that turned out to be faulty when they were to be taken."""
        ...

    async def drop(self, file_id: str) -> None:
        """Take one away, with all that was kept of it.

        Raises:
            NotFound: there is none of that id.
        """
        ...

    async def drop_before(self, moment: datetime) -> None:
        """Take away those that came before a moment."""
        ...
