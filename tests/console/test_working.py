"""Several people at once in real browsers: views, what others do, what is picked, and pickers by keyboard."""

from __future__ import annotations

import re
from collections.abc import Iterator
from datetime import timedelta
from functools import partial
from typing import Literal

import pytest
from playwright.sync_api import Browser, Page, Route, expect

from tests.acceptance.test_handover import owner
from tests.acceptance.test_service import joined
from tests.acceptance.test_standing import until
from tests.conftest import Theatre
from tests.console.looking import violations, visit
from tests.console.test_console import PAGES
from yugum.core.operators import OperatorRole
from yugum.core.verbs import Verb
from yugum.wire import operators as wo
from yugum.wire import plans as wl
from yugum_standins.morrow import CREW


@pytest.fixture(scope="module")
def colleague(browser: Browser, theatre: Theatre) -> Iterator[Page]:
    """Another operator in a browser of their own."""
    body = wo.NewOperator(login="colleague", name="Colleague", role=OperatorRole.OPERATOR)
    theatre.client.operators.add(body)
    context = browser.new_context(viewport={"width": 1280, "height": 800}, reduced_motion="reduce")
    made = context.new_page()
    made.goto(theatre.client.operators.link("colleague").link)
    expect(made.get_by_role("navigation", name="Pages")).to_be_visible()
    yield made
    context.close()


def test_a_filter_is_kept_shared_and_opened_by_another_operator(
    page: Page, colleague: Page, theatre: Theatre
) -> None:
    dark = page.evaluate("matchMedia('(prefers-color-scheme: dark)').matches")
    name = "Deck by login" if dark else "Deck hands"
    visit(page, theatre, "/people?department=Deck&sort=login")
    page.get_by_role("button", name="Columns, views, files").click()
    dialog = page.get_by_role("dialog", name="This list")
    dialog.get_by_label("Access ends", exact=True).check()
    dialog.get_by_label("under the name").fill(name)
    dialog.get_by_label("Other operators see it too").check()
    dialog.get_by_role("button", name="Keep it").click()
    expect(dialog.get_by_role("listitem").filter(has_text=name)).to_contain_text("yours, shared")
    assert violations(page) == []
    with page.expect_download() as waiting:
        dialog.get_by_role("link", name="CSV").click()
    text = waiting.value.path().read_text("utf-8-sig")
    rows = theatre.client.people.page(department="Deck", sort="login", limit=200).items
    assert text.splitlines()[0].endswith("access_ends,open_accounts,state")
    assert [line.split(",")[1] for line in text.splitlines()[1:]] == [r.user_name for r in rows]
    dialog.get_by_role("button", name="Done").click()
    visit(colleague, theatre, "/people")
    link = colleague.get_by_role("navigation", name="Views").get_by_role("link", name=name)
    expect(link).to_contain_text("of iholm")
    link.click()
    expect(colleague.locator("main tbody tr").first).to_contain_text(rows[0].user_name)
    expect(colleague.get_by_role("columnheader", name="Access ends")).to_be_visible()
    colleague.get_by_role("button", name="Columns, views, files").click()
    theirs = colleague.get_by_role("dialog", name="This list")
    theirs.get_by_role("button", name=f"start with {name}").click()
    expect(theirs.get_by_role("listitem").filter(has_text=name)).to_contain_text("your start")
    colleague.goto(theatre.stage.url)
    expect(colleague).to_have_url(re.compile("/people.*department=Deck"))
    colleague.get_by_role("link", name="Day sheet").click()
    expect(colleague).to_have_url(f"{theatre.stage.url}/")


