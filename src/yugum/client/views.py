"""The client's part for views of lists, files of them, and what has changed."""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from pydantic import BaseModel

from yugum.client.http import Noun, every
from yugum.core.views import ExportForm, ListName, ReportName
from yugum.wire import views as wv
from yugum.wire.listed import ROWS


class Views(Noun):
    def all(self, page: str = "") -> Iterator[wv.ViewRow]:
        """One's own, and those that others share, by list and name."""
        return every(
            lambda c: self._http.page(wv.ViewRow, "/views", page=page, cursor=c, limit=200)
        )

    def keep(self, body: wv.NewView) -> wv.ViewRow:
        return self._http.model(wv.ViewRow, "POST", "/views", body=body)

    def change(self, view_id: str, body: wv.NewView) -> wv.ViewRow:
        return self._http.model(wv.ViewRow, "PUT", f"/views/{view_id}", body=body)

    def drop(self, view_id: str) -> None:
        self._http.send("DELETE", f"/views/{view_id}")

    def start(self, view_id: str = "") -> None:
        """Start with a view from now on; without one, with the day sheet."""
        if view_id:
            self._http.send("PUT", f"/views/{view_id}/start")
        else:
            self._http.send("DELETE", "/views/start")

    def rows(self, page: ListName, query: Mapping[str, str]) -> Iterator[BaseModel]:
        """The rows of a list as it is asked for."""
        params: dict[str, Any] = {**query, "limit": 200}
        path = "/people/joiners" if page is ListName.JOINERS else f"/{page}"
        return every(lambda c: self._http.page(ROWS[page], path, cursor=c, **params))

    def export(
        self,
        page: ListName | ReportName,
        form: ExportForm,
        query: Mapping[str, str],
        columns: Sequence[str] = (),
    ) -> Iterator[bytes]:
        """A list or a report as a file, in portions."""
        params = {**query, "format": form.value, "column": list(columns)}
        return self._http.stream_bytes(f"/exports/{page}", params)

    def changes(self) -> Iterator[list[str]]:
        """Which nouns have changed, each time some have; [] at first, once nothing is missed."""
        event = ""
        for line in self._http.stream_lines("/changes"):
            name, _, value = line.strip().partition(":")
            value = value.strip()
            if name == "event":
                event = value
            elif name == "data" and event:
                yield json.loads(value)["nouns"] if event == "changed" else []
