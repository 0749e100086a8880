"""Files as tables: what people and spreadsheets write is read, and comes back in its own form."""

from __future__ import annotations

import csv
import io

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from yugum.core.file_columns import columns_of
from yugum.core.people_file import Numbers, PersonRow, check_managers, in_order, usual_width
from yugum.core.sheets import ADDED, STRUCK, Sheet, read_sheet, rejected, strike, struck
from yugum.errors import InvalidInput

CELL = st.text(
    st.characters(codec="utf-8", exclude_categories=["Cc", "Cs", "Zl", "Zp"]),
    min_size=1,
    max_size=12,
).filter(lambda t: t == t.strip() and not t.startswith(("#", "\ufeff")))


@settings(deadline=None)
@given(
    st.lists(st.tuples(CELL, CELL), min_size=1, max_size=8),
    st.sampled_from([",", ";", "\t", "|"]),
    st.sampled_from(["utf-8", "utf-8-sig", "utf-16"]),
)
def test_what_is_written_is_read_and_comes_back(
    rows: list[tuple[str, str]], parting: str, encoding: str
) -> None:
    out = io.StringIO()
    writer = csv.writer(out, delimiter=parting)
    writer.writerows([("Login", "Title"), *rows])
    sheet = read_sheet(out.getvalue().encode(encoding))
    assert sheet.parting == parting
    assert [r.cells for r in sheet.rows] == rows
    back = rejected(sheet, [(r.line, r.cells, "wrong", "do") for r in sheet.rows])
    again = read_sheet(back)
    assert again.head == ("Login", "Title", *ADDED)
    assert [r.cells for r in again.rows] == [(*r, "wrong", "do") for r in rows]
    assert again.parting == parting


def test_lines_that_are_no_rows_are_passed_over_and_lines_are_told_as_they_are() -> None:
    raw = '# "as of\nsep=;\n\nLogin;Note\n# one\nann;"two\n# lines"\n;\nbob\ncy;1;2\n'
    sheet = read_sheet(raw.encode())
    assert [(r.line, r.cells) for r in sheet.rows] == [
        (6, ("ann", "two\n# lines")),
        (9, ("bob", "")),
    ]
    assert dict(sheet.odd) == {10: ("cy", "1", "2")}


def test_what_nobody_may_keep_is_struck_and_every_row_stays_where_it_was() -> None:
    raw = b"# c\nLogin;Initial password\n\nann;s3cret\nbob;\ncy;x;s3cret too\n"
    sheet = read_sheet(raw)
    columns = columns_of(sheet.head, (), {})
    assert [c.secret for c in columns] == [False, True]
    kept = struck(raw, sheet, {1: strike})
    assert b"s3cret" not in kept
    again = read_sheet(kept)
    assert [(r.line, r.cells) for r in again.rows] == [(4, ("ann", STRUCK)), (5, ("bob", ""))]
    assert again.odd.keys() == sheet.odd.keys()


@pytest.mark.parametrize(
    ("raw", "text"),
    [
        (b"", "nothing in the file"),
        (b"# only\n\n", "nothing in the file"),
        (b"PK\x03\x04", "a workbook"),
        (b"a;A\n", "stands twice"),
        (b"a;;b\n", "has no name"),
        (b'a\n"x', "not CSV"),
        (b"a\0b", "no text"),
        (b"a\n" + b"x" * 10_001, "at most 10,000"),
    ],
)
def test_what_is_no_table_is_refused_with_its_place(raw: bytes, text: str) -> None:
    with pytest.raises(InvalidInput, match=text) as refused:
        read_sheet(raw)
    assert refused.value.place
    assert refused.value.remedy


def test_an_encoding_is_found_or_said() -> None:
    def name(sheet: Sheet) -> str:
        return sheet.rows[0].cells[0]

    assert name(read_sheet("Name\nJörg €\n".encode("cp1252"))) == "Jörg €"
    assert name(read_sheet("Name\nŁódź\n".encode("iso-8859-2"), "latin2")) == "Łódź"
    with pytest.raises(InvalidInput, match="Nobody knows the encoding"):
        read_sheet(b"a\n", "hex")


def test_columns_are_known_by_their_names_or_said() -> None:
    found = columns_of(("E-Mail", "Surname", "Locker", "Foo"), ("locker",), {"foo": ""})
    assert [c.field for c in found] == ["mail", "family_name", "own.locker", ""]
    for head, said, text in (
        (("Login", "Shoe size"), {}, "Nobody knows"),
        (("Login", "User name"), {}, "both user_name"),
        (("Login",), {"Logn": "user_name"}, "no column Logn"),
        (("Login",), {"Login": "logn"}, "not a field"),
        (("Title",), {}, "says who"),
    ):
        with pytest.raises(InvalidInput, match=text):
            columns_of(head, (), said)
    assert columns_of(("Login", "Shoe size"), (), {}, leave=True)[1].field == ""


@pytest.mark.parametrize(
    ("known", "told", "wide"),
    [
        ({(5, False): 240}, ["0000049130", "812"], 0),
        ({(5, False): 240}, ["00812", "00813", "00814", "815"], 5),
        ({(6, True): 20, (6, False): 200}, ["812"], 6),
        ({(6, True): 2}, ["812"], 0),
        ({}, ["1", "22", "333"], 0),
    ],
)
def test_noughts_are_missed_only_where_numbers_have_them(
    known: dict[tuple[int, bool], int], told: list[str], wide: int
) -> None:
    numbers = [Numbers(width=w, nought=n, count=c) for (w, n), c in known.items()]
    rows = [PersonRow(line=2, cells=(), said={"employee_number": n}) for n in told]
    assert usual_width(numbers, rows) == wide


def test_managers_come_first_and_circles_are_found_however_long_the_line_is() -> None:
    def row(name: str, boss: str | None, rev: int = 0) -> PersonRow:
        return PersonRow(line=int(name) + 2, cells=(), person_id=name, manager_id=boss, rev=rev)

    many = 20_000  # one after the other: walked once, not once for each
    line = [row(str(n), str(n + 1)) for n in range(many)]
    check_managers(line, {})
    in_order(line)
    assert not any(r.faults for r in line)
    assert [r.rank for r in line] == [*range(many - 1, -1, -1)]

    known, round_about = row("1", "2", rev=7), [row("5", "6"), row("6", "7"), row("7", "5")]
    below, free = row("8", "5"), row("9", "1")
    rows = [known, *round_about, below, free]
    check_managers(rows, {"2": "3", "3": "1"})
    in_order(rows)
    assert [len(r.faults) for r in rows] == [1, 1, 1, 1, 1, 0]
    assert "circle of 3" in known.faults[0].text
    assert "line 7" in below.faults[0].text
