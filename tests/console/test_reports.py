"""The day sheet's acts, reports and their files, an application, a batch, the history of a person."""

from __future__ import annotations

import csv
import io
import re
import zipfile
from pathlib import Path
from xml.etree import ElementTree

from playwright.sync_api import Page, expect

from tests.acceptance.test_service import joined
from tests.acceptance.test_standing import until
from tests.conftest import Theatre
from tests.console.looking import violations, visit
from yugum.core.dockets import Settlement
from yugum.core.verbs import Verb
from yugum.wire import decisions as wde
from yugum.wire import plans as wl
from yugum_standins.load import do
from yugum_standins.morrow import CREW

SHEET = "{http://schemas.openxmlformats.org/spreadsheetml/2006/main}"


def test_a_stuck_step_is_settled_from_the_day_sheet_in_three_keys(
    page: Page, theatre: Theatre
) -> None:
    client, login = theatre.client, joined(theatre, "Safety")
    for left in client.day().stuck:  # by other tests, and first on the sheet
        client.dockets.settle(left.step_id, Settlement.BY_HAND, "by another test")
    until(lambda: not client.day().stuck)
    theatre.crew.fault(read_only=1)
    try:
        (docket,) = client.plans.confirm(
            client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=[login]))
        )
        until(lambda: [s for s in client.day().stuck if s.number == docket.number])
    finally:
        theatre.crew.fault(read_only=0)
    name = client.people.show(login).display_name
    visit(page, theatre, "/")
    mine = page.get_by_role("button", name=re.compile(f"Settle … {name}, Crew"))
    expect(mine).to_be_visible()
    page.keyboard.press("s")
    expect(mine).to_be_focused()
    page.keyboard.press("Enter")
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_role("button", name="Retry")).to_be_focused()
    assert violations(page) == []
    page.keyboard.press("Enter")
    expect(dialog).to_have_count(0)
    until(lambda: client.dockets.show(docket.number).state == "done")
    assert not (theatre.crew.user(login) or {})["active"]


def cells(path: Path) -> list[list[str]]:
    """The rows of a workbook's first sheet, as a spreadsheet reads them."""
    with zipfile.ZipFile(path) as book:
        strings = (
            ElementTree.fromstring(book.read("xl/sharedStrings.xml"))
            if "xl/sharedStrings.xml" in book.namelist()
            else None
        )
        shared = (
            ["".join(t.text or "" for t in si.iter(f"{SHEET}t")) for si in strings]
            if strings is not None
            else []
        )
        sheet = ElementTree.fromstring(book.read("xl/worksheets/sheet1.xml"))
    rows = []
    for row in sheet.iter(f"{SHEET}row"):
        found = []
        for cell in row.iter(f"{SHEET}c"):
            value, inline = cell.find(f"{SHEET}v"), cell.find(f"{SHEET}is")
            if inline is not None:
                found.append("".join(t.text or "" for t in inline.iter(f"{SHEET}t")))
            elif value is None:
                found.append("")
            else:
                found.append(
                    shared[int(value.text or 0)] if cell.get("t") == "s" else value.text or ""
                )
        rows.append(found)
    return rows


