"""A pool by what an administrator sees and does: bought, what comes, taken back."""

from __future__ import annotations

from datetime import timedelta
from decimal import Decimal

from playwright.sync_api import Page, expect

from tests.acceptance.test_seats import adopt, done, held, named, pool_of, until
from tests.acceptance.test_service import newcomer
from tests.conftest import Theatre
from tests.console.looking import violations, visit
from yugum_standins.morrow import RULES


def pressed(page: Page, name: str) -> None:
    """A button, once nothing is on its way any more."""
    button = page.get_by_role("button", name=name)
    expect(button).to_be_enabled()
    button.press("Enter")


def test_seats_are_bought_and_the_day_they_run_short_is_seen(page: Page, theatre: Theatre) -> None:
    client, license = theatre.client, named()
    today = client.clock.show().now.date()
    view = pool_of(client, license, price=Decimal("12.00"), period="year", notice_days=10)
    visit(page, theatre, f"/seats?pool={view.id}")
    expect(page.get_by_text("Nothing was bought.")).to_be_visible()
    page.get_by_label("Seats", exact=True).fill("7")
    page.get_by_label("Last day of the term, if it ends").fill(str(today + timedelta(days=40)))
    page.get_by_label("Order").fill("PO 9")
    pressed(page, "Add")
    row = page.get_by_role("row").filter(has_text="PO 9")
    expect(row).to_contain_text("7")
    assert client.seats.show(view.id).bought == 7
    expect(page.get_by_text("It does not run short")).to_be_visible()
    expect(page.get_by_role("img", name="does not run short")).to_be_visible()
    expect(page.get_by_text("they are not needed then")).to_be_visible()
    page.get_by_text("As a table, and what is assumed").press("Enter")
    expect(page.get_by_text("Terms that end are not renewed")).to_be_visible()
    page.get_by_text("Price and terms …").press("Enter")
    expect(page.get_by_label("Price of a seat")).to_have_value("12.00")
    page.get_by_label("Price of a seat").fill("12.505")
    pressed(page, "Save")
    expect(page.get_by_role("alert")).to_contain_text("12.505 is no amount of EUR")
    page.get_by_label("Price of a seat").fill("18.60")
    pressed(page, "Save")
    expect(page.get_by_text("€18.60 a year and seat")).to_be_visible()
    assert violations(page) == []


def test_seats_that_could_come_back_are_picked_and_taken_back(page: Page, theatre: Theatre) -> None:
    client, one, other = theatre.client, named("One"), named("Other")
    for license in (one, other):
        pool_of(client, license, 3, price=Decimal("5.00"))
    try:
        adopt(client, {one: {"instead_of": [other]}}, Both6=[one, other])
        login = newcomer(theatre, title="Both6")
        done(client, login)
        pool = next(p for p in client.seats.all() if p.license == one)
        visit(page, theatre, f"/seats?pool={pool.id}")
        row = page.get_by_role("row").filter(has_text="another seat does as well")
        expect(row).to_contain_text("€5.00")
        assert violations(page) == []
        row.get_by_role("checkbox").press(" ")
        page.get_by_label("Why", exact=True).fill("one is enough")
        page.get_by_role("button", name="Take back …").press("Enter")
        dialog = page.get_by_role("dialog", name="Take back: 1 seat")
        expect(dialog).to_contain_text("one is enough")
        dialog.get_by_role("button", name="Carry it out").press("Enter")
        until(lambda: held(client, login) == {other: "held"})
    finally:
        client.rules.adopt(RULES, "as before", take_away=10_000)
