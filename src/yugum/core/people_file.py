"""People from a file: which column is what, and what is wrong with a row before any is taken."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum

from yugum.core.conditions import fold
from yugum.core.entry import circles, folded, nearest
from yugum.core.file_columns import FileColumn
from yugum.core.lists import KnownValue
from yugum.core.sheets import Sheet
from yugum.errors import InvalidInput


class RowState(StrEnum):
    """``new`` and ``changed`` are taken; ``same`` says nothing new; ``faulty`` has to be corrected."""

    NEW = "new"
    CHANGED = "changed"
    SAME = "same"
    FAULTY = "faulty"
    TAKEN = "taken"


YES = frozenset({"yes", "y", "x", "1", "true"})
MOST_NEW = 1000
"""New values in a field; more of them are not that field."""
TOLD = {"user_name": "login", "employee_number": "number"}
SCIENTIFIC = re.compile(r"\d([.,]\d+)?[eE]\+?\d+")


@dataclass(frozen=True, slots=True, kw_only=True)
class Fault:
    """What is wrong with a row: in which field, and what to do.

    ``value`` is one that may be right though nobody has it yet.
    """

    place: str
    text: str
    remedy: str
    value: str = ""


@dataclass(slots=True, kw_only=True)
class PersonRow:
    """What a row says about somebody by field; "" empties one.

    ``person_id`` is whom there is already, with a ``rev``, or who is to be made. ``rank`` is how many
    managers above them are to be made first. Somebody ``provisional`` is there without a number, which
    the row tells. ``birthday`` is a digest.
    """

    line: int
    cells: tuple[str, ...]
    said: dict[str, str] = field(default_factory=dict)
    faults: list[Fault] = field(default_factory=list)
    person_id: str = ""
    state: RowState = RowState.NEW
    document: dict[str, str | None] = field(default_factory=dict)
    manager_id: str | None = None
    rev: int = 0
    rank: int = 0
    provisional: bool = False
    birthday: str = ""

    def fault(self, place: str, text: str, remedy: str, value: str = "") -> None:
        self.state = RowState.FAULTY
        self.faults.append(Fault(place=place, text=text, remedy=remedy, value=value))


def rows_of(sheet: Sheet, columns: Sequence[FileColumn], empties: str) -> list[PersonRow]:
    """What every row says; an empty cell says nothing, ``empties`` as a cell's text empties a field."""
    places = [(i, c.field) for i, c in enumerate(columns) if c.field]
    rows = []
    for r in sheet.rows:
        row = PersonRow(line=r.line, cells=r.cells)
        for i, name in places:
            if text := r.cells[i]:
                row.said[name] = "" if empties and text == empties else text
        if login := row.said.get("user_name"):
            row.said["user_name"] = login.lower()
        rows.append(row)
    for line, cells in sheet.odd.items():
        row = PersonRow(line=line, cells=cells)
        row.fault(
            "row",
            f"The row has {len(cells)} cells, the head has {len(columns)}.",
            "Put a cell that holds what parts cells into quotes.",
        )
        rows.append(row)
    return sorted(rows, key=lambda r: r.line)


@dataclass(frozen=True, slots=True, kw_only=True)
class Numbers:
    """How many numbers of digits have a length and begin with a nought or not."""

    width: int
    nought: bool
    count: int


def usual_width(known: Iterable[Numbers], rows: Sequence[PersonRow]) -> int:
    """How long numbers are where some of them begin with a nought; 0 where they are just numbers.

    So it is in an organisation if a twentieth of them do, in a file if a fifth does, and three at least.
    """
    told = Counter(
        (len(n), n[0] == "0")
        for r in rows
        if (n := r.said.get("employee_number", "")) and n.isdigit()
    )
    there = Counter({(n.width, n.nought): n.count for n in known})
    for counts, share in ((there, 20), (told, 5)):
        noughts = Counter({width: n for (width, nought), n in counts.items() if nought})
        if noughts.total() >= 3 and share * noughts.total() >= counts.total():
            return noughts.most_common(1)[0][0]
    return 0