def test_a_report_is_opened_again_from_its_files(page: Page, theatre: Theatre) -> None:
    login = joined(theatre, "Deck")
    number = do(theatre.client, Verb.LEAVER, login)
    visit(page, theatre, "/reports?report=leavers")
    expect(page.get_by_role("img", name="Leavers")).to_be_visible()
    shown = page.get_by_role("row").filter(has_text=number)
    expect(shown.first).to_contain_text("within a minute")
    count = shown.count()
    taken = {}
    for link in ("CSV", "Workbook (XLSX)"):
        with page.expect_download() as download:
            page.get_by_role("link", name=link).press("Enter")
        taken[link] = download.value.path()
    text = taken["CSV"].read_text("utf-8-sig")
    mine = [r for r in csv.DictReader(io.StringIO(text)) if r["number"] == number]
    assert len(mine) == count
    assert {r["user_name"] for r in mine} == {login}
    assert {r["lateness"] for r in mine} == {"within-a-minute"}
    head, *rows = cells(taken["Workbook (XLSX)"])
    again = [dict(zip(head, row, strict=False)) for row in rows]
    assert [r["id"] for r in again if r["number"] == number] == [r["id"] for r in mine]
    for report in ("Cut-off times", "Access left", "Nobody behind", "Costs by month"):
        page.get_by_role("navigation", name="Reports").get_by_role("link", name=report).press(
            "Enter"
        )
        expect(page.get_by_role("heading", name=report)).to_be_visible()
        assert violations(page) == []
    visit(page, theatre, "/reports?report=leaver")
    expect(page.get_by_role("alert")).to_contain_text("There is no report leaver.")
    visit(page, theatre, "/reports?report=leavers&begin=2001-01-01&end=2001-01-02")
    expect(page.get_by_text("Nothing is to be told of these days.")).to_be_visible()


def test_an_application_shows_its_accounts_readings_and_window(
    page: Page, theatre: Theatre
) -> None:
    login = joined(theatre, "Deck")
    visit(page, theatre, f"/applications/{CREW}?q={login}")
    expect(page.get_by_role("heading", level=1)).to_have_text("Crew rosters")
    expect(page.get_by_role("img", name="Suspended when somebody leaves")).to_be_visible()
    expect(page.get_by_role("heading", name="Accounts: 1 fit")).to_be_visible()
    expect(page.get_by_role("link", name=login)).to_be_visible()
    before = theatre.client.applications.readings(CREW).items
    page.get_by_role("button", name="Read now").press("Enter")
    until(lambda: len(theatre.client.applications.readings(CREW).items) > len(before))
    assert violations(page) == []
    visit(page, theatre, "/applications/no-such")
    expect(page.get_by_role("heading", level=1)).to_have_text("No such application")


def test_a_batch_is_one_page_and_a_decision_is_ended_in_the_history(
    page: Page, theatre: Theatre
) -> None:
    client = theatre.client
    logins = [joined(theatre, "Deck") for _ in range(2)]
    dockets = client.plans.confirm(client.plans.make(wl.NewPlan(verb=Verb.LEAVER, who=logins)))
    for docket in dockets:
        list(client.dockets.follow(docket.number))
    batch = client.dockets.show(dockets[0].number).batch_id
    visit(page, theatre, f"/dockets?batch={batch}")
    together = page.get_by_role("region", name="Confirmed together")
    expect(together).to_contain_text("2 dockets confirmed together")
    expect(together).to_contain_text("2 people are cut off: half of them within")
    expect(page.get_by_role("link", name=dockets[0].number)).to_be_visible()
    assert violations(page) == []
    today = client.clock.show().now.date()
    for field, day, count in (("Due from", today, 1), ("Due before", today, 0)):
        page.get_by_label("Filter by").select_option(label=field)
        page.get_by_label(field, exact=True).fill(day.isoformat())
        page.get_by_role("button", name="Add", exact=True).press("Enter")
        expect(page.get_by_role("button", name=f"Take away: {field}")).to_be_visible()
        expect(page.get_by_role("link", name=dockets[0].number)).to_have_count(count)
    stays = joined(theatre, "Deck")
    grant = wde.DecisionPayload(application=CREW, kind="entitlement", item="Night duty")
    client.decisions.make(
        wde.NewDecision(who=stays, kind="grant", payload=grant, reason="the spring fair")
    )
    visit(page, theatre, f"/people/{stays}")
    page.get_by_role("tab", name="History").press("Enter")
    row = page.get_by_role("row", name=re.compile("the spring fair"))
    expect(row).to_contain_text("entitlement Night duty in Crew rosters")
    assert violations(page) == []
    row.get_by_role("button", name="End it").press("Enter")
    expect(row).to_contain_text(", over")