def test_each_sees_what_the_other_has_just_done(
    page: Page, colleague: Page, theatre: Theatre
) -> None:
    login = joined(theatre, "Safety")
    visit(page, theatre, f"/people/{login}")
    visit(colleague, theatre, f"/people/{login}")
    mark = "() => (document.body.dataset.same = 'yes')"
    page.evaluate(mark)
    colleague.get_by_role("button", name="Absent").click()
    dialog = colleague.get_by_role("dialog")
    dialog.get_by_label("Until").fill("+5d")
    expect(dialog.locator("output").last).to_contain_text("2031")
    dialog.get_by_role("button", name="Show the plan").click()
    dialog.get_by_role("button", name="Carry it out").click()
    expect(page.get_by_role("button", name="Bring back")).to_be_visible(timeout=15_000)
    assert page.evaluate("document.body.dataset.same") == "yes", "without loading it again"


def test_eight_tabs_of_one_browser_work_and_all_see_a_change(
    colleague: Page, theatre: Theatre
) -> None:
    """A browser has six connections to a service: one stream is enough for all tabs, and one closes."""
    login = joined(theatre, "Safety")
    tabs = [colleague.context.new_page() for _ in range(8)]
    for tab in tabs:
        visit(tab, theatre, f"/people/{login}", patience=20_000)  # eight on two cores
    tabs.pop(0).close()  # the next one listens for the others
    tabs[-1].wait_for_timeout(4000)
    wish = wl.NewPlan(verb=Verb.ABSENCE, who=[login], until="+5d")
    theatre.client.plans.confirm(theatre.client.plans.make(wish))
    for tab in tabs:
        expect(tab.get_by_role("button", name="Bring back")).to_be_visible(timeout=15_000)
        tab.close()


def test_all_that_match_are_frozen_at_the_preview(
    page: Page, theatre: Theatre, browser: Browser
) -> None:
    crew = [joined(theatre, "Ticketing") for _ in range(2)]
    late = joined(theatre, "Safety")
    named = " or ".join(f'userName eq "{login}"' for login in (*crew, late))
    visit(page, theatre, f'/people?filter=department eq "Ticketing" and ({named})')
    expect(page.locator("main tbody tr")).to_have_count(2)
    page.get_by_label("Pick all that are shown").check()
    region = page.get_by_role("region", name="What is picked")
    expect(region).to_contain_text("2 people")
    region.get_by_role("button", name="Absence …").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("button", name="Show the plan").click()
    expect(dialog.get_by_role("button", name="Carry it out")).to_be_visible()
    move = wl.NewPlan(verb=Verb.MOVER, who=[late], changes={"department": "Ticketing"})
    number = theatre.client.plans.confirm(theatre.client.plans.make(move))[0].number
    list(theatre.client.dockets.follow(number))
    dialog.get_by_role("button", name="Carry it out").click()
    expect(page.get_by_role("heading", name="Dockets")).to_be_visible()
    absent = {d.subject_login for d in theatre.client.dockets.all(verb="absence")}
    assert set(crew) <= absent
    assert late not in absent


def test_all_that_fit_are_picked_where_more_fit_than_are_shown(
    page: Page, theatre: Theatre
) -> None:
    visit(page, theatre, "/people?state=active")
    page.get_by_label("Pick all that are shown").check()
    region = page.get_by_role("region", name="What is picked")
    total = theatre.client.people.page(state="active").total
    region.get_by_role("button", name=f"Pick all {total} that fit").click()
    expect(region).to_contain_text(f"all {total} that fit")
    expect(page.locator("main tbody input").last).to_be_checked()
    assert violations(page) == []
    region.get_by_role("button", name="New credentials …").press("Enter")
    dialog = page.get_by_role("dialog")
    who = [p.id for p in theatre.client.people.all(state="active")]
    issued = [r for w in theatre.client.credentials.issue(who, look=True) for r in w]
    told = f"{len(issued)} accounts of {len({r.person_id for r in issued})} people"
    expect(dialog.get_by_role("status")).to_contain_text(told, timeout=30_000)
    dialog.get_by_role("button", name="Close").press("Enter")
    page.locator("main tbody input").first.uncheck()
    expect(region).to_contain_text(re.compile(r"\d+ people"))


