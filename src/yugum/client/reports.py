"""Reports about leavers."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date

from yugum.client.http import Noun, days_said, every
from yugum.wire import reports as wp


class Reports(Noun):
    def leavers(self, begin: date | None = None, end: date | None = None) -> Iterator[wp.CutOffRow]:
        """Each account of whoever left from one day to another; the last ninety days if left out."""
        days = days_said(begin, end)
        return every(
            lambda c: self._http.page(wp.CutOffRow, "/reports/leavers", cursor=c, limit=200, **days)
        )

    def cut_offs(self, begin: date | None = None, end: date | None = None) -> wp.CutOffTimes:
        """How many cut-offs took how long."""
        reply = self._http.send("GET", "/reports/cut-offs", params=days_said(begin, end))
        return wp.CutOffTimes.model_validate(reply.json())
