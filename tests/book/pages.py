"""Every page of the book by its name."""

from __future__ import annotations

from collections.abc import Callable

from tests.book import plans, words
from tests.book.show import Lines

PAGES: dict[str, Callable[[], Lines]] = {
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