@pytest.mark.parametrize("zoom", [1, 2])
def test_pickers_by_keyboard(page: Page, theatre: Theatre, zoom: int) -> None:
    """Also as whoever reads with 200 % has it: half of the window's width and height."""
    login = joined(theatre, "Deck")
    boss = theatre.play.organisation.of("Timetables")
    visit(page, theatre, f"/people/{login}")
    page.set_viewport_size({"width": 1280 // zoom, "height": 800 // zoom})
    page.get_by_role("button", name="Leaves …").press("Enter")
    dialog = page.get_by_role("dialog")
    when = dialog.get_by_label("When (now if left out)")
    when.focus()
    page.keyboard.type("Fri 17:0")
    expect(dialog.locator("output").first).to_contain_text("Write 2031-03-07")
    expect(when).to_have_attribute("aria-invalid", "true")
    page.keyboard.type("0")
    expect(dialog.locator("output").first).to_contain_text(re.compile(r"Fri, \d+ \w+ 2031, 17:00"))
    page.keyboard.press("Tab")
    page.keyboard.press("Enter")
    calendar = dialog.get_by_role("application", name=re.compile("Calendar")).or_(
        dialog.locator(".days")
    )
    expect(calendar.first).to_be_visible()
    assert violations(page) == []
    for key in ("Tab", "Tab", "Tab", "ArrowDown", "Enter"):  # month before, next month, the day
        page.keyboard.press(key)
    expect(when).to_have_value(re.compile(r"^2031-\d\d-\d\d 17:00$"))
    friday = theatre.client.clock.moment("Fri 17:00").at
    assert when.input_value() == f"{friday + timedelta(days=7):%Y-%m-%d} 17:00", "a week on"
    successor = dialog.get_by_label("Successor")
    successor.focus()
    successor = dialog.get_by_role("combobox", name="Successor")
    expect(successor).to_be_focused()
    page.keyboard.type(boss.user_name)
    option = dialog.get_by_role("option", name=re.compile(boss.employee_number))
    expect(option).to_be_visible()
    assert violations(page) == []
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    expect(successor).to_have_value(boss.display_name)
    page.keyboard.press("ArrowDown")
    expect(option).to_be_visible()
    page.keyboard.press("Escape")  # closes the list, not the dialog
    expect(successor).to_have_value(boss.display_name)
    dialog.get_by_role("button", name="Show the plan").press("Enter")
    expect(dialog.get_by_role("button", name="Set the cut-off")).to_be_visible()
    page.keyboard.press("Escape")
    page.set_viewport_size({"width": 1280, "height": 800})


def test_known_values_are_picked_by_keyboard(page: Page, theatre: Theatre) -> None:
    visit(page, theatre, "/people")
    form = page.get_by_role("form", name="Filters")
    form.get_by_label("Filter by").select_option("department")
    form.get_by_label("Department").focus()
    department = form.get_by_role("combobox", name="Department")
    expect(department).to_be_focused()
    page.keyboard.type("harb")
    expect(page.get_by_role("option", name="Harbour Operations")).to_be_visible()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    expect(department).to_have_value("Harbour Operations")
    form.get_by_role("button", name="Add").press("Enter")
    expect(page).to_have_url(re.compile("department=Harbour"))


def test_an_application_is_picked_by_a_part_of_its_name(page: Page, theatre: Theatre) -> None:
    visit(page, theatre, "/accounts")
    form = page.get_by_role("form", name="Filters")
    form.get_by_label("Filter by").select_option(label="Application")
    form.get_by_label("Application", exact=True).click()
    field = form.get_by_role("combobox", name="Application")
    expect(field).to_be_focused()
    field.press_sequentially("rosters")
    offered = form.get_by_role("listbox", name="Application").get_by_role("option")
    expect(offered).to_have_count(1)
    assert violations(page) == []
    field.press("Enter")
    expect(page).to_have_url(re.compile(f"application={CREW}"))
    cell = page.locator("main tbody tr td[data-label='Application']").first
    expect(cell).to_have_text("Crew rosters")


def test_all_that_can_come_back_is_picked_page_after_page(page: Page, theatre: Theatre) -> None:
    client, logins = theatre.client, [joined(theatre, "Safety") for _ in range(3)]
    for login in logins:
        account = client.accounts.page(who=login, application=CREW).items[0].id
        wish = wl.NewPlan(verb=Verb.ACCOUNT, who=[login], accounts=[account], action="delete")
        list(client.dockets.follow(client.plans.confirm(client.plans.make(wish))[0].number))

    def one_a_page(route: Route) -> None:
        route.continue_(url=re.sub(r"limit=\d+", "limit=1", route.request.url))

    page.route("**/api/v1/last-call*", one_a_page)
    visit(page, theatre, f"/last-call?application={CREW}")
    page.get_by_role("checkbox", name="Pick all that are shown").check()
    page.get_by_role("button", name=re.compile(r"Pick all \d+ that fit")).click()
    page.get_by_role("button", name="Restore them …").click()
    plan = page.get_by_role("dialog")
    for login in logins:
        expect(plan).to_contain_text(re.compile(login, re.IGNORECASE))
    assert violations(page) == []
    plan.get_by_role("button", name="Carry it out").click()
    there = partial(client.accounts.page, application=CREW)
    until(lambda: {there(who=w).items[0].state.value for w in logins} == {"suspended"})


def test_what_an_address_asks_for_and_nobody_knows_is_said(page: Page, theatre: Theatre) -> None:
    for path, text in (
        ("/mails?open=nobody", "not among those shown"),
        ("/mails?unsent=perhaps", "unsent"),
        ("/access?part=cellar", "no part cellar"),
        ("/last-call?days=soon", "days"),
        ("/seats?pool=nothing", "no pool nothing"),
    ):
        visit(page, theatre, path)
        expect(page.get_by_role("alert")).to_contain_text(text)


def test_what_became_of_a_docket_is_told_elsewhere_and_nowhere_else(
    page: Page, theatre: Theatre
) -> None:
    client, login = theatre.client, joined(theatre, "Safety")
    made = client.plans.confirm(
        client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[login], at="+3d"))
    )[0]
    shown, number = page.context.new_page(), made.number
    told = page.get_by_role("region", name=re.compile("otifications")).get_by_text(number)
    mine = re.compile("/api/v1/dockets.*author=")
    with page.expect_response(mine):
        visit(page, theatre, "/findings")
    with shown.expect_response(mine):
        visit(shown, theatre, f"/dockets/{number}")
    client.dockets.cancel(number, "not after all")
    expect(told).to_be_visible()
    close = page.get_by_role("button", name=re.compile(f"Close: {number}"))
    close.focus()  # as long as somebody is there it stays
    assert violations(page) == []
    expect(shown.locator("main")).to_contain_text("cancelled")
    expect(shown.get_by_role("link", name=re.compile(f"^{number}:"))).to_have_count(0)
    shown.close()
    close.press("Enter")
    expect(told).to_have_count(0)


