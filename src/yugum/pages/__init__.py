"""Pages to print: HTML by templates that escape whatever is put into them."""

from __future__ import annotations

from collections.abc import Sequence

from jinja2 import Environment, PackageLoader, StrictUndefined

from yugum.core.records import RecordLine, WayIn

TEMPLATES = Environment(
    loader=PackageLoader("yugum.pages", "."),
    autoescape=True,
    undefined=StrictUndefined,
    trim_blocks=True,
    lstrip_blocks=True,
)


def record_page(title: str, facts: Sequence[str], lines: Sequence[RecordLine]) -> str:
    """The record of some dockets, a table for each, with nothing loaded from elsewhere."""
    dockets: dict[str, list[RecordLine]] = {}
    for line in lines:
        dockets.setdefault(line.docket, []).append(line)
    return TEMPLATES.get_template("record.html").render(title=title, facts=facts, dockets=dockets)


def sheet_page(title: str, people: Sequence[tuple[str, Sequence[WayIn]]]) -> str:
    """A page for the day Yugum is down: where each of some people gets in, and whom to call."""
    return TEMPLATES.get_template("sheet.html").render(title=title, people=people)
