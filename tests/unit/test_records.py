"""Records, summaries, guards, veils and the command line's output: what people read."""

from __future__ import annotations

import csv
import io
import json
import re
from collections.abc import Mapping
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import BaseModel

from tests.builders import RULES, account, made_docket, made_step, person, subject, world
from yugum.cli.output import Output, moment
from yugum.core.accounts import AccountKind, AccountState
from yugum.core.actions import NOT_SHOWN, NOTHING_DONE, Action, Facet
from yugum.core.desired import World
from yugum.core.dockets import Outcome, Receipt, StepDetail, StepProblem, StepState
from yugum.core.guards import Namesake, Surroundings, guard_leaver
from yugum.core.records import RecordLine, WayIn, as_csv, csv_cell, lines_of
from yugum.core.roles import Guard, GuardForce
from yugum.core.veils import MARK, Veil, former_names
from yugum.pages import record_page, sheet_page

NOW = datetime(2031, 3, 3, 8, 40, tzinfo=UTC)
NASTY = '<script>alert("x")</script>'


def line(**more: str) -> RecordLine:
    plain = dict.fromkeys(RecordLine.__slots__, "")
    return RecordLine(**{**plain, "docket": "MS-1", "person": "Mara Quill", **more})


def step(**more: Any) -> StepDetail:
    receipt = Receipt(
        outcome=Outcome.DONE,
        found=Facet(held=True),
        did=NOTHING_DONE,
        seen=Facet(held=False),
        at=NOW,
        machine_at=NOW,
        took_ms=1.0,
    )
    return made_step(
        **{"action": Action.REVOKE, "item": "deck", "before": "in deck", "receipt": receipt, **more}
    )


def record(*steps: StepDetail) -> list[RecordLine]:
    return lines_of(made_docket(*steps), "MS-1", "40001", {"a-crew": "mquill"}, ["bkrog", "third"])


def test_a_line_says_who_what_when_why_and_how_it_was_verified() -> None:
    (one,) = record(step())
    assert (one.person, one.number, one.login, one.application) == (
        "Mara Quill", "40001", "mquill", "Crew",
    )  # fmt: skip
    assert (one.asked_by, one.agreed_by, one.because) == ("iholm", "bkrog, third", "has left")
    assert one.at == "2031-03-03T08:40:00Z"
    assert one.verified == "read back"


def test_a_line_tells_what_was_not_done_and_what_somebody_did_by_hand() -> None:
    by_hand = step().receipt
    assert by_hand is not None
    left, hand, stuck = record(
        step(state=StepState.LEFT_OUT, receipt=None),
        step(receipt=replace(by_hand, outcome=Outcome.BY_HAND, seen=NOT_SHOWN)),
        step(
            state=StepState.ATTENTION,
            problem=StepProblem(code="rejected", text="Mail refused."),
            receipt=None,
        ),
    )
    assert left.outcome == "left_out"
    assert (left.at, left.verified) == ("", "")
    assert hand.verified == "by hand"
    assert stuck.outcome == "attention: Mail refused."


@given(text=st.text(max_size=30))
def test_no_cell_is_a_formula_and_every_text_comes_back(text: str) -> None:
    cell = csv_cell(text)
    assert not cell.startswith(("=", "+", "-", "@", "\t", "\r"))
    assert cell.removeprefix("'") == text.removeprefix("'") or cell == text


def test_csv_is_read_back_with_commas_quotes_and_line_ends() -> None:
    odd = 'a, "quoted"\nsecond line'
    text = as_csv([line(item=odd), line(item="=1+1")])
    rows = list(csv.DictReader(io.StringIO(text, newline="")))
    assert [r["item"] for r in rows] == [odd, "'=1+1"]
    assert text.count("\r\n") == 3


def test_a_page_runs_nothing_and_loads_nothing() -> None:
    page = record_page(NASTY, [NASTY], [line(item=NASTY, person=NASTY)])
    assert "<script" not in page
    assert not re.search(r"(src|href)\s*=", page)
    assert page.count("&lt;script&gt;") >= 3
    sheet = sheet_page(
        "Sheet",
        [(NASTY, [WayIn(application=NASTY, login=NASTY, state=NASTY, ways=NASTY, contact=NASTY)])],
    )
    assert "<script" not in sheet
    assert sheet.count('class="box"') == 1


# --- guards -------------------------------------------------------------------------------


def guarded(
    made: World | None = None, around: Surroundings | None = None, **more: Any
) -> dict[str, str]:
    found = guard_leaver(subject(**more), made or world(), around or Surroundings())
    return {c.code: c.blocks for c in found}


def test_nothing_speaks_against_an_ordinary_leaver() -> None:
    assert guarded(accounts=(account(),)) == {}


