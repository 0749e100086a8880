"""Somebody is entered by the form: slips are told where they are; a joiner and a leaver without the mouse."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.acceptance.test_entry import MEANT, NAMES
from tests.acceptance.test_service import joined
from tests.conftest import Theatre
from tests.console.looking import violations, visit
from tests.entry import Slip, known, slips, unique

LABELS = {
    "user_name": "Login",
    "given_name": "Given name",
    "family_name": "Family name",
    "employee_number": "Number",
    "mail": "Mail address",
    "outside_mail": "Outside mail address",
    "department": "Department",
    "site": "Site",
    "starts": "First day",
    "contract_ends": "Contract ends (if it does)",
    "phone": "Phone",
}
"""The manager is picked: nobody can be named there who is not."""


@pytest.fixture(scope="module")
def table(theatre: Theatre) -> dict[str, Slip]:
    return {s.name: s for s in slips(known(theatre))}


def opened(page: Page, theatre: Theatre) -> Locator:
    visit(page, theatre, "/people")
    page.get_by_role("button", name="New joiner …").press("Enter")
    dialog = page.get_by_role("dialog")
    expect(box(dialog, "Login")).to_be_visible()
    return dialog


def fill(dialog: Locator, fields: dict[str, str]) -> None:
    for name, value in fields.items():
        box(dialog, LABELS[name]).fill(value)


def box(dialog: Locator, label: str) -> Locator:
    """The field itself: a picker's list has its label as well."""
    return dialog.locator("input").and_(dialog.get_by_label(label, exact=True))


def test_slips_are_told_in_the_form(page: Page, theatre: Theatre, table: dict[str, Slip]) -> None:
    dialog = opened(page, theatre)
    for slip in (table[n] for n in NAMES if "manager" not in table[n].fields):
        login = unique()
        names = {"given_name": "Ida", "family_name": login.title()}
        fill(dialog, dict.fromkeys(LABELS, "") | names)
        fill(dialog, {"user_name": login, "mail": "", **slip.fields})
        dialog.get_by_role("button", name="Save and show the plan").press("Enter")
        alert = dialog.get_by_role("alert")
        expect(alert, slip.name).to_contain_text(slip.text)
        if slip.right:
            assert violations(page) == []
            alert.get_by_role("button", name="It is right").press("Enter")
            expect(dialog).to_contain_text("Show the plan", timeout=20_000)
            theatre.client.people.change(login, MEANT)
            dialog = opened(page, theatre)


def test_a_joiner_is_entered_with_pickers_and_no_mouse(page: Page, theatre: Theatre) -> None:
    boss = theatre.play.organisation.of("Timetables")
    family = unique().title()
    dialog = opened(page, theatre)
    box(dialog, "Given name").focus()
    page.keyboard.type("Ida")
    page.keyboard.press("Tab")
    page.keyboard.type(family)
    page.keyboard.press("Tab")
    login = box(dialog, "Login")
    expect(login).to_have_value(re.compile(family.lower()))
    box(dialog, "Department").focus()
    expect(dialog.get_by_role("combobox", name="Department")).to_be_focused()
    page.keyboard.type("Timet")
    expect(dialog.get_by_role("option", name="Timetables")).to_be_visible()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    expect(box(dialog, "Department")).to_have_value("Timetables")
    box(dialog, "Manager").focus()
    expect(dialog.get_by_role("combobox", name="Manager")).to_be_focused()
    page.keyboard.type(boss.user_name)
    expect(dialog.get_by_role("option", name=re.compile(boss.employee_number))).to_be_visible()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    box(dialog, "First day").focus()
    page.keyboard.type("Monday")
    name = login.input_value()
    page.keyboard.press("Enter")
    plan = dialog.get_by_role("button", name="Show the plan", exact=True)
    expect(plan).to_be_visible(timeout=20_000)
    plan.press("Enter")
    expect(dialog.get_by_role("button", name="Carry it out")).to_be_visible(timeout=20_000)
    dialog.get_by_role("button", name="Carry it out").press("Enter")
    expect(page).to_have_url(re.compile("/dockets/"), timeout=20_000)
    made = theatre.client.people.show(name)
    assert made.manager is not None
    assert made.manager.name == boss.display_name
    assert made.starts is not None


def test_a_leaver_from_the_search_key_to_the_docket_without_the_mouse(
    page: Page, theatre: Theatre
) -> None:
    login = joined(theatre, "Deck")
    visit(page, theatre, "/")
    page.keyboard.press("/")
    page.keyboard.type(login)
    page.keyboard.press("Enter")
    link = page.get_by_role("link", name=theatre.client.people.show(login).display_name)
    expect(link).to_be_visible()
    _tab_to(page, link)
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile("/people/"))
    leaves = page.get_by_role("button", name="Leaves …")
    expect(leaves).to_be_visible()
    _tab_to(page, leaves)
    page.keyboard.press("Enter")
    dialog = page.get_by_role("dialog")
    expect(dialog).to_be_visible()
    show = dialog.get_by_role("button", name="Show the plan")
    _tab_to(page, show)
    page.keyboard.press("Enter")
    cut = dialog.get_by_role("button", name="Cut off now")
    expect(cut).to_be_visible(timeout=20_000)
    _tab_to(page, cut)
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile("/dockets/"), timeout=20_000)
    expect(page.get_by_role("heading", level=1)).to_contain_text("Leaver")


def _tab_to(page: Page, there: Locator) -> None:
    """The key a keyboard user has to get there."""
    for _ in range(80):
        if there.evaluate("node => node === document.activeElement"):
            return
        page.keyboard.press("Tab")
    raise AssertionError(f"no key leads to {there}")
