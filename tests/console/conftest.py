"""A browser and a signed-in page."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.conftest import Theatre

# How long a page may take is measured by the bench; here it is waited for, on a busy machine too.
expect.set_options(timeout=20_000)


@pytest.fixture(scope="session")
def browser_type_launch_args(browser_type_launch_args: dict[str, Any]) -> dict[str, Any]:
    return {
        **browser_type_launch_args,
        "executable_path": "/usr/bin/chromium",
        "args": [
            "--no-sandbox",
            "--disable-gpu",
            "--disable-dev-shm-usage",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            "--no-first-run",
        ],
    }


@pytest.fixture(scope="module", params=["light", "dark"])
def page(request: pytest.FixtureRequest, browser: Browser, theatre: Theatre) -> Iterator[Page]:
    """A signed-in page; any error in the browser's console fails its test."""
    context = browser.new_context(
        viewport={"width": 1280, "height": 800},
        color_scheme=request.param,
        reduced_motion="reduce",
    )
    made = context.new_page()
    troubles: list[str] = []
    made.on("pageerror", lambda error: troubles.append(str(error)))
    made.on(
        "console",
        lambda m: (
            troubles.append(m.text)
            if m.type == "error" and "Failed to load resource" not in m.text
            else None
        ),
    )
    made.goto(theatre.client.operators.link("iholm").link)
    expect(made.get_by_role("navigation", name="Pages")).to_be_visible()
    yield made
    context.close()
    assert troubles == []
