"""The guide as the service shows it: whole, without a dead link, and found from the console's pages."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from yugum import guide
from yugum.errors import NotFound

CONSOLE = Path(__file__).parents[2] / "console/src/lib"


@pytest.mark.parametrize("name", sorted(guide.files()))
def test_every_link_of_a_page_leads_to_something(name: str) -> None:
    page = guide.page(name)
    assert page.title
    assert page.text.startswith(f"# {page.title}\n")
    assert "<script" not in page.html
    for of, part in re.findall(r'href="/guide\?of=([\w-]+)(?:&amp;part=([\w-]+))?"', page.html):
        assert not part or f'id="{part}"' in guide.page(of).html, (of, part)
    hrefs = re.findall(r'href="([^"]*)"', page.html)
    assert all(h.startswith("/guide?of=") for h in hrefs), "what lies outside is no link"
    within = re.findall(r"\]\((?:[a-z-]+\.md)?(?:#[\w-]+)?\)", page.text)
    assert len(hrefs) == len(within)


def test_what_the_pages_of_the_console_lead_to_is_there() -> None:
    said = (CONSOLE / "guide.ts").read_text()
    found = re.findall(r"\['([a-z-]+)'(?:, '([\w-]+)')?\]", said)
    assert len(found) > 15
    for of, part in found:
        assert not part or f'id="{part}"' in guide.page(of).html, (of, part)
    named = set(re.findall(r"^  '?([a-z-]+)'?: \[", said, re.MULTILINE))
    pages = re.findall(r"^  '?([a-z-]+)'?: \{", (CONSOLE / "pages.ts").read_text(), re.MULTILINE)
    bare = {"welcome", "approve", "keep", "takeover", "credential", "nowhere", "words", "guide"}
    assert {*pages} - bare == named, "every page has its part"


@pytest.mark.parametrize("name", ["", "nothing", "../performance", "leavers.md", "/etc/passwd"])
def test_nothing_but_the_guide_is_read(name: str) -> None:
    with pytest.raises(NotFound):
        guide.page(name)
