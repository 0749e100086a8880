"""The handover board, and where somebody is named."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.acceptance.test_calendars import engineer
from tests.acceptance.test_handover import owner
from tests.acceptance.test_references import place, text_of, token_of_key, used
from tests.acceptance.test_seats import restored  # noqa: F401 - a fixture
from tests.acceptance.test_service import joined
from tests.acceptance.test_takeovers import asking, heirs, link
from tests.conftest import Theatre
from tests.console.looking import violations, visit
from tests.waiting import until
from yugum.core.verbs import Verb
from yugum.wire import plans as wl
from yugum_standins.load import do
from yugum_standins.morrow import CREW, SHIP_MAIL


def test_what_is_open_is_settled_for_many_at_once(page: Page, theatre: Theatre) -> None:
    one, other, heir = owner(theatre), owner(theatre), joined(theatre, "Deck")
    for login in (one, other):
        do(theatre.client, Verb.LEAVER, login, urgent=True)
    visit(page, theatre, "/handover")
    names = [theatre.client.people.show(login).display_name for login in (one, other)]
    for name in names:
        page.get_by_label(f"Pick {name}: roster in Crew rosters").check()
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
        expect(page.get_by_label(f"Pick {name}: roster in Crew rosters")).to_have_count(0)
        expect(page.get_by_label(f"Pick {name}: board in Crew rosters")).to_be_visible()
    visit(page, theatre, f"/people/{one}?part=owns")
    page.get_by_text("Who has now what they had …").press("Enter")
    expect(page.get_by_role("img", name=f"What {names[0]} had")).to_be_visible()
    holder = theatre.client.people.show(heir).display_name
    expect(page.get_by_role("row", name="2 rosters in Crew rosters")).to_contain_text(holder)
    assert violations(page) == []


def test_where_a_leaver_is_named_is_shown_and_mended(page: Page, theatre: Theatre) -> None:
    client = theatre.client
    login, heir = joined(theatre, "Deck"), joined(theatre, "Deck")
    do(client, Verb.LEAVER, login, urgent=True, successor=heir)
    key = place(theatre, f"rings {login}")
    sign = place(theatre, f"ask {login}", kind="sign", writable=False)
    visit(page, theatre, f"/people/{login}?part=owns")
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


def test_the_keys_of_whoever_is_to_leave_are_replaced_and_fetched(
    page: Page, theatre: Theatre
) -> None:
    client = theatre.client
    login, heir = joined(theatre, "Deck"), joined(theatre, "Deck")
    said = {"kind": "key", "place": f"Tides {login}", "contact": f"{login}@ferries.example"}
    place(theatre, login, secret=f"old-key-of-{login}", **said)
    new = wl.NewPlan(verb=Verb.LEAVER, who=[login], at="+40d", successor=heir)
    client.plans.confirm(client.plans.make(new))
    visit(page, theatre, f"/people/{login}?part=owns")
    part = page.get_by_role("region", name="Where they are named")
    part.get_by_text("Look where they are named …").press("Enter")
    form = part.get_by_role("form", name="Replace their keys")
    form.get_by_label("Why").fill("they go on")
    form.get_by_role("button", name="Replace their keys").press("Enter")
    row = part.get_by_role("table", name="Keys that took the place").get_by_role("row")
    expect(row.nth(1)).to_contain_text("was told and has not fetched it")
    assert violations(page) == []
    _, token = token_of_key(theatre, said["contact"])
    row.nth(1).get_by_role("button", name="Send another link").press("Enter")
    _, token = token_of_key(theatre, said["contact"], but=token)
    page.goto(f"{theatre.stage.url}/c#{token}")
    page.get_by_role("button", name="Choose one of my own").press("Enter")
    expect(page.get_by_role("main")).to_contain_text(f"the key with which Tides {login} runs")
    page.get_by_role("button", name="Show it").press("Enter")
    secret = page.locator(".secret")
    expect(secret).to_be_visible()
    assert used(theatre, secret.inner_text()) == heir
    assert violations(page) == []


@pytest.mark.usefixtures("restored")
def test_whoever_takes_over_answers_without_signing_in_and_by_telephone(
    page: Page, theatre: Theatre
) -> None:
    crew = theatre.play.crew
    login, (heir,) = owner(theatre), heirs(theatre, 1)
    asking(theatre)
    do(theatre.client, Verb.LEAVER, login, urgent=True, successor=heir)
    token = link(theatre, heir)
    page.set_viewport_size({"width": 390, "height": 800})
    page.goto(f"{theatre.stage.url}/t#{token}")
    rosters = page.get_by_role("listitem").filter(has_text="2 rosters")
    rosters.get_by_role("button", name="Decline").press("Enter")
    rosters.get_by_label("Why you decline").fill("no time")
    assert "#" not in page.url, "the link is in no history"
    assert violations(page) == []
    wide = page.evaluate("document.documentElement.scrollWidth")
    assert wide <= 390
    rosters.get_by_role("button", name="Decline it").press("Enter")
    expect(rosters).to_contain_text("declined")
    assert len(crew.rosters(login)) == 3

    page.set_viewport_size({"width": 1280, "height": 800})
    visit(page, theatre, "/handover")
    asked = page.get_by_role("region", name="Who is asked")
    name = theatre.client.people.show(login).display_name
    asked.get_by_role("button", name=f"the board of {name}").press("Enter")
    form = asked.get_by_role("form", name="Note an answer")
    form.get_by_label("How you know").fill("rang me")
    assert violations(page) == []
    form.get_by_role("button", name="Note it").press("Enter")
    until(lambda: f"Board {login}" in crew.rosters(heir))
    expect(asked.get_by_role("button", name=f"the board of {name}")).to_have_count(0)


def test_a_copy_is_chosen_and_who_lacks_the_account_is_given_one(
    page: Page, theatre: Theatre
) -> None:
    client = theatre.client
    login, heir = engineer(theatre), joined(theatre, "Safety")
    visit(page, theatre, f"/people/{login}?part=owns")
    part = page.get_by_role("region", name="What they own", exact=True)
    expect(part).to_be_visible()
    part.get_by_text("Look in the applications …").press("Enter")
    part.get_by_role("button", name="Settle calendar in Ship mail").press("Enter")
    form = part.get_by_role("form", name="Settle calendar")
    form.get_by_label("Somebody gets a copy").check()
    form.get_by_label("Who gets a copy").focus()
    form.get_by_role("combobox", name="Who gets a copy").fill(heir)
    form.get_by_role("option", name=re.compile(heir)).first.click()
    form.get_by_label("Why").fill("to look things up")
    form.get_by_role("button", name="Settle it").press("Enter")
    name = client.people.show(heir).display_name
    row = part.get_by_role("row", name="1 calendar")
    expect(row).to_contain_text(f"{name} has no open account there")
    give = part.get_by_role("form", name=f"Give {name} an account in Ship mail")
    expect(give.get_by_role("combobox")).to_have_value("Ship mail")
    assert violations(page) == []
    give.get_by_role("button").press("Enter")
    panel = page.get_by_role("dialog")
    expect(panel).to_contain_text("Ship mail")
    confirm = panel.get_by_role("button", name=re.compile("^(Confirm|Carry|Do)"))
    expect(confirm).to_be_enabled()
    confirm.press("Enter")
    until(lambda: client.accounts.page(who=heir, application=SHIP_MAIL).items)
    visit(page, theatre, f"/people/{login}?part=owns")
    part.get_by_text("Look in the applications …").press("Enter")
    expect(row).to_contain_text(f"copied for {name}, goes with the account")
    assert violations(page) == []
