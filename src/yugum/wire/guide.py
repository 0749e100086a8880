"""The guide, page by page."""

from __future__ import annotations

from yugum.wire.common import Model


class GuideLine(Model):
    name: str
    title: str


class GuidePage(GuideLine):
    """``text`` is CommonMark with tables; ``html`` the same, with links as the console has them."""

    text: str
    html: str
