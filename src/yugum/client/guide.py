"""The guide."""

from __future__ import annotations

from yugum.client.http import Noun
from yugum.wire import guide as wg


class Guide(Noun):
    def pages(self) -> list[wg.GuideLine]:
        return self._http.models(wg.GuideLine, "/guide")

    def show(self, name: str) -> wg.GuidePage:
        """One page, as text and as HTML."""
        return self._http.model(wg.GuidePage, "GET", f"/guide/{name}")
