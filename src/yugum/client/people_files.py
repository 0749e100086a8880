"""Files of people."""

from __future__ import annotations

from collections.abc import Iterator

from yugum.client.http import Noun, every
from yugum.core.file_columns import FileKind
from yugum.core.people_file import RowState
from yugum.wire import people_files as wpf
from yugum.wire import plans as wl
from yugum.wire.common import Page

BY_ITSELF = wpf.HowToRead()
"""Columns are known by their names, and nothing is right that nobody has."""


class PeopleFiles(Noun):
    def check(
        self,
        name: str,
        raw: bytes,
        *,
        kind: FileKind = FileKind.PEOPLE,
        encoding: str = "",
        leave: bool = False,
        how: wpf.HowToRead = BY_ITSELF,
    ) -> wpf.PeopleFileView:
        """Check every row of a CSV file and keep it; nobody is made, changed or planned for yet."""
        params = {
            "kind": kind.value,
            "name": name,
            "encoding": encoding,
            "empties": how.empties,
            "leave": leave,
            "column": [f"{n}={f}" for n, f in how.columns.items()],
            "new": [f"{f}={v}" for f, values in how.accepted.items() for v in values],
        }
        return self._http.model(
            wpf.PeopleFileView,
            "POST",
            "/people-files",
            params=params,
            content=raw,
            headers={"Content-Type": "text/csv"},
        )

    def all(self) -> Iterator[wpf.PeopleFileView]:
        """The files of the last thirty days, the last ones first."""
        return every(
            lambda c: self._http.page(wpf.PeopleFileView, "/people-files", cursor=c, limit=200)
        )

    def show(self, file_id: str) -> wpf.PeopleFileView:
        return self._http.model(wpf.PeopleFileView, "GET", f"/people-files/{file_id}")

    def rows(
        self, file_id: str, state: RowState | None = None, *, cursor: str = "", limit: int = 200
    ) -> Page[wpf.FileRowView]:
        """What came of each row, in the file's order."""
        return self._http.page(
            wpf.FileRowView,
            f"/people-files/{file_id}/rows",
            state=state.value if state else None,
            cursor=cursor,
            limit=limit,
        )

    def again(self, file_id: str, body: wpf.HowToRead) -> wpf.PeopleFileView:
        """Check a kept file once more."""
        path = f"/people-files/{file_id}/check"
        return self._http.model(wpf.PeopleFileView, "POST", path, body=body)

    def take(self, file_id: str) -> Iterator[wpf.PeopleFileView]:
        """Take the good rows, two thousand at a time; what is not taken when it is left, is taken next time."""
        while True:
            path = f"/people-files/{file_id}/take"
            file = self._http.model(wpf.PeopleFileView, "POST", path)
            yield file
            if not file.new + file.changed:
                return

    def plan(self, file_id: str) -> wl.BatchView:
        """A plan for the next five hundred good rows of a file of leavers; confirming it takes them."""
        return self._http.model(wl.BatchView, "POST", f"/people-files/{file_id}/plan")

    def rejected(self, file_id: str) -> bytes:
        """The faulty rows in the file's own form, each with what is wrong."""
        return b"".join(self._http.stream_bytes(f"/people-files/{file_id}/rejected", {}))

    def drop(self, file_id: str) -> None:
        """What was kept of a file goes; whom it made stays."""
        self._http.send("DELETE", f"/people-files/{file_id}")
