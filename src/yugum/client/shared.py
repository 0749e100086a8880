"""The client's part for shared credentials."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from yugum.client.http import Noun, every
from yugum.wire import shared as ws


class Shared(Noun):
    def all(self, *, due: bool = False, q: str = "") -> Iterator[ws.SharedRow]:
        """All of them, or those a leaver knew and nobody has changed since; ``q`` is part of the name."""
        return every(
            lambda c: self._http.page(ws.SharedRow, "/shared", cursor=c, limit=200, due=due, q=q)
        )

    def put(self, body: ws.NewShared) -> None:
        self._http.send("PUT", "/shared", body=body)

    def drop(self, shared_id: str) -> None:
        self._http.send("DELETE", f"/shared/{shared_id}")

    def known(self, shared_id: str) -> Iterator[ws.Knower]:
        path = f"/shared/{shared_id}/known"
        return every(lambda c: self._http.page(ws.Knower, path, cursor=c, limit=200))

    def know(self, shared_id: str, add: Sequence[str] = (), remove: Sequence[str] = ()) -> None:
        body = ws.Knowers(add=list(add), remove=list(remove))
        self._http.send("POST", f"/shared/{shared_id}/known", body=body)

    def changed(self, shared_id: str, note: str = "") -> None:
        """It was changed where it is kept."""
        body = ws.ChangedShared(note=note)
        self._http.send("POST", f"/shared/{shared_id}/changed", body=body)
