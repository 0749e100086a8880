"""An installation that is just begun, in the browser: the first steps until there is a day to look at."""

from __future__ import annotations

from pathlib import Path

import psycopg
from playwright.sync_api import Browser, expect

from tests.begun import begun
from tests.console.looking import violations
from yugum.cluster import Cluster


def test_a_link_leads_through_the_first_steps(
    browser: Browser, cluster: Cluster, database_url: str, tmp_path: Path
) -> None:
    with psycopg.connect(cluster.url(), autocommit=True) as connection:
        connection.execute("DROP ROLE IF EXISTS first_one")
        connection.execute("CREATE ROLE first_one LOGIN")
    staff = tmp_path / "staff.csv"
    staff.write_text("Login,First name,Last name,Department\nfirst_one,Jo,Lund,Deck\n")
    with begun(database_url) as (_, link):
        page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
        page.goto(link)
        steps = page.get_by_role("region", name="First steps").get_by_role("listitem")
        expect(steps.nth(0)).to_have_attribute("aria-current", "step", timeout=20_000)
        assert violations(page) == []
        steps.nth(0).get_by_role("button").press("Enter")
        dialog = page.get_by_role("dialog")
        dialog.get_by_label("New password").fill("a long new password")
        page.keyboard.press("Enter")
        expect(steps.nth(1)).to_have_attribute("aria-current", "step")
        steps.nth(1).get_by_role("button", name="From a file …").press("Enter")
        with page.expect_file_chooser() as chooser:
            dialog.get_by_role("button", name="Choose a file …").press("Enter")
        chooser.value.set_files(staff)
        dialog.get_by_role("button", name="Take 1 person").press("Enter")
        expect(dialog).to_contain_text("1 person taken")
        page.keyboard.press("Escape")
        expect(steps.nth(1)).to_contain_text("1 person")
        steps.nth(2).get_by_role("button", name="Connect …").press("Enter")
        dialog.get_by_label("Name", exact=True).fill("Reports")
        dialog.get_by_role("combobox").select_option("postgres")
        dialog.get_by_label("Token, password or connection URL").fill(cluster.url())
        dialog.get_by_role("button", name="Connect and read").press("Enter")
        expect(steps.nth(2)).to_contain_text("Reports", timeout=20_000)
        page.set_viewport_size({"width": 390, "height": 800})
        assert violations(page) == []
        steps.nth(3).get_by_role("link", name="Write them").press("Enter")
        expect(page).to_have_url(f"{link.partition('/welcome')[0]}/rules")
        page.context.close()
