"""What tests do with a page."""

from __future__ import annotations

import re
from pathlib import Path

from playwright.sync_api import Locator, Page, expect

from tests.conftest import Theatre

AXE = Path(__file__).parents[2] / "console/node_modules/axe-core/axe.min.js"


def violations(page: Page) -> list[str]:
    """What axe finds on the page as it is (WCAG 2 A and AA)."""
    page.evaluate(AXE.read_text())
    found = page.evaluate(
        "axe.run({runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'best-practice']})"
    )
    return [
        f"{v['id']}: {v['nodes'][0]['html'][:140]} {v['nodes'][0]['failureSummary'][:200]}"
        for v in found["violations"]
    ]


def visit(page: Page, theatre: Theatre, path: str, patience: float = 15_000) -> None:
    page.goto(theatre.stage.url + path)
    expect(page.get_by_role("heading", level=1)).to_be_visible(timeout=patience)
    expect(page.get_by_role("heading", name="Nothing is here")).to_have_count(0)


def field_of(place: Locator, label: str | re.Pattern[str]) -> Locator:
    """The field of a picker, which has a list beside it under the same label."""
    return place.get_by_label(label).and_(place.page.locator("input"))


def picked(place: Locator, label: str | re.Pattern[str], typed: str, option: str) -> None:
    """Type into a picker and take, by keys, the one option that is left, whose words begin so."""
    field = field_of(place, label)
    field.focus()
    expect(field).to_have_attribute("role", "combobox")  # the list comes once somebody is there
    keyboard = place.page.keyboard
    keyboard.type(typed)
    wanted = place.page.get_by_role("option", name=re.compile(f"^{re.escape(option)}"))
    expect(wanted).to_be_visible()
    keyboard.press("ArrowDown")
    keyboard.press("Enter")
