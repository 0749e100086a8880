"""The client's part for seats given and taken by hand."""

from __future__ import annotations

from collections.abc import Sequence

from yugum.client.http import Noun
from yugum.wire import allocations as wa
from yugum.wire import plans as wl


class Allocations(Noun):
    def matrix(
        self, application_id: str = "", cursor: str | None = None, limit: int = 50, **people: str
    ) -> wa.MatrixView:
        """A page of people by licenses; ``people`` are filters of their list."""
        params = {"application_id": application_id, "cursor": cursor, "limit": limit, **people}
        return self._http.model(wa.MatrixView, "GET", "/seats/matrix", params=params)

    def plan(self, turns: Sequence[wa.SeatTurn], reason: str, ends: str = "") -> wl.BatchView:
        """The plan by which people have seats, or none; to be confirmed."""
        body = wa.SeatTurns(turns=list(turns), reason=reason, ends=ends)
        return self._http.model(wl.BatchView, "POST", "/seats/allocations", body=body)

    def check(self, raw: bytes) -> wa.CheckedSeats:
        """A CSV file of people and licenses, looked at row by row."""
        return self._http.model(wa.CheckedSeats, "POST", "/seats/allocations/check", content=raw)
