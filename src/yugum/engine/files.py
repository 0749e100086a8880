"""Files of what an application without an interface holds, every cell checked before any is taken."""

from __future__ import annotations

import csv
import io
from collections import Counter
from collections.abc import Iterator

from yugum.core.accounts import AccountState, Observed
from yugum.errors import InvalidInput
from yugum.wire.texts import one_line

COLUMNS = ("login", "name", "number", "state", "groups")
LIMIT = 20_000
LONGEST = 10_000
"""Characters of a cell: a list of many groups is long, a name is not."""


def parse_accounts(text: str) -> list[Observed]:
    """The accounts in a CSV file with the columns login, name, number, state and groups."""
    entries: dict[str, Observed] = {}
    for line, row in _rows(text):
        login, state = (row["login"] or "").strip(), (row.get("state") or "active").strip()
        if not login or login in entries:
            what = f"{login} stands twice" if login else "has no login"
            raise InvalidInput(f"This row {what}.", place=f"line {line}")
        if state not in ("active", "suspended"):
            raise InvalidInput(
                f"'{state}' is no state.", place=f"line {line}", remedy="Use active or suspended."
            )
        groups = (row.get("groups") or "").split(";")
        entries[login] = Observed(
            external_id=login,
            login=login,
            state=AccountState(state),
            entitlements=frozenset(g.strip() for g in groups if g.strip()),
            display_name=(row.get("name") or "").strip(),
            employee_number=(row.get("number") or "").strip(),
        )
        if len(entries) > LIMIT:
            raise InvalidInput(f"More than {LIMIT} accounts in one file.", place=f"line {line}")
    return list(entries.values())


def _rows(text: str) -> Iterator[tuple[int, dict[str, str]]]:
    """Each row with its line, every cell of it checked."""
    reader = csv.DictReader(io.StringIO(text.removeprefix("\ufeff")), strict=True)
    line = 0
    try:
        names = [*(reader.fieldnames or ())]
        unknown = [n for n in names if n not in COLUMNS]
        twice = [n for n, times in Counter(names).items() if times > 1]
        if "login" not in names or unknown or twice:
            wrong = "The file has no column login."
            if unknown or twice:
                wrong = (
                    f"The column {unknown[0][:60]} is unknown."
                    if unknown
                    else f"The column {twice[0]} stands twice."
                )
            raise InvalidInput(
                wrong,
                place="line 1",
                remedy=f"Use these columns: {', '.join(COLUMNS)}.",
            )
        line = reader.line_num
        for row in reader:
            line = reader.line_num
            if None in row:
                raise InvalidInput("This row has more cells than columns.", place=f"line {line}")
            for name, cell in row.items():
                _must_be_a_cell(cell or "", f"line {line}, {name}")
            yield line, row
    except csv.Error as error:
        raise InvalidInput(
            f"This is not CSV (RFC 4180): {error}.",
            place=f"line {line + 1}",
            remedy="Look at the quotes in this row, which begins there.",
        ) from error


def _must_be_a_cell(cell: str, place: str) -> None:
    if len(cell) > LONGEST:
        raise InvalidInput(f"A cell holds at most {LONGEST} characters.", place=place)
    try:
        one_line(cell)
    except ValueError as error:
        raise InvalidInput(f"{error}.", place=place) from error
