"""A file of people and licenses: who is to have a seat, or none."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from yugum.core.people_file import Fault
from yugum.core.sheets import read_sheet
from yugum.errors import InvalidInput

COLUMNS = ("person", "application", "license", "seat")
NEEDED = ("person", "license", "seat")
WORDS = {"give": True, "take": False, "leave": None}
"""What a row may say of a seat; left, it stays as it is."""
MOST_ROWS = 5_000


@dataclass(frozen=True, slots=True)
class Entry:
    """A row: the person by login, number or name, the license, and whether it is given; None: it stays."""

    line: int
    person: str
    application: str
    license: str
    give: bool | None
    problem: Fault | None = None


def entries_of(raw: bytes) -> Sequence[Entry]:
    """The rows of a CSV file with the columns person, license, seat, and application where it is needed.

    Raises:
        InvalidInput: it is no table, or a column is missing, not known, or there twice.
    """
    sheet = read_sheet(raw)
    heads = [head.strip().casefold() for head in sheet.head]
    for head in heads:
        if head not in COLUMNS or heads.count(head) > 1:
            raise InvalidInput(
                f"'{head[:40]}' is not a column of this file, or is there twice.",
                place=f"line {sheet.line}",
                remedy=f"Its columns are: {', '.join(COLUMNS)}.",
            )
    if missing := [name for name in NEEDED if name not in heads]:
        raise InvalidInput(
            f"The column {missing[0]} is missing.",
            place=f"line {sheet.line}",
            remedy=f"Its columns are: {', '.join(COLUMNS)}.",
        )
    if len(sheet.rows) > MOST_ROWS:
        raise InvalidInput(
            f"It has {len(sheet.rows)} rows; {MOST_ROWS} are taken at once.", remedy="Split it."
        )
    found = []
    for row in sheet.rows:
        cells = dict(zip(heads, (c.strip() for c in row.cells), strict=False))
        said = cells.get("seat", "").casefold()
        problem = None
        if row.line in sheet.odd:
            problem = Fault(
                place="line", text="The row has more cells than the head.", remedy="Quote the cell."
            )
        elif not cells.get("person") or not cells.get("license"):
            problem = Fault(
                place="person", text="The row names no person or no license.", remedy="Fill it in."
            )
        elif said and said not in WORDS:
            problem = Fault(
                place="seat",
                text=f"'{said[:40]}' is not known.",
                remedy="Write give, take or leave.",
            )
        found.append(
            Entry(
                row.line,
                cells.get("person", ""),
                cells.get("application", ""),
                cells.get("license", ""),
                WORDS.get(said),
                problem,
            )
        )
    return found