def administered(how: Mapping[Guard, GuardForce] = {}) -> World:
    made = world()
    crew = made.applications["crew"]
    crew = replace(crew, profile=replace(crew.profile, admin_group="admins"))
    rules = replace(RULES, guards=how)
    return replace(made, applications={**made.applications, "crew": crew}, rules=rules)


ADMIN = account(entitlements=frozenset({"admins"}))


def test_the_last_administrator_of_an_application_stays_unless_overridden() -> None:
    assert guarded(administered(), accounts=(ADMIN,)) == {"guard:last-administrator": "override"}
    others = Surroundings(others={"crew": 1})
    assert guarded(administered(), others, accounts=(ADMIN,)) == {}
    suspended = replace(ADMIN, state=AccountState.SUSPENDED)
    assert guarded(administered(), accounts=(suspended,)) == {}


@pytest.mark.parametrize(
    ("how", "blocks"),
    [(GuardForce.BLOCK, "block"), (GuardForce.WARN, ""), (GuardForce.OVERRIDE, "override")],
)
def test_the_rules_say_how_much_a_guard_weighs(how: GuardForce, blocks: str) -> None:
    found = guarded(administered({Guard.LAST_ADMINISTRATOR: how}), accounts=(ADMIN,))
    assert found == {"guard:last-administrator": blocks}


ALIKE = Namesake(name="Mara Quell", employee_number="40002", department="Deck", site="Oxhaven")


def test_what_else_speaks_against_it_is_told() -> None:
    around = Surroundings(
        reports={"p1": ["A", "B", "C", "D"]},
        alike={"p1": [ALIKE]},
        knows={"p1": ["Key safe"]},
    )
    robot = account("reports", kind=AccountKind.SERVICE, login="nightly")
    found = guard_leaver(subject(accounts=(robot,)), world(), around)
    text = {c.code: c.text for c in found}
    assert "nightly in Reports" in text["guard:service-accounts"]
    assert "4 people report to Mara Quill: A, B, C …" in text["guard:reports"]
    assert "Mara Quell" in text["guard:look-alike"]
    assert "Key safe" in text["shared"]
    assert {c.blocks for c in found} == {""}


# --- former names -------------------------------------------------------------------------


def test_a_former_name_is_hidden_as_a_word_and_nothing_else() -> None:
    before = person(given_name="Mara", family_name="Quill", user_name="mquill")
    after = replace(before, family_name="Berg", user_name="mberg", display_name="Mara Berg")
    names = former_names(before, after)
    assert set(names) == {"Mara Quill", "Quill", "mquill"}
    assert names[0] == "Mara Quill", "the longest first"
    veil = Veil({"p1": names})
    text = "MARA QUILL, mquill@ships.example; quillwork by Mara"
    assert veil.hide(text, "p1") == f"{MARK}, {MARK}@ships.example; quillwork by Mara"
    assert veil.hide("quill", "p1") == MARK
    assert veil.hide(text, "p2") == text
    assert former_names(before, before) == []


# --- the command line's output ------------------------------------------------------------


class Row(BaseModel):
    name: str
    at: datetime | None = None
    tags: list[str] = []
    more: dict[str, Any] = {}


COLUMNS = {"Name": "name", "When": "at", "Tags": "tags", "More": "more"}
ROWS = [
    Row(name="=cmd", at=NOW, tags=["a", "b"], more={"x": 1, "y": ["z"]}),
    Row(name="plain"),
]


def test_a_list_is_a_table_for_people(capsys: pytest.CaptureFixture[str]) -> None:
    Output("table", "Europe/Helsinki").rows(ROWS, COLUMNS)
    shown = capsys.readouterr().out
    assert "Mon 3 Mar 2031 10:40 EET" in shown
    assert "a, b" in shown
    Output("table").rows([], COLUMNS, empty="Nobody.")
    assert capsys.readouterr().out == "Nobody.\n"


def test_a_list_is_csv_for_spreadsheets_and_json_for_scripts(
    capsys: pytest.CaptureFixture[str],
) -> None:
    Output("csv").rows(ROWS, COLUMNS)
    rows = list(csv.DictReader(io.StringIO(capsys.readouterr().out)))
    assert rows[0] == {
        "name": "'=cmd", "at": "2031-03-03T08:40:00Z", "tags": "a, b", "more": "1 z",
    }  # fmt: skip
    assert rows[1]["at"] == ""
    Output("json").rows(ROWS, COLUMNS)
    assert json.loads(capsys.readouterr().out)[0]["name"] == "=cmd"
    Output("json").rows([], COLUMNS)
    assert json.loads(capsys.readouterr().out) == []


def test_a_moment_names_its_zone() -> None:
    assert moment(NOW) == "Mon 3 Mar 2031 08:40 UTC"
    assert moment(NOW + timedelta(days=120), "Europe/Helsinki").endswith("EEST")
    assert moment(None) == ""
