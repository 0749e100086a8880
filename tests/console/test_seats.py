"""A pool by what an administrator sees and does: bought, what comes, taken back."""

from __future__ import annotations

from datetime import timedelta
from decimal import Decimal

import yaml
from playwright.sync_api import Page, expect

from tests.acceptance.test_seats import adopt, done, held, named, pool_of
from tests.acceptance.test_service import newcomer
from tests.conftest import Theatre
from tests.console.looking import violations, visit
from tests.signing import for_now, token_of
from tests.waiting import until
from yugum.client import Client
from yugum_standins.look import PostLook
from yugum_standins.morrow import CREW, PLANNER, REPORTING, RULES


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
    for form, begins in (("PNG", b"\x89PNG\r\n"), ("CSV", b"begins,ends,bought,taken")):
        with page.expect_download() as taken:
            pressed(page, f"As {form}")
        assert taken.value.path().read_bytes().startswith(begins)
    page.get_by_text("What if …").press("Enter")
    page.get_by_label("So many began").fill("9")
    page.get_by_label("On", exact=True).fill(str(today + timedelta(days=5)))
    pressed(page, "Show what would come")
    expect(page.get_by_text("at most 9 seats lacking")).to_be_visible()
    assert violations(page) == []
    pressed(page, "As it is")
    expect(page.get_by_text("It does not run short")).to_be_visible()
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


def test_more_are_ordered_by_one_and_agreed_to_by_another(page: Page, theatre: Theatre) -> None:
    client, license = theatre.client, named()
    pool = pool_of(client, license, 1)
    visit(page, theatre, f"/seats?pool={pool.id}")
    page.get_by_text("Ask for more …").press("Enter")
    page.get_by_label("How many", exact=True).fill("4")
    page.get_by_label("What for").fill("the fair")
    pressed(page, "Ask for them")
    expect(page.get_by_role("heading", name="4 seats, asked")).to_be_visible()
    (order,) = client.orders.all(pool_id=pool.id)
    part = page.get_by_role("region", name=order.name)
    expect(part).to_contain_text("4 seats, asked")
    assert violations(page) == []
    with (
        for_now(client, "buyer", "administrator"),
        Client(theatre.stage.url, token_of(client, theatre.stage.url, "buyer")) as other,
    ):
        pressed(page, "Agree")
        expect(page.get_by_role("alert")).to_contain_text("Nobody agrees to what they asked for")
        other.orders.decide(order.id, agreed=True)
    expect(part).to_contain_text("4 seats, agreed")  # by another one, elsewhere
    page.get_by_label("How many arrived (all if empty)").fill("3")
    pressed(page, "They have arrived")
    expect(part).to_contain_text("3 seats arrived")
    assert client.seats.show(pool.id).bought == 4


def test_a_seat_is_set_aside_and_no_longer(page: Page, theatre: Theatre) -> None:
    client, license = theatre.client, named()
    pool = pool_of(client, license, 3)
    visit(page, theatre, f"/seats?pool={pool.id}")
    page.get_by_text("Set aside, or pass on …").press("Enter")
    page.get_by_label("Or for those of a filter").fill('title eq "Rigger"')
    page.get_by_label("Seats to set aside").fill("2")
    page.get_by_label("Why they are set aside").fill("the June crew")
    pressed(page, "Set aside")
    row = page.get_by_role("row").filter(has_text="the June crew")
    expect(row).to_contain_text("0 of 2 taken")
    assert client.seats.show(pool.id).reserved == 2
    assert violations(page) == []
    row.get_by_role("button").press("Enter")
    expect(page.get_by_text("Nothing is set aside.")).to_be_visible()
    assert client.seats.show(pool.id).reserved == 0


def test_cells_of_people_by_licenses_are_given_and_taken(page: Page, theatre: Theatre) -> None:
    client, one, other = theatre.client, named("One"), named("Other")
    for license in (one, other):
        pool_of(client, license, 5)
    try:
        adopt(client, {}, Cell7=[one])
        login = newcomer(theatre, title="Cell7")
        done(client, login)
        person = client.people.show(login)
        visit(page, theatre, f"/seats?matrix={REPORTING}&filter=title+eq+%22Cell7%22")
        name = person.display_name
        page.get_by_role("button", name=f"{name}, {one}: by the role Cell7").press("Enter")
        page.get_by_role("button", name=f"{name}, {other}: no seat").press("Enter")
        expect(page.get_by_text("1 seat to give, 1 seat to take")).to_be_visible()
        assert violations(page) == []
        page.get_by_label("Why", exact=True).fill("the other does")
        page.get_by_role("button", name="Look at the plan …").press("Enter")
        dialog = page.get_by_role("dialog", name="Give and take: 2 seats")
        dialog.get_by_role("button", name="Carry it out").press("Enter")
        until(lambda: held(client, login) == {other: "held"})
    finally:
        client.rules.adopt(RULES, "as before", take_away=10_000)


def test_whoever_is_asked_says_that_a_seat_is_still_needed(page: Page, theatre: Theatre) -> None:
    client = theatre.client
    pool = next(p for p in client.seats.all() if p.license == PLANNER)
    document = yaml.safe_load(RULES)
    document["licenses"] = {CREW: {PLANNER: {"unused_days": 20, "ask_days": 5}}}
    client.rules.adopt(yaml.safe_dump(document), "asked first", take_away=10_000)
    try:
        client.seats.ask_unused(pool.id)
        login = next(r.login for r in client.seats.asked(pool.id) if not r.answer)
        mail = PostLook(theatre.stage.folder).wait(client.people.show(login).mail, "still need")
        page.goto(f"{theatre.stage.url}/k#{mail['text'].rsplit('/k#', 1)[1].strip()}")
        expect(page.get_by_text(f"account {login}")).to_be_visible()
        assert "#" not in page.url, "the link is in no history"
        assert violations(page) == []
        page.get_by_role("button", name="I still need it").press("Enter")
        expect(page.get_by_role("status")).to_contain_text("You keep it")
        row = next(r for r in client.seats.asked(pool.id) if r.login == login)
        assert row.answer == "kept"
    finally:
        client.rules.adopt(RULES, "as before", take_away=10_000)


def test_reports_are_told_with_their_picture_and_taken_along(page: Page, theatre: Theatre) -> None:
    visit(page, theatre, "/reports?report=seats-costs")
    reports = page.get_by_role("navigation", name="Reports")
    for name in ("Costs by month", "Held today", "Could come back"):
        reports.get_by_role("link", name=name).press("Enter")
        expect(page.get_by_role("heading", name=name)).to_be_visible()
        expect(page.get_by_role("img", name=name)).to_be_visible()
        expect(page.get_by_role("row").nth(1)).to_be_visible()
        assert violations(page) == []
    with page.expect_download() as taken:
        page.get_by_role("link", name="Workbook (XLSX)").press("Enter")
    assert taken.value.path().read_bytes().startswith(b"PK")
    page.emulate_media(media="print")
    expect(reports).to_be_hidden()
    expect(page.get_by_role("navigation", name="Pages")).to_be_hidden()
    expect(page.get_by_role("row").nth(1)).to_be_visible()
    page.emulate_media(media="screen")
