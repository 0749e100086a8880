"""New credentials for those picked in the list, and slips of them."""

from __future__ import annotations

import re
from pathlib import Path

from playwright.sync_api import Page, expect

from tests.acceptance.test_issuing import on_paper
from tests.acceptance.test_service import joined
from tests.acceptance.test_standing import until
from tests.conftest import Theatre
from tests.console.looking import violations, visit
from yugum.core.dockets import DocketState
from yugum.core.verbs import Verb


def are_set(theatre: Theatre, login: str) -> bool:
    """Whether the dockets of new credentials have ended."""
    dockets = theatre.client.people.show(login).dockets
    states = [d.state for d in dockets if d.verb is Verb.CREDENTIAL]
    return bool(states) and set(states) == {DocketState.DONE}


def test_picked_people_get_new_credentials_and_slips(page: Page, theatre: Theatre) -> None:
    first, second = joined(theatre, "Deck"), joined(theatre, "Deck")
    where = f'userName eq "{first}" or userName eq "{second}"'
    visit(page, theatre, f"/people?filter={where}")
    boxes = page.locator("main tbody").get_by_role("checkbox")
    expect(boxes).to_have_count(2)
    for box in boxes.all():
        box.check()
    page.get_by_role("button", name="New credentials …").press("Enter")
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_role("status")).to_contain_text("of 2 people", timeout=20_000)
    for name in dialog.get_by_role("checkbox").all():
        if name.evaluate("node => node.parentElement.textContent.trim()") != "Reporting database":
            name.press("Space")
    expect(dialog.get_by_role("status")).to_contain_text("2 accounts of 2 people")
    assert violations(page) == []
    dialog.get_by_role("button", name="Give new ones").press("Enter")
    expect(dialog.get_by_role("button", name="Print slips …")).to_be_visible(timeout=20_000)
    until(lambda: are_set(theatre, first) and are_set(theatre, second))
    with page.expect_download() as download:
        dialog.get_by_role("button", name="Print slips …").press("Enter")
    assert re.fullmatch(r"slips\.html", download.value.suggested_filename)
    slips = dict(on_paper(Path(download.value.path()).read_text()))
    assert set(slips) == {first, second}
    until(lambda: theatre.reporting.sign_in(first, slips[first]))
