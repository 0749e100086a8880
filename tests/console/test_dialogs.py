"""Every dialog: readable and within reach in a wide window, on a phone and with text twice as large."""

from __future__ import annotations

import os
import re

from playwright.sync_api import Locator, Page, expect

from tests.acceptance.test_service import joined
from tests.conftest import Theatre
from tests.console.looking import field_of, picked, violations, visit
from yugum.core.verbs import Verb
from yugum.wire import plans as wl
from yugum_standins.load import do
from yugum_standins.morrow import CREW, DIRECTORY

SIZES = ((1280, 800), (390, 800), (640, 400))
"""As wide as a desk's and a phone's window, and as whoever reads with 200 % has the first one."""
FULL = os.environ.get("YUGUM_TESTS") == "full"
"""Whether axe looks at them in every size, or in the first one."""
PLAIN = {
    "/people New joiner …": "New joiner",
    "/people From a file …": "From a file",
    "/people Columns, views, files …": "This list",
    "/applications Connect an application": "Connect an application",
    f"/applications/{CREW} Windows, limits, seats …": "windows, seats and limits",
    f"/applications/{CREW} Hold …": "Hold",
    f"/applications/{CREW} Disconnect …": "Disconnect",
    f"/applications/{DIRECTORY} attributes …": "Attributes in",
    "/groups New group …": "New group",
    "/access?part=operators New operator …": "New operator",
    "/access?part=tokens New token …": "New API token",
    "/access?part=integrations New integration …": "New integration",
    "/access?part=shared New shared credential …": "New shared credential",
    "/access Set password …": "Set your password",
}
"""Where a dialog is opened by which button, and what its title says."""
OF_A_PERSON = {
    "Correct …": "Correct",
    "Decide …": "Decide about",
    "Move": "Move",
    "Rename": "Rename",
    "Absent": "Absence",
    "Precaution …": "Precaution",
    "Leaves …": "Leaver",
    "Cut off now": "Leaver",
    "Recheck …": "Recheck",
    "Bring back": "Return",
}


def is_within_reach(page: Page, dialog: Locator) -> None:
    """Title and buttons stay in sight in every size, nothing is wider, and axe finds nothing."""
    for width, height in SIZES:
        page.set_viewport_size({"width": width, "height": height})
        expect(dialog).to_be_visible()
        box = dialog.bounding_box()
        assert box is not None
        assert box["x"] >= 0
        assert box["x"] + box["width"] <= width
        assert box["y"] + box["height"] <= height, "its end is in the window"
        expect(dialog.locator("[data-part=title]")).to_be_in_viewport()
        for button in dialog.locator(".buttons button").all():
            expect(button).to_be_in_viewport(ratio=0.9)
        if FULL or (width, height) == SIZES[0]:  # it takes a second each time
            assert violations(page) == [], (width, height)
        assert page.evaluate("document.documentElement.scrollWidth") <= width


def opened(page: Page, button: Locator, title: str) -> Locator:
    button.first.click()
    dialog = page.get_by_role("dialog", name=re.compile(title, re.IGNORECASE))
    expect(dialog).to_be_visible()
    page.wait_for_load_state("networkidle")
    return dialog


def closed(page: Page) -> None:
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    page.set_viewport_size({"width": SIZES[0][0], "height": SIZES[0][1]})


def test_dialogs_of_pages(page: Page, theatre: Theatre) -> None:
    for said, title in PLAIN.items():
        path, _, button = said.partition(" ")
        visit(page, theatre, path)
        named = page.get_by_role("main").get_by_role("button", name=button)
        is_within_reach(page, opened(page, named, title))
        closed(page)


def test_dialogs_of_a_person(page: Page, theatre: Theatre) -> None:
    login = joined(theatre, "Engine Room")
    visit(page, theatre, f"/people/{login}")
    for button, title in OF_A_PERSON.items():
        if button == "Recheck …":
            _astray(theatre, login)
            visit(page, theatre, f"/people/{login}")
        if button == "Bring back":
            do(theatre.client, Verb.LEAVER, login)
            visit(page, theatre, f"/people/{login}")
        named = page.get_by_role("main").get_by_role("button", name=button, exact=True)
        is_within_reach(page, opened(page, named, title))
        closed(page)


def _astray(theatre: Theatre, login: str) -> None:
    theatre.crew.leave(login, "Rosters")
    theatre.client.applications.read(CREW)


def test_keys_and_a_group_in_their_dialogs(page: Page, theatre: Theatre) -> None:
    visit(page, theatre, "/")
    page.keyboard.press("?")
    is_within_reach(page, page.get_by_role("dialog", name="Keys"))
    closed(page)
    visit(page, theatre, "/groups")
    page.get_by_role("main").get_by_role("table").get_by_role("link").first.click()
    is_within_reach(page, page.get_by_role("dialog"))
    closed(page)


