"""Lists in a real browser: filters and orders, in the address."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.conftest import Theatre
from tests.console.looking import violations, visit


def test_people_are_filtered_and_sorted_and_the_address_says_so(
    page: Page, theatre: Theatre
) -> None:
    visit(page, theatre, "/people")
    first = page.locator("main tbody tr").first
    before = first.inner_text()
    head = page.get_by_role("columnheader", name="Login")
    head.get_by_role("button").click()
    expect(head).to_have_attribute("aria-sort", "ascending")
    head.get_by_role("button").click()
    expect(head).to_have_attribute("aria-sort", "descending")
    expect(first).not_to_have_text(before)
    form = page.get_by_role("form", name="Filters")
    form.get_by_label("Filter by").select_option("department")
    form.get_by_label("Department").fill("engine room")
    page.keyboard.press("Enter")
    expect(form.get_by_text("engine room")).to_be_visible()
    expect(page).to_have_url(re.compile("sort=login&order=descending&department=engine"))
    logins = [
        p.user_name
        for p in theatre.client.people.page(
            department="Engine Room", sort="login", order="descending", limit=100
        ).items
    ]
    expect(page.locator("main tbody tr")).to_have_count(len(logins))
    expect(first).to_contain_text(logins[0])
    assert violations(page) == []
    page.reload()
    expect(first).to_contain_text(logins[0])
    form.get_by_role("button", name="Take away: Department").click()
    expect(page).not_to_have_url(re.compile("department"))
    page.go_back()
    expect(form.get_by_text("engine room")).to_be_visible()


def test_what_no_list_can_be_asked_for_is_said(page: Page, theatre: Theatre) -> None:
    visit(page, theatre, "/people?shoe_size=43")
    expect(page.get_by_role("alert")).to_contain_text("shoe_size")
    visit(page, theatre, "/people?filter=nonsense")
    expect(page.get_by_role("alert")).to_be_visible()
    visit(page, theatre, "/dockets?author=nobody")
    expect(page.get_by_text("No docket fits these filters.")).to_be_visible()
    form = page.get_by_role("form", name="Filters")
    form.get_by_label("Filter by").select_option("verb")
    form.get_by_label("What").select_option("leaver")
    expect(page).to_have_url(re.compile("author=nobody&verb=leaver"))
    assert violations(page) == []
