"""The client's part for equipment and keys."""

from __future__ import annotations

from collections.abc import Iterator

from yugum.client.http import Noun, every
from yugum.wire import equipment as we


class Equipment(Noun):
    def all(self, *, who: str = "", due: bool = False, q: str = "") -> Iterator[we.ThingRow]:
        """All of it, what one person has, or what is to be collected."""
        return every(
            lambda c: self._http.page(
                we.ThingRow, "/equipment", cursor=c, limit=200, who=who, due=due, q=q
            )
        )

    def put(self, body: we.NewThing) -> None:
        self._http.send("PUT", "/equipment", body=body)

    def back(self, thing_id: str, note: str = "") -> None:
        """It was given back."""
        self._http.send("POST", f"/equipment/{thing_id}/back", body=we.ThingBack(note=note))

    def drop(self, thing_id: str) -> None:
        self._http.send("DELETE", f"/equipment/{thing_id}")
