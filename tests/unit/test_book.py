"""The book: what the core says and plans, page by page, as it was read and found right.

A page that has changed is shown as a difference. Read it; if that is what is meant, write it down with
``YUGUM_WRITE_BOOK=1 python -m pytest tests/unit/test_book.py`` and look at the difference in git.
"""

from __future__ import annotations

import os
from pathlib import Path

import pytest

from tests.book import plans, words
from tests.book.show import Lines

BOOK = Path(__file__).parents[1] / "data/book"
PAGES = {
    f"{module.__name__.rsplit('.', 1)[1]}-{name}": page
    for module, names in (
        (
            plans,
            "people states decisions profiles successors quick closing undo returns renames reverts",
        ),
        (
            words,
            "actions facets tasks lives obligations guards approvals records sentences names passwords "
            "moments people wanted windows procedures",
        ),
    )
    for name in names.split()
    for page in (getattr(module, name),)
}


@pytest.mark.parametrize("name", PAGES)
def test_the_book_says_what_is_done(name: str) -> None:
    page: Lines = PAGES[name]()
    said = "\n".join(page) + "\n"
    place = BOOK / f"{name}.txt"
    if os.environ.get("YUGUM_WRITE_BOOK"):
        place.write_text(said)
    assert said.splitlines() == place.read_text().splitlines()
