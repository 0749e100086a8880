"""Tables that come as a file: read as they are, and given back in the form they came in.

CSV (RFC 4180) as spreadsheets and people write it: any common encoding, with or without a byte-order mark,
cells parted by commas, semicolons, tabs or bars, blank lines and lines of comment between the rows.
"""

from __future__ import annotations

import codecs
import csv
import io
from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

from yugum.core.records import csv_cell
from yugum.errors import InvalidInput

MARKS = (
    (codecs.BOM_UTF8, "utf-8-sig"),
    (codecs.BOM_UTF16_LE, "utf-16"),
    (codecs.BOM_UTF16_BE, "utf-16"),
)
GUESSED = ("utf-8", "cp1252")
"""Tried in this order without a mark: hardly any other text happens to be UTF-8."""
PARTING = ",;\t|"
COMMENT = "#"
TOLD = "sep="
"""Some spreadsheets say in a first line of its own what parts the cells."""
MOST_ROWS = 20_000
LONGEST = 10_000
"""Characters of a cell."""
STRUCK = "(struck)"
ADDED = ("What is wrong", "What to do")
"""The columns of a file of rejected rows that the file itself did not have."""


@dataclass(frozen=True, slots=True)
class SheetRow:
    """A row with the line it begins on, counted from 1, and as many cells as the head has."""

    line: int
    cells: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Sheet:
    """A file with its head and the line that is on; ``odd`` rows have more cells than the head, by their line."""

    encoding: str
    parting: str
    line: int
    head: tuple[str, ...]
    rows: tuple[SheetRow, ...]
    odd: Mapping[int, tuple[str, ...]]


def read_sheet(raw: bytes, encoding: str = "") -> Sheet:
    """A file as a sheet; in ``encoding`` (a name of IANA or of Python), else as it can be read.

    Raises:
        InvalidInput: it is no text, is not CSV, has no head, a column twice, or too many rows.
    """
    text, encoding = _decoded(raw, encoding)
    lines = _Lines(text)
    parting = lines.parting()
    reader = csv.reader(lines, delimiter=parting, strict=True)
    head: tuple[str, ...] = ()
    top = 1
    rows: list[SheetRow] = []
    odd: dict[int, tuple[str, ...]] = {}
    try:
        for cells in _records(reader, lines):
            if not head:
                head, top = _head(cells, lines.begun), lines.begun
                continue
            if len(rows) + len(odd) >= MOST_ROWS:
                raise InvalidInput(
                    f"More than {MOST_ROWS:,} rows in one file.",
                    place=f"line {lines.begun}",
                    remedy="Part it: each part with the head.",
                )
            if len(cells) > len(head):
                odd[lines.begun] = tuple(cells)
                continue
            empty = ("",) * (len(head) - len(cells))
            rows.append(SheetRow(lines.begun, (*(c.strip() for c in cells), *empty)))
    except csv.Error as error:
        raise InvalidInput(
            f"This is not CSV (RFC 4180): {error}.",
            place=f"line {lines.begun}",
            remedy="Look at the quotes in this row, which begins there.",
        ) from error
    if not head:
        raise InvalidInput(
            "There is nothing in the file.",
            place="line 1",
            remedy="Its first row names the columns.",
        )
    return Sheet(encoding=encoding, parting=parting, line=top, head=head, rows=tuple(rows), odd=odd)


def rejected(sheet: Sheet, rows: Iterable[tuple[int, Sequence[str], str, str]]) -> bytes:
    """Rows (line, cells, what is wrong, what to do) in the file's own form, with two more columns."""
    kept = [i for i, name in enumerate(sheet.head) if name not in ADDED]
    out = io.StringIO()
    writer = csv.writer(out, delimiter=sheet.parting)
    writer.writerow([*(sheet.head[i] for i in kept), *ADDED])
    for _, cells, wrong, remedy in rows:
        said = [cells[i] if i < len(cells) else "" for i in kept]
        # They hold names that others have typed; the cells are the file's own.
        told = (csv_cell(wrong), csv_cell(remedy))
        writer.writerow([*said, *cells[len(sheet.head) :], *told])
    return out.getvalue().encode(sheet.encoding, errors="replace")


def strike(cell: str) -> str:
    """What stands in place of what nobody may keep."""
    return STRUCK if cell else cell


