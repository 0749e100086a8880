"""The book: what the core says and plans, page by page, as it was read and found right.

A page that has changed is shown as a difference. Read it; if that is what is meant, write it down with
``YUGUM_WRITE_BOOK=1 python -m pytest tests/unit/test_book.py`` and look at the difference in git.
"""

from __future__ import annotations

import os
from pathlib import Path

import pytest

from tests.book.pages import PAGES

BOOK = Path(__file__).parents[1] / "data/book"


@pytest.mark.parametrize("name", PAGES)
def test_the_book_says_what_is_done(name: str) -> None:
    said = "\n".join(PAGES[name]()) + "\n"
    place = BOOK / f"{name}.txt"
    if os.environ.get("YUGUM_WRITE_BOOK"):
        place.write_text(said)
    assert said.splitlines() == place.read_text().splitlines()
