"""Birthdays tell people apart, and are kept by nobody: what is kept is a digest that only this installation makes."""

from __future__ import annotations

import re
from collections.abc import Callable
from datetime import date

from yugum.errors import InvalidInput

Digest = Callable[[str], str]
"""What a text is kept as: the same for the same text, of no use without this installation's key."""

YOUNGEST, OLDEST = 10, 120
"""Years; whoever would be younger or older has been mistyped."""
MARK = "#"
"""What a digest in a cell of a kept or rejected file begins with."""
NONE = f"{MARK}?"
"""A cell in whose place was no birthday."""
_DIGEST = re.compile(re.escape(MARK) + r"(?P<digest>[0-9a-f]{32})")
REMEDY = "Write the day they were born as 1990-05-31."


def digest_of(text: str, today: date, digest: Digest) -> str:
    """What a birthday is kept as; "" for none.

    Raises:
        InvalidInput: it is no day somebody who works here was born on.
    """
    if not text:
        return ""
    try:
        day = date.fromisoformat(text.strip())
    except ValueError as error:
        raise InvalidInput("This is no day of birth.", place="birthday", remedy=REMEDY) from error
    if not YOUNGEST <= today.year - day.year <= OLDEST:
        raise InvalidInput(
            f"Nobody who was born in {day.year} works here.", place="birthday", remedy=REMEDY
        )
    return digest(day.isoformat())


def cell_of(text: str, today: date, digest: Digest) -> str:
    """What is kept in place of a cell; a digest that a rejected file brings back stays."""
    if not text or text == NONE or _DIGEST.fullmatch(text):
        return text
    try:
        return MARK + digest_of(text, today, digest)
    except InvalidInput:
        return NONE


def digest_in(cell: str) -> str:
    """The digest that stands in a cell.

    Raises:
        InvalidInput: none does.
    """
    if not cell:
        return ""
    if found := _DIGEST.fullmatch(cell):
        return found["digest"]
    raise InvalidInput("This is no day of birth.", place="birthday", remedy=REMEDY)
