"""What is not as it should be, put right or settled where it is seen."""

from __future__ import annotations

import re
import uuid

from playwright.sync_api import FilePayload, Page, expect

from tests.acceptance.test_service import joined
from tests.acceptance.test_standing import the_line
from tests.conftest import Theatre
from tests.console.looking import violations, visit
from tests.console.test_dialogs import is_within_reach
from yugum.core.lines import LineStatus
from yugum.wire import applications as wap
from yugum.wire import people as wp
from yugum_standins.morrow import CREW


def test_a_difference_is_accepted_for_a_time_and_no_longer(page: Page, theatre: Theatre) -> None:
    login = joined(theatre, "Engine Room")
    theatre.crew.leave(login, "Rosters")
    theatre.client.applications.read(CREW)
    visit(page, theatre, f"/people/{login}")
    row = page.get_by_role("row").filter(has_text="entitlement Rosters")
    row.get_by_role("button", name="Accept …").press("Enter")
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Until").fill("last Tuesday")
    dialog.get_by_label("Reason, for the record").fill("on another watch")
    dialog.get_by_role("button", name="Accept it").press("Enter")
    expect(dialog.get_by_role("alert").first).to_be_visible()
    assert the_line(theatre, login).status is LineStatus.FINDING
    dialog.get_by_label("Until").fill("+2d")
    is_within_reach(page, dialog)
    assert violations(page) == []
    dialog.get_by_role("button", name="Accept it").press("Enter")
    expect(dialog).to_have_count(0)
    expect(row).to_contain_text("on another watch")
    assert the_line(theatre, login).accepted_until is not None
    row.get_by_role("button", name="Accept it no longer").press("Enter")
    expect(row.get_by_role("button", name="Accept …")).to_be_visible()
    assert the_line(theatre, login).status is LineStatus.FINDING


def test_a_birthday_that_is_kept_later_tells_who_may_be_the_same(
    page: Page, theatre: Theatre
) -> None:
    some = uuid.uuid4().hex[:6]
    first, second = f"{some}a", f"{some}b"
    born = f"{1950 + int(some, 16) % 50}-04-{1 + int(some, 16) % 28:02}"
    same = {"given_name": "Oda", "family_name": f"Vik{some}"}
    theatre.client.people.create([wp.NewPerson(user_name=first, birthday=born, **same)])
    theatre.client.people.create(
        [wp.NewPerson(user_name=second, given_name="Oda", family_name=f"Lund{some}")]
    )
    visit(page, theatre, f"/people/{second}")
    page.get_by_role("button", name="Correct …").press("Enter")
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Birthday, kept as a digest").fill(born)
    dialog.get_by_label("Called").fill("Odi")
    dialog.get_by_role("button", name="Correct 2 fields").press("Enter")
    expect(dialog.get_by_role("status")).to_contain_text(first)
    assert theatre.client.people.show(second).nick_name == "Odi"
    assert violations(page) == []
    dialog.get_by_role("button", name="Go on").press("Enter")
    expect(page.get_by_role("dialog", name=re.compile("^Correct"))).to_have_count(0)


def a_file(text: str) -> FilePayload:
    return {"name": "held.csv", "mimeType": "text/csv", "buffer": text.encode()}


def test_the_file_of_an_application_by_hand_is_taken_and_read(page: Page, theatre: Theatre) -> None:
    applications, name = theatre.client.applications, f"hand-{uuid.uuid4().hex[:6]}"
    applications.connect(wap.ConnectApplication(id=name, name=name.title(), kind="manual"))
    try:
        visit(page, theatre, f"/applications/{name}")
        field = page.locator("input[type=file]")
        field.set_input_files(a_file("login,shoe\na,44\n"))
        expect(page.get_by_role("alert")).to_contain_text("shoe")
        assert theatre.client.accounts.page(application=name).items == []
        field.set_input_files(a_file(f"login\n{name}-a\n{name}-b\n"))
        expect(page.get_by_text("2 accounts taken and read.")).to_be_visible()
        expect(page.get_by_role("heading", name="Accounts: 2")).to_be_visible()
        assert violations(page) == []
    finally:
        plan = applications.plan_disconnection(name, erase=True)
        applications.disconnect(plan, "over", typed=name)