def test_steps_are_left_out_in_the_dialog_and_the_head_tells_of_the_rest(
    page: Page, theatre: Theatre
) -> None:
    login = joined(theatre, "Engine Room")
    whole = theatre.client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[login], urgent=True))
    count = len(whole.plans[0].steps)
    visit(page, theatre, f"/people/{login}")
    page.get_by_role("button", name="Cut off now").click()
    dialog = page.get_by_role("dialog")
    head = whole.plans[0].summary[0]
    expect(dialog).to_contain_text(head)
    dialog.get_by_text("Leave steps out …").click()
    boxes = dialog.get_by_role("group").get_by_role("checkbox")
    boxes.first.check()
    without = dialog.get_by_role("button", name="Show the plan without them")
    expect(without).to_be_disabled()
    dialog.get_by_label("Why they are left out").fill("the drill goes on")
    without.press("Enter")
    expect(dialog).to_contain_text("1 step left out: the drill goes on.")
    is_within_reach(page, dialog)
    page.set_viewport_size({"width": 1280, "height": 800})
    expect(boxes).to_have_count(count - 1)
    for box in boxes.all():
        box.check()
    dialog.get_by_label("Why they are left out").fill("all of it waits")
    without.press("Enter")
    expect(dialog).to_contain_text("every step is left out")
    dialog.get_by_role("button", name="Do them after all").press("Enter")
    expect(dialog).to_contain_text(head)
    closed(page)


def test_a_correction_is_stored_at_once_and_what_follows_is_a_plan(
    page: Page, theatre: Theatre
) -> None:
    login = joined(theatre, "Engine Room")
    before = theatre.client.people.show(login)
    visit(page, theatre, f"/people/{login}")
    page.get_by_role("button", name="Correct …").click()
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_role("button", name="Nothing is changed")).to_be_disabled()
    dialog.get_by_label("Mail address", exact=True).fill("not an address")
    dialog.get_by_role("button", name="Correct 1 field").press("Enter")
    expect(dialog.get_by_role("alert")).to_be_visible()
    assert theatre.client.people.show(login).rev == before.rev, "nothing half done"
    dialog.get_by_label("Mail address", exact=True).fill(f"{login}@morrowsound.example")
    dialog.get_by_label("Title", exact=True).fill("Second engineer")
    dialog.get_by_label("Reason, for the record").fill("misread on the form")
    dialog.get_by_role("button", name="Correct 2 fields").press("Enter")
    expect(page.get_by_role("dialog", name=re.compile("^Correct"))).to_have_count(0)
    after = theatre.client.people.show(login)
    assert (after.title, after.mail) == ("Second engineer", f"{login}@morrowsound.example")
    assert after.facts[0].reason == "misread on the form"
    follows = page.get_by_role("dialog", name=re.compile("^Recheck"))
    due = theatre.client.plans.make(wl.NewPlan(verb=Verb.RECHECK, who=[login])).plans[0]
    expect(follows).to_contain_text(due.summary[0])
    closed(page)
    page.get_by_role("button", name="Correct …").click()
    theatre.client.people.change(login, {"phone": "+00 555 0199"})
    dialog.get_by_label("Called").fill("Skip")
    dialog.get_by_role("button", name="Correct 1 field").press("Enter")
    expect(dialog.get_by_role("alert")).to_contain_text("changed by somebody else meanwhile")
    closed(page)


def test_a_decision_is_made_with_pickers_and_what_follows_is_a_plan(
    page: Page, theatre: Theatre
) -> None:
    login = joined(theatre, "Engine Room")
    visit(page, theatre, f"/people/{login}")
    page.get_by_role("button", name="Decide …").press("Enter")
    dialog = page.get_by_role("dialog", name=re.compile("^Decide about"))
    picked(dialog, "Role", "Dec", "Deck")
    expect(field_of(dialog, "Role")).to_have_value("Deck")
    dialog.get_by_label("Reason, for the record").fill("lends a hand")
    dialog.get_by_label(re.compile("^Until")).fill("+10d")
    dialog.get_by_role("button", name="Decide, and show what follows").press("Enter")
    follows = page.get_by_role("dialog", name=re.compile("^Recheck"))
    expect(follows).to_contain_text("Deck crew")
    (made,) = theatre.client.people.decisions(login)
    assert (made.kind, made.payload.role, made.reason) == ("role", "Deck", "lends a hand")
    assert made.ends_at is not None
    closed(page)
    page.get_by_role("button", name="Decide …").press("Enter")
    dialog.get_by_label("What is decided").select_option("deny")
    picked(dialog, "Application", "Crew", "Crew rosters")
    field_of(dialog, "Entitlement").focus()
    expect(field_of(dialog, "Entitlement")).to_have_attribute("role", "combobox")
    page.keyboard.type("Roster")
    expect(page.get_by_role("option", name="Rosters", exact=True)).to_be_visible()
    page.keyboard.type("z")
    dialog.get_by_label("Reason, for the record").fill("works ashore")
    dialog.get_by_role("button", name="Decide, and show what follows").press("Enter")
    expect(dialog.get_by_role("alert")).to_contain_text("Rosterz")
    dialog.get_by_label(re.compile("nobody holds it there yet")).check()
    field_of(dialog, "Entitlement").fill("Rosterq")
    dialog.get_by_role("button", name="Decide, and show what follows").press("Enter")
    # Of one thing it was said that it is right, and not of what was typed after it.
    expect(dialog.get_by_role("alert")).to_contain_text("Rosterq")
    field_of(dialog, "Entitlement").fill("Rosters")
    dialog.get_by_role("button", name="Decide, and show what follows").press("Enter")
    expect(follows).to_contain_text("Rosters")
    assert len(list(theatre.client.people.decisions(login))) == 2
    closed(page)
    page.get_by_role("button", name="Decide …").press("Enter")
    dialog.get_by_label("What is decided").select_option("hold")
    dialog.get_by_label("Reason, for the record").fill("a claim is open")
    dialog.get_by_role("button", name="Decide", exact=True).press("Enter")
    expect(page.get_by_role("dialog")).to_have_count(0)
    assert "hold" in {d.kind for d in theatre.client.people.decisions(login)}
