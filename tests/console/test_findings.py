"""Findings acted upon where they stand: many accepted at once, told again, cut off."""

from __future__ import annotations

import re
from datetime import timedelta

import psycopg
from playwright.sync_api import Page, expect

from tests.acceptance.test_findings import NOBODY, keys_of, strangers
from tests.acceptance.test_service import joined
from tests.conftest import Theatre
from tests.console.looking import violations, visit
from tests.waiting import until
from yugum_standins.morrow import CREW


def pick(page: Page, login: str) -> None:
    page.get_by_label(re.compile(f"^Pick .*{login}")).check()


def test_forty_findings_are_accepted_at_once_and_one_is_told_again(
    page: Page, theatre: Theatre
) -> None:
    logins = strangers(theatre, 43)
    visit(page, theatre, f"/findings?kind={NOBODY.value}")
    for login in logins[:40]:
        pick(page, login)
    bar = page.get_by_role("region", name="What is picked")
    expect(bar).to_contain_text("40 findings")
    bar.get_by_role("button", name="Accept …").press("Enter")
    form = bar.get_by_role("form", name="Accept findings")
    assert violations(page) == []
    form.get_by_label("Until (at most 90 days)").fill("+120d")
    form.get_by_label("Why they may be so").fill("they are being moved")
    form.get_by_role("button", name="Accept them").press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("at most 90 days")
    form.get_by_label("Until (at most 90 days)").fill("+60d")
    form.get_by_role("button", name="Accept them").press("Enter")
    until(lambda: keys_of(theatre, logins).keys() == {*logins[40:]})
    expect(page.get_by_label(re.compile(f"^Pick .*{logins[0]}"))).to_have_count(0)
    page.get_by_label("Those that are accepted").check()
    pick(page, logins[0])
    row = page.get_by_role("row", name=re.compile(f"^Pick .*{logins[0]}"))
    expect(row).to_contain_text("being moved")
    bar.get_by_role("button", name="Tell them again").press("Enter")
    until(lambda: logins[0] in keys_of(theatre, logins))


def test_accounts_with_nobody_behind_are_cut_off_where_they_are_found(
    page: Page, theatre: Theatre
) -> None:
    logins = strangers(theatre, 2)
    visit(page, theatre, f"/findings?kind={NOBODY.value}")
    for login in logins:
        pick(page, login)
    bar = page.get_by_role("region", name="What is picked")
    bar.get_by_role("button", name="Cut off 2 accounts …").press("Enter")
    panel = page.get_by_role("dialog")
    confirm = panel.get_by_role("button", name=re.compile("^(Confirm|Carry|Do|Cut)"))
    expect(confirm).to_be_enabled()
    assert violations(page) == []
    confirm.press("Enter")
    crew = theatre.crew
    until(lambda: not any((crew.user(login) or {})["active"] for login in logins))
    theatre.client.applications.read(CREW)
    until(lambda: not keys_of(theatre, logins))


def test_whose_an_account_is_said_where_it_is_found(page: Page, theatre: Theatre) -> None:
    login, owner = strangers(theatre, 1)[0], joined(theatre, "Safety")
    visit(page, theatre, f"/findings?kind={NOBODY.value}")
    pick(page, login)
    bar = page.get_by_role("region", name="What is picked")
    bar.get_by_role("button", name="Whose it is …").press("Enter")
    form = bar.get_by_role("form", name="Whose it is")
    form.get_by_label("Whose").fill(owner)
    form.get_by_label("As").select_option("service")
    assert violations(page) == []
    form.get_by_role("button", name="Link 1 account").press("Enter")
    until(lambda: login not in keys_of(theatre, [login]))
    expect(page.get_by_label(re.compile(f"^Pick .*{login}"))).to_have_count(0)
    found = [a for a in theatre.client.accounts.page(who=owner).items if a.login == login]
    assert [(a.kind, a.application_id) for a in found] == [("service", CREW)]


def test_their_course_is_drawn_until_now_and_can_be_taken_along(
    page: Page, theatre: Theatre
) -> None:
    strangers(theatre, 1)
    before = theatre.client.clock.show().now.date() - timedelta(days=20)
    with psycopg.connect(theatre.stage.env["YUGUM_DATABASE_URL"]) as connection:
        connection.execute(
            """INSERT INTO finding_days VALUES (%s, '{"nobody-behind": 7}', '{}')
               ON CONFLICT (day) DO UPDATE SET counts = excluded.counts""",
            [before],
        )
    visit(page, theatre, f"/findings?kind={NOBODY.value}")
    page.get_by_text("Course over weeks").click()
    drawing = page.get_by_role("img", name=re.compile("^nobody behind it: "))
    count = sum(c.count for c in theatre.client.findings.counts() if c.kind == NOBODY)
    expect(drawing).to_have_accessible_name(re.compile(rf" {count} on \d+ \w+ \d{{4}}\.$"))
    with page.expect_download() as got:
        page.get_by_role("button", name="As CSV").click()
    rows = got.value.path().read_text().splitlines()
    assert rows[0] == "day,found"
    assert f"{before},7" in rows
    assert rows[-1] == f"{theatre.client.clock.show().now.date()},{count}"
    assert violations(page) == []
