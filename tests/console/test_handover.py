"""The handover board, and where somebody is named."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.acceptance.test_handover import owner
from tests.acceptance.test_references import place, text_of
from tests.acceptance.test_seats import until
from tests.acceptance.test_service import joined
from tests.conftest import Theatre
from tests.console.looking import violations, visit
from yugum.core.verbs import Verb
from yugum_standins.load import do
from yugum_standins.morrow import CREW


def test_what_is_open_is_settled_for_many_at_once(page: Page, theatre: Theatre) -> None:
    one, other, heir = owner(theatre), owner(theatre), joined(theatre, "Deck")
    for login in (one, other):
        do(theatre.client, Verb.LEAVER, login, urgent=True)
    visit(page, theatre, "/handover")
    names = [theatre.client.people.show(login).display_name for login in (one, other)]
    for name in names:
        page.get_by_label(f"{name}: roster in Crew rosters").check()
    form = page.get_by_role("form", name="Choose for many")
    expect(form).to_contain_text("2 lines chosen")
    assert violations(page) == []
    form.get_by_label("Who takes over").focus()
    form.get_by_role("combobox", name="Who takes over").fill(heir)
    form.get_by_role("option", name=re.compile(heir)).first.click()
    form.get_by_label("Why").fill("her crew now")
    form.get_by_role("button", name="Settle them").press("Enter")
    until(lambda: len(theatre.play.crew.rosters(heir)) == 4)
    for name in names:
        expect(page.get_by_label(f"{name}: roster in Crew rosters")).to_have_count(0)
        expect(page.get_by_label(f"{name}: board in Crew rosters")).to_be_visible()


def test_where_a_leaver_is_named_is_shown_and_mended(page: Page, theatre: Theatre) -> None:
    client = theatre.client
    login, heir = joined(theatre, "Deck"), joined(theatre, "Deck")
    do(client, Verb.LEAVER, login, urgent=True, successor=heir)
    key = place(theatre, f"rings {login}")
    sign = place(theatre, f"ask {login}", kind="sign", writable=False)
    visit(page, theatre, f"/people/{login}")
    part = page.get_by_role("region", name="Where they are named")
    part.get_by_text("Look where they are named …").press("Enter")
    expect(part.get_by_role("row", name=f"rings {login}")).to_contain_text(f"rings {heir}")
    expect(part.get_by_role("row", name=f"ask {login}")).to_contain_text("by hand")
    assert violations(page) == []
    part.get_by_role("button", name="Put the others there now").press("Enter")
    until(lambda: text_of(theatre, key) == f"rings {heir}")
    assert text_of(theatre, sign) == f"ask {login}"
    client.applications.read(CREW)
    page.reload()
    part.get_by_text("Look where they are named …").press("Enter")
    expect(part.get_by_role("row", name=f"ask {login}")).to_be_visible()
    expect(part.get_by_role("button", name="Put the others there now")).to_have_count(0)