def check_keys(rows: Sequence[PersonRow], known: Iterable[Numbers]) -> None:
    """Logins and numbers that stand twice, and numbers that a spreadsheet has spoilt.

    ``known`` are the numbers people have.
    """
    wide = usual_width(known, rows)
    first: dict[tuple[str, str], int] = {}
    for row in rows:
        for name in ("user_name", "employee_number"):
            value = row.said.get(name, "")
            if not value:
                if name in row.said:
                    row.fault(name, f"A {TOLD[name]} cannot be emptied.", "Leave the cell empty.")
                continue
            line = first.setdefault((name, value), row.line)
            if line != row.line:
                row.fault(
                    name,
                    f"The {TOLD[name]} {value} stands in line {line} as well.",
                    "Leave out the row that is wrong.",
                )
        number = row.said.get("employee_number", "")
        if SCIENTIFIC.fullmatch(number):
            row.fault(
                "employee_number",
                f"{number} is what a spreadsheet makes of a long number.",
                "Format the column as text and enter it again.",
            )
        elif (
            number.isdigit()
            and number[0] != "0"
            and len(number) < wide
            and (not row.rev or row.provisional)
        ):
            row.fault(
                "employee_number",
                f"{number} seems to have lost its noughts: others have {wide} digits.",
                f"Write {number.zfill(wide)}, and format the column as text.",
            )


def check_values(
    rows: Sequence[PersonRow],
    known: Mapping[KnownValue, Sequence[str]],
    accepted: Mapping[KnownValue, Sequence[str]],
) -> dict[KnownValue, list[str]]:
    """Values that are almost one the organisation or most of the file has; the new ones, by field.

    ``accepted`` are new ones that somebody has said are right.

    Raises:
        InvalidInput: a field has so many new ones that its column must be another.
    """
    fresh: dict[KnownValue, list[str]] = {}
    for name in KnownValue:
        told = Counter(r.said[name] for r in rows if r.said.get(name))
        there = folded(known.get(name, ()))
        right = {*accepted.get(name, ())}
        if (many := sum(fold(v) not in there for v in told)) > MOST_NEW:
            raise InvalidInput(
                f"{many:,} values of {name} that nobody has: is the column that?",
                place="columns",
                remedy="Say what it is, or leave it out: --column 'NAME='.",
            )
        common = {fold(v): v for v, n in sorted(told.items(), key=lambda i: i[1]) if n > 2}
        wrong: dict[str, str] = {}
        for value, times in told.items():
            key = fold(value)
            if value in right or there.get(key) == value:
                continue
            if key in there:
                wrong[value] = there[key]
                continue
            others = {**there, **{k: v for k, v in common.items() if told[v] > 2 * times}}
            others.pop(key, None)
            if near := nearest(value, others):
                wrong[value] = near
            else:
                fresh.setdefault(name, []).append(value)
        for row in rows:
            if meant := wrong.get(row.said.get(name, "")):
                text = row.said[name]
                row.fault(
                    name,
                    f"Nobody else has {text}; nearest: {meant}.",
                    f"Correct it, or say that it is new: --new '{name}={text}'.",
                    text,
                )
    return fresh


def check_managers(rows: Sequence[PersonRow], above: Mapping[str, str | None]) -> None:
    """Nobody is above themselves. ``above`` says who manages whom now, by id, as far as it matters."""
    managed = {**above, **{r.person_id: r.manager_id for r in rows if r.manager_id}}
    found = circles(managed)
    for row in rows:
        if size := found.get(row.person_id, 0):
            row.fault(
                "manager",
                f"They would manage themselves, in a circle of {size}.",
                "Correct whose manager is wrong.",
            )


def in_order(rows: Sequence[PersonRow]) -> None:
    """Managers before those who report to them, who wait for a manager whose own row is faulty."""
    new = {r.person_id: r for r in rows if not r.rev}
    reports: dict[str, list[PersonRow]] = {}
    for row in rows:
        if row.manager_id in new:
            reports.setdefault(row.manager_id, []).append(row)
    # Whoever is in a circle, or below one, is reached from nobody else.
    following = [r for r in rows if r.manager_id not in new or r.faults]
    seen = {r.line for r in following}
    for boss in following:
        for row in reports.get(boss.person_id, ()):
            if boss.faults and not row.faults:
                row.fault(
                    "manager",
                    f"Their manager is in line {boss.line}, which is faulty.",
                    "Correct that line first.",
                )
            row.rank = boss.rank + 1
            if row.line not in seen:
                seen.add(row.line)
                following.append(row)
