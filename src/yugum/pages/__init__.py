"""Pages to print: HTML by templates that escape whatever is put into them."""

from __future__ import annotations

from base64 import b64encode
from collections.abc import Sequence
from hashlib import sha256
from pathlib import Path

from jinja2 import Environment, PackageLoader, StrictUndefined
from markupsafe import Markup

from yugum.core.records import RecordLine, WayIn
from yugum.core.slips import Slip

TEMPLATES = Environment(
    loader=PackageLoader("yugum.pages", "."),
    autoescape=True,
    undefined=StrictUndefined,
    trim_blocks=True,
    lstrip_blocks=True,
)

STYLE = (Path(__file__).parent / "page.css").read_text()
TEMPLATES.globals["style"] = Markup(STYLE)  # noqa: S704 - our own file
STYLE_SOURCE = f"'sha256-{b64encode(sha256(STYLE.encode()).digest()).decode()}'"
"""By which a policy of contents lets the pages' style through (CSP level 3, 2.3.1)."""


def record_page(title: str, facts: Sequence[str], lines: Sequence[RecordLine]) -> str:
    """The record of some dockets, a table for each, with nothing loaded from elsewhere."""
    dockets: dict[str, list[RecordLine]] = {}
    for line in lines:
        dockets.setdefault(line.docket, []).append(line)
    return TEMPLATES.get_template("record.html").render(title=title, facts=facts, dockets=dockets)


def sheet_page(title: str, people: Sequence[tuple[str, Sequence[WayIn]]]) -> str:
    """A page for the day Yugum is down: where each of some people gets in, and whom to call."""
    return TEMPLATES.get_template("sheet.html").render(title=title, people=people)


def slips_page(organisation: str, slips: Sequence[Slip], without: Sequence[str]) -> str:
    """One slip a sheet, its address in an envelope's window; who has none is told on the screen only."""
    return TEMPLATES.get_template("slips.html").render(
        organisation=organisation, slips=slips, without=without
    )
