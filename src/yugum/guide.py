"""The guide as the service shows it: the files of ``docs/guide``, which a wheel has in ``yugum/guide_pages``."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from itertools import pairwise
from pathlib import Path

from markdown_it import MarkdownIt
from markdown_it.token import Token

from yugum.errors import NotFound

PLACES = (Path(__file__).parent / "guide_pages", Path(__file__).parents[2] / "docs" / "guide")
LINK = re.compile(r"([a-z-]*)(?:\.md)?(?:#([\w-]+))?")


@dataclass(frozen=True, slots=True)
class GuidePage:
    """One page: its ``text`` in CommonMark with tables, and the same as ``html`` of our own making.

    Headings have ids, links lead to the guide in the console; what lies outside the guide is no link.
    """

    name: str
    title: str
    text: str
    html: str


@cache
def files() -> Mapping[str, Path]:
    """The pages by name, in the order of the alphabet."""
    place = next(p for p in PLACES if p.is_dir())
    return {path.stem: path for path in sorted(place.glob("*.md"))}


@cache
def titles() -> Mapping[str, str]:
    """The pages' titles by name: their first lines."""
    return {n: p.read_text("utf-8").partition("\n")[0].lstrip("# ") for n, p in files().items()}


@cache
def page(name: str) -> GuidePage:
    """One page; made once.

    Raises:
        NotFound: there is none of that name.
    """
    path = files().get(name)
    if path is None:
        raise NotFound(
            f"The guide has no page {name[:60]}.", place="name", remedy="See: yugum guide."
        )
    text = path.read_text("utf-8")
    return GuidePage(name, titles()[name], text, _html(name, text))


def part_of(heading: str) -> str:
    """The id of a heading, as it stands behind # in links between files."""
    return re.sub(r"[^\w\- ]", "", heading.lower()).replace(" ", "-")


def address(name: str, href: str) -> str | None:
    """Where a link of a page leads in the console; None where that is not in the guide."""
    found = LINK.fullmatch(href)
    if found is None or (found[1] and found[1] not in files()):
        return None
    return f"/guide?of={found[1] or name}" + (f"&part={found[2]}" if found[2] else "")


def _html(name: str, text: str) -> str:
    reader = MarkdownIt("commonmark", {"html": False}).enable("table")
    tokens = reader.parse(text)
    for token, inside in pairwise(tokens):
        if token.type == "heading_open":
            token.attrSet("id", part_of(inside.content.replace("`", "")))
        if token.type == "inline" and inside.type == "th_close" and not token.content:
            inside.tag = "td"  # a heading that says nothing is none
        if token.type == "th_open" and not inside.content:
            token.tag = "td"
        for one in token.children or ():
            _lead(name, one)
    made: str = reader.renderer.render(tokens, reader.options, {})
    return made


def _lead(name: str, token: Token) -> None:
    """Let a link lead where the console has what it is about."""
    if token.type == "link_open":
        there = address(name, str(token.attrGet("href") or ""))
        token.attrs = {"href": there} if there else {}
