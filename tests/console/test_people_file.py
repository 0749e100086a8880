"""People from a file in the browser: chosen, corrected, taken; what is wrong comes back as a file."""

from __future__ import annotations

import re
from pathlib import Path

from playwright.sync_api import Page, expect

from tests.acceptance import test_leaver_files as leavers
from tests.acceptance.test_people_files import file_of, person, unique
from tests.conftest import Theatre
from tests.console.looking import violations, visit


def test_a_file_is_read_corrected_and_taken_by_keyboard(
    page: Page, theatre: Theatre, tmp_path: Path
) -> None:
    slip = f"Safety{unique()[1:3]}"
    good, typing, bad = person(), person(Department=slip), person(No="4E+5")
    head = (*good, "No", "Shoe size", "Initial password")
    here = tmp_path / "staff.csv"
    rows = [r | {"Shoe size": "Clerk", "Initial password": "s3cret"} for r in (good, typing, bad)]
    here.write_bytes(file_of(*rows, head=head))
    visit(page, theatre, "/people")
    page.get_by_role("button", name="From a file …").press("Enter")
    dialog = page.get_by_role("dialog", name="From a file")
    assert violations(page) == []
    with page.expect_file_chooser() as chooser:
        dialog.get_by_role("button", name="Choose a file …").press("Enter")
    chooser.value.set_files(here)
    status = dialog.get_by_role("status")
    expect(status).to_contain_text("1 new")
    expect(status).to_contain_text("2 faulty")
    expect(dialog).to_contain_text("Initial password was struck")
    # A column that nobody knows is left out until somebody says what it is.
    expect(dialog.get_by_label("Shoe size")).to_have_value("")
    dialog.get_by_label("Shoe size").select_option("Title")
    expect(dialog.get_by_text("left out").first).to_contain_text("0 left out")
    row = dialog.get_by_role("row").filter(has_text="nearest: Safety")
    right = row.get_by_role("button", name="It is right")
    expect(right).to_be_enabled()
    right.press("Enter")
    expect(status).to_contain_text("2 new")
    page.set_viewport_size({"width": 390, "height": 800})
    assert violations(page) == []
    with page.expect_download() as download:
        dialog.get_by_role("link", name="Download them as a file").click()
    back = Path(download.value.path()).read_text("utf-8-sig")
    assert bad["Login"] in back
    assert good["Login"] not in back
    assert "s3cret" not in back
    dialog.get_by_role("button", name="Take 2 people").press("Enter")
    expect(dialog).to_contain_text("2 people taken")
    assert theatre.client.people.show(typing["Login"]).department == slip
    assert theatre.client.people.show(good["Login"]).title == "Clerk"


def test_leavers_of_a_file_are_planned_and_confirmed_by_keyboard(
    page: Page, theatre: Theatre, tmp_path: Path
) -> None:
    first, second = leavers.somebody(theatre), leavers.somebody(theatre)
    days = leavers.day(theatre, 6)
    here = tmp_path / "leavers.csv"
    rows = (f"{first};;;{days};;;;;moves away;HR-3", f"{second};;;{days};;;;no.one")
    here.write_bytes(leavers.file_of(*rows))
    visit(page, theatre, "/people")
    page.get_by_role("button", name="From a file …").press("Enter")
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("radio", name="Leavers").focus()
    page.keyboard.press("Space")
    with page.expect_file_chooser() as chooser:
        dialog.get_by_role("button", name="Choose a file …").press("Enter")
    chooser.value.set_files(here)
    expect(dialog.get_by_role("status")).to_contain_text("1 to leave")
    expect(dialog.get_by_role("row").filter(has_text="Nobody is called 'no.one'")).to_be_visible()
    assert violations(page) == []
    dialog.get_by_role("button", name="Plan for 1 person …").press("Enter")
    expect(dialog).to_contain_text("from leavers.csv", timeout=20_000)
    dialog.get_by_role("button", name="Carry it out").press("Enter")
    expect(page).to_have_url(re.compile("/dockets/"), timeout=20_000)
    expect(page.get_by_text("HR-3").first).to_be_visible()
    assert theatre.client.people.show(first).access_ends is not None
    assert theatre.client.people.show(second).access_ends is None