@pytest.mark.parametrize("scheme", ["light", "dark"])
def test_a_phone_reads_rows_from_top_to_bottom(
    browser: Browser, theatre: Theatre, scheme: Literal["light", "dark"]
) -> None:
    context = browser.new_context(
        viewport={"width": 390, "height": 800}, reduced_motion="reduce", color_scheme=scheme
    )
    phone = context.new_page()
    phone.goto(theatre.client.operators.link("iholm").link)
    expect(phone.get_by_role("navigation", name="Pages")).to_be_visible()
    for path in PAGES:
        visit(phone, theatre, path)
        expect(phone.get_by_role("heading", level=1)).to_be_visible()
        phone.wait_for_timeout(800)  # others' work goes on: the network is never idle for long
        if path in ("/people", "/accounts", "/findings", "/seats"):
            expect(phone.locator("main table.list td[data-label]").first).to_be_visible()
        wide = phone.evaluate("document.documentElement.scrollWidth")
        assert wide <= 390, f"{path} is {wide} wide"
        assert violations(phone) == [], path
    context.close()


def test_a_long_list_draws_what_is_in_sight_and_keys_go_through_it(
    page: Page, theatre: Theatre
) -> None:
    visit(page, theatre, "/accounts")
    page.get_by_role("button", name="Show more").click()
    box = page.get_by_role("region", name="Accounts")
    table = box.get_by_role("table")
    expect(table).to_have_attribute("aria-rowcount", re.compile(r"\d{3}"))
    assert box.locator("tbody tr:not([aria-hidden])").count() < 60
    assert violations(page) == []
    box.get_by_role("link").first.focus()
    page.keyboard.press("j")
    expect(box.locator("tr[aria-rowindex='3'] a")).to_be_focused()
    page.keyboard.press("End")
    total = str(theatre.client.accounts.page().total)
    for _ in range(20):
        page.keyboard.press("End")
        if table.get_attribute("aria-rowcount") == str(int(total) + 1):
            break
        page.wait_for_timeout(150)
    page.keyboard.press("End")
    last = box.locator(f"tr[aria-rowindex='{int(total) + 1}'] a")
    expect(last).to_be_focused()
    page.keyboard.press("Home")
    expect(box.locator("tr[aria-rowindex='2'] a")).to_be_focused()


