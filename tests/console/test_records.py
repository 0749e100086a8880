"""What has its place beside people and dockets: shared credentials, the audit log, holds, withheld notices."""

from __future__ import annotations

import re
import uuid

import pytest
from playwright.sync_api import Page, expect

from tests.acceptance.test_service import joined
from tests.commands import cli
from tests.conftest import Theatre
from tests.console.looking import picked, violations, visit
from tests.console.test_dialogs import closed, is_within_reach
from yugum.core.verbs import Verb
from yugum.errors import NotFound
from yugum.wire import operators as wo
from yugum.wire import plans as wl
from yugum.wire import views as wv
from yugum_standins.load import do
from yugum_standins.morrow import CREW


def test_a_shared_credential_is_written_down_changed_and_dropped(
    page: Page, theatre: Theatre
) -> None:
    login = joined(theatre, "Engine Room")
    name = theatre.client.people.show(login).display_name
    visit(page, theatre, "/access?part=shared")
    page.get_by_role("button", name="New shared credential …").press("Enter")
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name", exact=True).fill("Key box")
    dialog.get_by_label("Where it opens something").fill("Pier office")
    dialog.get_by_label("Short name in commands").fill("key box")
    dialog.get_by_role("button", name="Store").press("Enter")
    expect(dialog.get_by_role("alert")).to_be_visible()
    dialog.get_by_label("Short name in commands").fill("key-box")
    dialog.get_by_role("button", name="Store").press("Enter")
    expect(dialog).to_have_count(0)
    page.get_by_role("link", name="Key box").press("Enter")
    picked(dialog, "Somebody who knows it from now on", login, name)
    dialog.get_by_role("button", name="Add", exact=True).press("Enter")
    expect(dialog.get_by_role("listitem")).to_contain_text(name)
    is_within_reach(page, dialog)
    closed(page)
    do(theatre.client, Verb.LEAVER, login)
    visit(page, theatre, "/access?part=shared")
    row = page.get_by_role("row", name=re.compile("Key box"))
    expect(row).to_contain_text(name)
    page.get_by_role("link", name="Key box").press("Enter")
    dialog.get_by_role("button", name="It is changed").press("Enter")
    expect(dialog.get_by_text("Nobody is named.")).to_be_visible()
    page.keyboard.press("Escape")
    expect(row).not_to_contain_text(name)
    page.get_by_role("link", name="Key box").press("Enter")
    dialog.get_by_role("button", name="Drop Key box …").press("Enter")
    dialog.get_by_role("button", name="Drop it: it is not shared any more").press("Enter")
    expect(dialog).to_have_count(0)
    expect(row).to_have_count(0)
    assert "key-box" not in {one.id for one in theatre.client.shared.all()}


def test_who_did_what_is_found_by_whom_it_is_about(page: Page, theatre: Theatre) -> None:
    login = joined(theatre, "Engine Room")
    visit(page, theatre, "/access?part=audit")
    expect(page.get_by_role("link", name="Export, sealed")).to_be_visible()
    filters = page.get_by_role("form", name="Filters")
    filters.get_by_label("Filter by").select_option("About whom")
    picked(filters, "About whom", login, theatre.client.people.show(login).display_name)
    expect(page).to_have_url(re.compile(f"who={login}"))
    filters.get_by_label("Filter by").select_option("What was done")
    filters.get_by_label("What was done", exact=True).fill("person.created")
    page.keyboard.press("Enter")
    rows = page.get_by_role("main").get_by_role("row").filter(has_text="person.created")
    expect(rows).to_have_count(1)
    expect(rows).to_contain_text(f"user name: {login}")
    assert violations(page) == []
    rows.get_by_role("link", name=theatre.client.people.show(login).display_name).press("Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text(
        theatre.client.people.show(login).display_name
    )
    visit(page, theatre, "/access?part=audit&who=nobody-of-that-name")
    expect(page.get_by_role("alert")).to_be_visible()


def test_operators_and_integrations_are_lists_whose_rows_open(page: Page, theatre: Theatre) -> None:
    client, some = theatre.client, uuid.uuid4().hex[:6]
    hand, mate, feed = f"{some}-hand", f"{some}-mate", f"{some}-feed"
    for login in (hand, mate):
        client.operators.add(wo.NewOperator(login=login, name=login.title(), role="viewer"))
    client.integrations.add(wo.NewIntegration(login=feed, name="Tides", role="viewer"))
    visit(page, theatre, f"/access?part=operators&q={hand.upper()}&active=true")
    rows = page.get_by_role("region", name="Operators").get_by_role("row")
    expect(rows).to_have_count(2)
    rows.get_by_role("link", name=hand).press("Enter")
    expect(page).to_have_url(re.compile("open="))
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Role").select_option("operator")
    change = dialog.get_by_role("button", name="Change the role")
    change.press("Enter")
    expect(change).to_be_disabled()  # it is the role by now
    is_within_reach(page, dialog)
    assert violations(page) == []
    dialog.get_by_role("button", name=f"Disable {hand} …").press("Enter")
    dialog.get_by_role("button", name="Disable: sessions and tokens end").press("Enter")
    expect(dialog).to_have_count(0)  # a disabled one does not fit the filters any more
    expect(page.get_by_text("Nothing fits these filters")).to_be_visible()
    assert [o.role for o in client.operators.all(q=hand, active=False)] == ["operator"]
    visit(page, theatre, "/access?part=integrations")
    page.get_by_role("link", name=feed).press("Enter")
    dialog.get_by_label("Who answers for it from now on").fill("nobody-of-that-name")
    dialog.get_by_role("button", name="Pass it on").press("Enter")
    expect(dialog.get_by_role("alert")).to_contain_text("no active operator")
    dialog.get_by_label("Who answers for it from now on").fill(mate)
    dialog.get_by_role("button", name="Pass it on").press("Enter")
    expect(dialog).to_contain_text(f"{mate} answers for it")
    dialog.get_by_role("button", name=f"End {feed} …").press("Enter")
    dialog.get_by_role("button", name="End it, and its tokens").press("Enter")
    expect(page.get_by_role("row").filter(has_text=feed)).to_contain_text("ended")


