"""Pages: what travels until one is there, a page that comes late, and where one was."""

from __future__ import annotations

import re
from typing import Any
from urllib.parse import parse_qs, urlsplit

from playwright.sync_api import Page, Route, expect

from tests.conftest import Theatre
from tests.console.looking import violations, visit

FIRST, FURTHER = 85_000, 40_000
"""Bytes of script and style, as they travel, until the day sheet shows its rows, and for another page."""
NAMES = [
    "Calendar",
    "People",
    "Accounts",
    "Joiners",
    "Dockets",
    "Seats",
    "Waiting",
    "Applications",
    "Groups",
    "Handover",
    "Findings",
    "Last call",
    "Reports",
    "Mail",
    "Access",
    "Words",
    "Guide",
]
"""The pages of the list, but for the rules with their editor."""


class Travelled:
    """Script and style by address, as many bytes as travelled."""

    def __init__(self, page: Page) -> None:
        self.session = page.context.new_cdp_session(page)
        self.session.send("Network.enable")
        self.session.send("Network.setCacheDisabled", {"cacheDisabled": True})
        self.kinds: dict[str, str] = {}
        self.bytes: dict[str, float] = {}
        self.session.on("Network.responseReceived", self._response)
        self.session.on("Network.loadingFinished", self._finished)

    def _response(self, event: dict[str, Any]) -> None:
        if event["type"] in ("Script", "Stylesheet"):
            self.kinds[event["requestId"]] = event["response"]["url"]

    def _finished(self, event: dict[str, Any]) -> None:
        if event["requestId"] in self.kinds:
            self.bytes[self.kinds[event["requestId"]]] = event["encodedDataLength"]

    def since(self, before: set[str]) -> float:
        return sum(n for url, n in self.bytes.items() if url not in before)


def test_little_travels_until_a_page_is_there(page: Page, theatre: Theatre) -> None:
    travelled = Travelled(page)
    visit(page, theatre, "/")
    page.wait_for_load_state("networkidle")
    first = travelled.since(set())
    assert 20_000 < first <= FIRST
    had = set(travelled.bytes)
    pages = page.get_by_role("navigation", name="Pages")
    for name in NAMES:
        travelled.bytes.clear()
        pages.get_by_role("link", name=re.compile(f"^{name}")).click()
        expect(page.locator("main h1")).to_be_visible()
        page.wait_for_load_state("networkidle")
        came = travelled.since(had)
        assert came <= FURTHER, (name, came)
        visit(page, theatre, "/")


def test_each_page_leads_to_its_part_of_the_guide(page: Page, theatre: Theatre) -> None:
    parts = set()
    pages = page.get_by_role("navigation", name="Pages")
    for name in ["Day sheet", *(n for n in NAMES if n != "Words"), "Rules"]:
        visit(page, theatre, "/")
        pages.get_by_role("link", name=re.compile(f"^{name}")).click()
        page.get_by_role("banner").get_by_role("link", name="guide", exact=True).click()
        expect(page.locator("article h1")).to_be_visible()
        if part := parse_qs(urlsplit(page.url).query).get("part", [""])[0]:
            expect(page.locator(f"article #{part}")).to_be_in_viewport()
            parts.add(part)
    assert len(parts) > 7
    assert violations(page) == []
    page.locator("article a").first.click()
    expect(page).to_have_url(re.compile("/guide\\?of="))
    page.set_viewport_size({"width": 390, "height": 800})
    assert violations(page) == []
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    page.goto(f"{theatre.stage.url}/guide?of=nothing")
    expect(page.get_by_role("alert")).to_contain_text("no page nothing")


def test_hashed_files_are_asked_for_once(page: Page, theatre: Theatre) -> None:
    visit(page, theatre, "/")
    with page.expect_response(lambda r: "/assets/" in r.url and r.url.endswith(".js")) as found:
        page.goto(theatre.stage.url)
    assert "immutable" in found.value.headers["cache-control"]
    assert found.value.headers["content-encoding"] == "gzip"


def test_a_later_page_overtakes_one_whose_code_is_late(page: Page, theatre: Theatre) -> None:
    visit(page, theatre, "/words")
    held: list[Route] = []
    page.route("**/assets/Mails-*.js", lambda route: held.append(route))
    pages = page.get_by_role("navigation", name="Pages")
    pages.get_by_role("link", name="Mail").click()
    expect(page.get_by_role("heading", name="Words")).to_be_visible()
    pages.get_by_role("link", name="Seats").click()
    expect(page.get_by_role("heading", name="Seats")).to_be_visible()
    assert held, "its code was late"
    for route in held:
        route.continue_()
    page.wait_for_timeout(300)
    expect(page.get_by_role("heading", name="Seats")).to_be_visible()
    page.unroute_all()


def test_one_that_cannot_be_had_says_so_after_asking_afresh(page: Page, theatre: Theatre) -> None:
    visit(page, theatre, "/words")
    page.route("**/assets/Seats-*.js", lambda route: route.abort())
    page.get_by_role("navigation", name="Pages").get_by_role("link", name="Seats").click()
    expect(page.get_by_role("heading", name="This page did not load")).to_be_visible()
    page.unroute_all()
    page.get_by_role("link", name="Try again").click()
    expect(page.get_by_role("heading", name="Seats")).to_be_visible()


def test_a_dialog_that_cannot_be_had_says_so(page: Page, theatre: Theatre) -> None:
    visit(page, theatre, "/people")
    page.route("**/assets/NewJoiner-*.js", lambda route: route.abort())
    page.get_by_role("button", name="New joiner").click()
    expect(page.get_by_role("alert")).to_contain_text("This did not load")
    page.unroute_all()
    page.get_by_role("link", name="Load the page again").click()
    page.get_by_role("button", name="New joiner").click()
    expect(page.get_by_role("dialog", name="New joiner")).to_be_visible()


def test_on_a_phone_the_pages_are_one_line_with_the_present_one_in_sight(
    page: Page, theatre: Theatre
) -> None:
    page.set_viewport_size({"width": 390, "height": 800})
    try:
        visit(page, theatre, "/words")
        pages = page.get_by_role("navigation", name="Pages")
        box = pages.bounding_box()
        assert box is not None
        assert box["height"] < 60
        expect(pages.get_by_role("link", name="Words")).to_be_in_viewport()
        assert violations(page) == []
        visit(page, theatre, "/")
        expect(pages.get_by_role("link", name="Day sheet")).to_be_in_viewport()
    finally:
        page.set_viewport_size({"width": 1280, "height": 800})
