"""Rules files: every mistake with its line, column and remedy; sound ones become the core's rules."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from yugum.core.verbs import Verb
from yugum.wire.rule_names import Known
from yugum.wire.rulebook import rules_from
from yugum.wire.rulefile import read_rules
from yugum_standins.morrow import RULES

KNOWN = Known(
    applications=frozenset({"crew-rosters"}), pools=frozenset(), operators=frozenset({"iholm"})
)
TEN = """\
naming:
  login: ["{given:1}{familie}"]
roles:
  Deck:
    when: 'departmnt eq "Deck"'
    gives:
      - application: crew-roster
        entitlements: Deck crew
  Radio:
    gives: []
  Finance:
    when: 'department eq'
    overlap_days: two
    gives:
      - application: crew-rosters
        seats: [Nothing]
  Deck:
    when: 'title pr'
    gives: []
settings:
  quota: biggest
procedures:
  joiner:
    approval: boss
approvals:
  money: {by: [nobody], mode: some}
"""
FOUND = [
    (2, 11, "naming.login.0", "Use: given"),
    (5, 11, "roles.Deck.when", "Use one of"),
    (7, 22, "roles.Deck.gives.0.application", "'crew-rosters'"),
    (8, 23, "roles.Deck.gives.0.entitlements", "dash"),
    (9, 3, "roles.Radio.when", "Add when"),
    (12, 11, "roles.Finance.when", "For example"),
    (13, 19, "roles.Finance.overlap_days", "digits"),
    (16, 17, "roles.Finance.gives.0.seats", "Add the pool"),
    (17, 3, "roles.Deck", "Bring the two together"),
    (21, 10, "settings.quota", "Use one of"),
    (24, 15, "procedures.joiner.approval", "Known are"),
    (26, 16, "approvals.money.by.0", "iholm"),
    (26, 31, "approvals.money.mode", "any, all"),
]


def test_every_mistake_has_its_line_and_remedy() -> None:
    document, problems = read_rules(TEN, KNOWN)
    assert document is None
    assert [(p.line, p.column, p.place) for p in problems] == [f[:3] for f in FOUND]
    for problem, (_, _, _, remedy) in zip(problems, FOUND, strict=True):
        assert remedy in problem.remedy, problem


NAMED = """\
accounts:
  crew-rosters:
    attributes:
      shoeSize: {of: "{title}"}
      title: {of: "{title}"}
profiles:
  crew-rosters: {comes_from: crew-rosters}
procedures:
  leaver: {reports_to: nemo}
"""


def test_names_that_only_the_surroundings_know_are_looked_up() -> None:
    has = frozenset({("crew-rosters", "title")})
    _, problems = read_rules(NAMED, replace(KNOWN, attributes=has, people=frozenset()))
    assert [(p.line, p.place) for p in problems] == [
        (4, "accounts.crew-rosters.attributes.shoeSize"),
        (7, "profiles.crew-rosters.comes_from"),
        (9, "procedures.leaver.reports_to"),
    ]
    assert all(p.remedy for p in problems)
    sound = NAMED.replace("shoeSize", "nickName").replace("comes_from: crew", "comes_from: mail")
    more = KNOWN.applications | {"mail-rosters"} if KNOWN.applications else None
    document, _ = read_rules(sound, replace(KNOWN, applications=more, people=frozenset({"nemo"})))
    assert document is not None  # what an application has not said yet is not looked up


def test_what_only_another_procedure_has_is_refused() -> None:
    text = "procedures:\n  joiner: {reports_to: '-', steps: []}\n  rename: {alias_days: 3, longest_days: 9}\n"
    _, problems = read_rules(text, KNOWN)
    assert {(p.place, p.remedy) for p in problems} == {
        ("procedures.joiner.reports_to", "Write it under procedures.leaver."),
        ("procedures.rename.longest_days", "Write it under procedures.extension."),
    }


BOMB = "a0: &a0 [x]\n" + "".join(
    f"a{n}: &a{n} [{', '.join([f'*a{n - 1}'] * 9)}]\n" for n in range(1, 10)
)
"""Ten lines that stand for a billion values."""


@pytest.mark.parametrize(
    ("text", "line", "message"),
    [
        ("roles:\n  - nobody", 2, "Names with values"),
        ("roles: {A: {when: x, gives: [}}", 1, "not YAML"),
        ("rolls: {}", 1, "not known here"),
        ("naming: {login: ['{given']}", 1, "brace"),
        ("naming: {mail: ['{given}@{mail_domain}']}", 1, "no domain"),
        ("limits: {adoption_takes_away: 1.5}", 1, "whole number"),
        ("a: &a [*a]", 1, ""),
        ("x" * 1_000_001, 1, "longer"),
        ("limits:\n  adoption_takes_away: 2031-13-01", 2, "not a value that there is"),
        ("roles: 2031-02-30T25:00:00Z", 1, "not a value that there is"),
        (BOMB, 1, "more than"),
        ("a: !!python/object/apply:os.system [id]", 1, ""),
        ("\x00", 1, "not YAML"),
        ("- just\n- a list", 1, ""),
        ("just words", 1, ""),
    ],
)
def test_a_single_mistake(text: str, line: int, message: str) -> None:
    document, problems = read_rules(text)
    assert document is None
    assert problems[0].line == line
    assert message in problems[0].message


def test_the_demos_rules_are_sound() -> None:
    document, problems = read_rules(RULES)
    assert problems == []
    assert document is not None
    rules = rules_from(document, 3)
    assert rules.version == 3
    assert rules.precedence == {"quota": "largest"}
    assert rules.profiles["crew-rosters"].close_after_days == 7
    assert rules.procedure(Verb.RENAME).alias_days == 30
    assert rules.attributes() == {"department", "title", "?userName"}


@settings(deadline=None)
@given(st.text(alphabet=st.characters(codec="utf-8"), max_size=200))
def test_nothing_one_can_type_breaks_it(text: str) -> None:
    document, problems = read_rules(text, KNOWN)
    assert (document is None) == bool(problems)
    assert all(p.line >= 1 and p.column >= 1 and p.message for p in problems)


@settings(deadline=None)
@given(
    st.integers(0, len(RULES)), st.integers(0, 6), st.sampled_from(["", " ", ":", "[", "\t", "x"])
)
def test_a_damaged_file_is_told_of_or_still_means_something(at: int, cut: int, put: str) -> None:
    document, problems = read_rules(RULES[:at] + put + RULES[at + cut :])
    assert (document is None) == bool(problems)
    if document is not None:
        rules_from(document, 1)