def test_what_somebody_owns_is_settled_kind_by_kind(page: Page, theatre: Theatre) -> None:
    client, login = theatre.client, owner(theatre)
    heir = joined(theatre, "Deck")
    visit(page, theatre, f"/people/{login}?part=owns")
    page.get_by_text("Look in the applications …").press("Enter")
    part = page.get_by_role("region", name="What they own")
    expect(part).to_contain_text("2 of 2 are open")
    part.get_by_role("button", name="Settle roster").press("Enter")
    form = part.get_by_role("form", name="Settle roster")
    form.get_by_label("Who takes over").focus()
    form.get_by_role("combobox", name="Who takes over").fill(heir)
    form.get_by_role("option", name=re.compile(heir)).first.click()
    form.get_by_label("Why").fill("the crew")
    form.get_by_role("button", name="Settle it").press("Enter")
    expect(part).to_contain_text("1 of 2 are open")
    expect(part.get_by_role("row", name="2 rosters")).to_contain_text("(the crew)")
    part.get_by_role("button", name="Settle board").press("Enter")
    form = part.get_by_role("form", name="Settle board")
    form.get_by_label("Goes with the account", exact=True).check()
    form.get_by_label("It does not come back").fill("wrong")
    form.get_by_label("Why").fill("no use")
    form.get_by_role("button", name="Settle it").press("Enter")
    expect(part.get_by_role("alert")).to_contain_text("does not come back")
    assert violations(page) == []
    form.get_by_label("It does not come back").fill(login)
    form.get_by_role("button", name="Settle it").press("Enter")
    expect(part).to_contain_text("All of it is settled")
    assert client.handover.show(login).open == 0
    part.get_by_role("button", name="As for the rest: board").press("Enter")
    expect(part).to_contain_text("1 of 2 are open")
    part.get_by_role("button", name="Settle roster").press("Enter")
    form = part.get_by_role("form", name="Settle roster")
    form.get_by_label("The account is kept for it").check()
    form.get_by_label("Until (empty").fill("+40d")
    form.get_by_label("Only those called").fill("south *")
    form.get_by_label("Why").fill("an audit")
    form.get_by_role("button", name="Settle it").press("Enter")
    kept = part.get_by_role("row", name="1 roster called south *")
    expect(kept).to_contain_text("kept with the account until")
    expect(part.get_by_role("row", name=f"1 roster North {login}")).to_contain_text("(the crew)")
    assert violations(page) == []