def test_a_view_of_the_audit_log_leads_back_to_it(page: Page, theatre: Theatre) -> None:
    name = f"Who came in {uuid.uuid4().hex[:6]}"
    query = {"action": "operator.added"}
    kept = theatre.client.views.keep(wv.NewView(page="audit", name=name, query=query))
    visit(page, theatre, "/access?part=audit")
    page.get_by_role("link", name=name).press("Enter")
    expect(page).to_have_url(re.compile(r"part=audit&action=operator\.added"))
    expect(page.get_by_role("link", name=name)).to_have_attribute("aria-current", "true")
    rows = page.get_by_role("region", name="Who did what").get_by_role("row")
    expect(rows.nth(1)).to_contain_text("operator.added")
    rows.nth(1).get_by_role("link").first.press("Enter")
    expect(page.get_by_role("dialog")).to_contain_text("By the machine’s clock")
    theatre.client.views.drop(kept.id)


def test_an_application_is_put_on_hold_where_it_stands(page: Page, theatre: Theatre) -> None:
    visit(page, theatre, f"/applications/{CREW}")
    page.get_by_role("button", name="Hold …").press("Enter")
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Reason, for the record").fill("an audit is under way")
    dialog.get_by_role("button", name="Hold it").press("Enter")
    expect(dialog).to_have_count(0)
    visit(page, theatre, "/last-call")
    row = page.get_by_role("row", name=re.compile("an audit is under way"))
    expect(row).to_contain_text("Crew rosters")
    (held,) = [h for h in theatre.client.decisions.holds() if h.application_id == CREW]
    theatre.client.decisions.end(held.id)
    expect(row).to_have_count(0)


def test_notices_that_were_withheld_are_sent_from_the_docket(page: Page, theatre: Theatre) -> None:
    login = joined(theatre, "Engine Room")
    plans = theatre.client.plans
    batch = plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[login], urgent=True, confidential=True))
    number = plans.fire(batch.id)[0].number
    list(theatre.client.dockets.follow(number))
    assert f"yugum dockets tell {number}" in cli(theatre, "dockets", "show", number).stdout
    visit(page, theatre, f"/dockets/{number}")
    expect(page.get_by_text("notices are withheld")).to_be_visible()
    page.get_by_role("button", name="Send the notices").press("Enter")
    page.get_by_role("button", name=re.compile("^Send them")).press("Enter")
    expect(page.get_by_text("notices are withheld")).to_have_count(0)
    assert not theatre.client.dockets.show(number).withheld
    assert "tell" not in cli(theatre, "dockets", "show", number).stdout


def test_somebody_who_is_here_twice_becomes_one(page: Page, theatre: Theatre) -> None:
    keep, gone = joined(theatre, "Engine Room"), joined(theatre, "Engine Room")
    visit(page, theatre, f"/people/{keep}")
    page.get_by_role("button", name="Correct …").press("Enter")
    page.get_by_role("button", name="Here twice …").press("Enter")
    dialog = page.get_by_role("dialog", name=re.compile("is here twice$"))
    expect(dialog.get_by_role("button", name="Make one of them")).to_be_disabled()
    name = theatre.client.people.show(gone).display_name
    picked(dialog, re.compile("^The other record of them"), gone, name)
    expect(dialog).to_contain_text(f"Crew rosters {gone}")
    is_within_reach(page, dialog)
    page.set_viewport_size({"width": 1280, "height": 800})
    dialog.get_by_label("Reason, for the record").fill("entered twice")
    dialog.get_by_role("button", name="Make one of them").press("Enter")
    follows = page.get_by_role("dialog", name=re.compile("^Recheck"))
    expect(follows).to_contain_text("Crew rosters")
    with pytest.raises(NotFound):
        theatre.client.people.show(gone)
    logins = {a.login for a in theatre.client.people.show(keep).accounts}
    assert {keep, gone} <= logins
    follows.get_by_role("button", name="Carry it out").press("Enter")
    expect(page).to_have_url(re.compile("/dockets/"))
    number = page.url.rsplit("/", 1)[1]
    assert list(theatre.client.dockets.follow(number))[-1].state == "done"
    mine = {
        a.login: a.state
        for a in theatre.client.people.show(keep).accounts
        if a.application_id == CREW
    }
    assert mine[keep] == "active"
    assert mine[gone] != "active"