def struck(raw: bytes, sheet: Sheet, columns: Mapping[int, Callable[[str], str]]) -> bytes:
    """The file with something else in place of what nobody may keep, every row where it was.

    In a row with more cells than the head any cell may hold it.
    """
    if not columns:
        return raw
    out = io.StringIO()
    writer = csv.writer(out, delimiter=sheet.parting, lineterminator="\n")
    every = [(sheet.line, sheet.head), *((r.line, r.cells) for r in sheet.rows), *sheet.odd.items()]
    here = 1
    for line, cells in sorted(every):
        out.write("\n" * (line - here))
        odd = line in sheet.odd
        kept = [
            strike(c) if odd else columns[i](c) if i in columns and line != sheet.line else c
            for i, c in enumerate(cells)
        ]
        writer.writerow(kept)
        here = line + 1 + sum(c.count("\n") for c in kept)
    return out.getvalue().encode(sheet.encoding, errors="replace")


def _decoded(raw: bytes, encoding: str) -> tuple[str, str]:
    if raw.startswith(b"PK"):
        raise InvalidInput(
            "This is a workbook, not CSV.", place="file", remedy="Save the sheet as CSV (UTF-8)."
        )
    marked = next((name for mark, name in MARKS if raw.startswith(mark)), "")
    names = [encoding or marked] if encoding or marked else [*GUESSED]
    for name in names:
        try:
            text = raw.decode(_known(name))
        except UnicodeDecodeError as error:
            if name == names[-1]:
                raise InvalidInput(
                    f"The file is not {name}.",
                    place=f"byte {error.start}",
                    remedy="Name its encoding (--encoding), or save it as UTF-8.",
                ) from error
            continue
        if "\0" in text:
            raise InvalidInput(
                "The file is no text, or UTF-16 without a mark.",
                place=f"character {text.index(chr(0))}",
                remedy="Save it as CSV (UTF-8).",
            )
        return text.removeprefix("\ufeff"), name
    raise AssertionError("the last name is returned or refused")


def _known(encoding: str) -> str:
    try:
        found = codecs.lookup(encoding)
        "".encode(found.name)  # what does not make bytes of a text is no encoding of one
    except (LookupError, UnicodeError) as error:
        raise InvalidInput(
            f"Nobody knows the encoding {encoding[:40]}.",
            place="encoding",
            remedy="For example utf-8, utf-16, windows-1252 or iso-8859-15.",
        ) from error
    return found.name


def _head(cells: Sequence[str], line: int) -> tuple[str, ...]:
    names = tuple(c.strip() for c in cells)
    while names and not names[-1]:
        names = names[:-1]
    known = Counter(n.casefold() for n in names)
    wrong = ""
    if not all(names):
        wrong = f"Column {names.index('') + 1} has no name."
    elif twice := next((n for n in names if known[n.casefold()] > 1), ""):
        wrong = f"The column {twice[:60]} stands twice."
    if wrong:
        raise InvalidInput(wrong, place=f"line {line}", remedy="Name each column once.")
    return names


class _Lines:
    """Lines of a text as the reader takes them, without those that belong to no row."""

    def __init__(self, text: str) -> None:
        self._lines = list(io.StringIO(text, newline=""))
        self._next = 0
        self.between = True
        self.begun = 1
        """The line on which the row under way begins."""

    def parting(self) -> str:
        """What parts the cells: as the first line says, else what its names are parted by most."""
        while self._next < len(self._lines) and self._is_none(self._lines[self._next]):
            self._next += 1
        first = self._lines[self._next] if self._next < len(self._lines) else ""
        if first.lower().startswith(TOLD) and first[len(TOLD) : len(TOLD) + 1] in (*PARTING,):
            self._next += 1
            return first[len(TOLD)]
        outside = "".join(first.split('"')[::2])
        return max(PARTING, key=outside.count)

    def __iter__(self) -> Iterator[str]:
        while self._next < len(self._lines):
            line = self._lines[self._next]
            self._next += 1
            if self.between and self._is_none(line):
                continue
            if self.between:
                self.begun = self._next
            self.between = False
            yield line

    @staticmethod
    def _is_none(line: str) -> bool:
        return not line.strip() or line.lstrip().startswith(COMMENT)


def _records(reader: Iterator[list[str]], lines: _Lines) -> Iterator[list[str]]:
    for cells in reader:
        lines.between = True
        if not any(c.strip() for c in cells):
            continue
        if long := next((c for c in cells if len(c) > LONGEST), ""):
            raise InvalidInput(
                f"A cell holds at most {LONGEST:,} characters.",
                place=f"line {lines.begun}",
                remedy=f"It begins with {long[:30]}.",
            )
        yield cells
