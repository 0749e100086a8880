"""Invitations, duties and credentials of one account, by what an administrator sees and does on a person's page."""

from __future__ import annotations

from playwright.sync_api import Page, expect

from tests.acceptance.test_credentials import STRONG, account, with_mail
from tests.acceptance.test_invitations import exchange, invited
from tests.acceptance.test_standing import until
from tests.conftest import Theatre
from tests.console.looking import violations, visit
from yugum_standins.morrow import REPORTING


def test_an_invitation_is_seen_sent_again_and_a_duty_asked_for(
    page: Page, theatre: Theatre
) -> None:
    look, login = exchange(theatre), invited(theatre)
    visit(page, theatre, f"/people/{login}")
    row = page.get_by_role("row").filter(has_text="Berth exchange").last
    expect(row).to_contain_text("invited, not accepted")
    expect(row).to_contain_text(
        "to do at the first sign-in: enrol a second factor, accept the terms"
    )
    row.get_by_label(f"Actions on {login} in Berth exchange").press("Enter")
    row.get_by_role("button", name="Ask to complete the profile …").press("Enter")
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("complete the profile: not asked for")
    dialog.get_by_role("button", name="Carry it out").press("Enter")
    until(lambda: look.account(login)["duties"] == ["profile", "second_factor", "terms"])
    visit(page, theatre, "/accounts?to_do=invitation")
    expect(page.get_by_role("row").filter(has_text=login)).to_contain_text("invited, not accepted")
    assert violations(page) == []


def test_a_typed_password_is_checked_while_it_is_typed(page: Page, theatre: Theatre) -> None:
    login = with_mail(theatre)
    visit(page, theatre, f"/people/{login}")
    page.get_by_label(f"Actions on {login} in Reporting database").press("Enter")
    page.get_by_role("button", name="Credential …").first.press("Enter")
    dialog = page.get_by_role("dialog")
    dialog.get_by_text("Typed", exact=True).click()
    needs = dialog.get_by_label("What it needs")
    dialog.get_by_label("Password", exact=True).fill("Harbour")
    expect(needs).to_contain_text("✓ a capital letter")
    expect(needs).to_contain_text("· a digit")
    expect(dialog.get_by_role("button", name="Set it")).to_be_disabled()
    dialog.get_by_label("Password", exact=True).fill(STRONG)
    assert violations(page) == []
    dialog.get_by_role("button", name="Set it").press("Enter")
    expect(dialog.get_by_role("status")).to_contain_text("It is being set")
    until(lambda: theatre.reporting.sign_in(login, STRONG))


def test_the_mail_is_looked_at_before_it_goes_elsewhere(page: Page, theatre: Theatre) -> None:
    login = with_mail(theatre)
    assert account(theatre, login, REPORTING)
    visit(page, theatre, f"/people/{login}")
    page.get_by_label(f"Actions on {login} in Reporting database").press("Enter")
    page.get_by_role("button", name="Credential …").first.press("Enter")
    dialog = page.get_by_role("dialog")
    dialog.get_by_text("Link to another address").click()
    to = f"{login}@home.example"
    dialog.get_by_label("Address, this once").fill(to)
    dialog.get_by_label("How you made sure").fill("staff card")
    dialog.get_by_role("button", name="Look at the mail").press("Enter")
    expect(dialog.get_by_label("The mail")).to_contain_text("First sign-in to Reporting database")
    dialog.get_by_label("Address, this once").fill(f"other-{to}")
    expect(dialog.get_by_label("The mail")).to_have_count(0)
    dialog.get_by_role("button", name="Look at the mail").press("Enter")
    dialog.get_by_role("button", name="Send it").press("Enter")
    expect(dialog.get_by_role("status")).to_contain_text(f"has gone to other-{to}")
    assert "/c#" in theatre.play.post.wait(f"other-{to}")["text"]
    assert theatre.play.post.mails(f"^{to}") == []
