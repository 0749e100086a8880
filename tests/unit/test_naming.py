"""Names by patterns: accents, missing parts, collisions, lengths; passwords by rules."""

from __future__ import annotations

import random
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yugum.core.names import LOGIN_ALPHABET, Limits, NameKind, NameRules, suggest
from yugum.core.passwords import CLASSES, CharacterClass, make, shortcomings

NAMING = NameRules(
    patterns={
        NameKind.LOGIN: ("{given:1}{family}", "{given:2}{family}", "{given|family}.{family}"),
        NameKind.MAIL: ("{given|family}.{family}@{mail_domain}",),
        NameKind.DISPLAY_NAME: ("{given} {family}", "{given|family}"),
    }
)


def name(
    kind: NameKind = NameKind.LOGIN, taken: tuple[str, ...] = (), length: int = 20, **fields: Any
) -> str:
    values = {"mail_domain": "sound.example", **fields}
    why = dict.fromkeys(taken, "taken")
    return suggest(kind, NAMING, values, why, Limits(length=length)).name


@pytest.mark.parametrize(
    ("given_name", "family", "wanted"),
    [
        ("Zoë", "Ångström-O'Hara", "zangstrom-ohara"),
        ("Łukasz", "Żuraw", "lzuraw"),
        ("Жанна", "Ильина", "zil'ina".replace("'", "")),
        ("Mary Ann", "van der Berg", "mvanderberg"),
        ("", "Madonna", "madonna.madonna"),
    ],
)
def test_any_script_becomes_a_login(given_name: str, family: str, wanted: str) -> None:
    assert name(given=given_name, family=family) == wanted


def test_what_is_taken_is_tried_by_pattern_and_then_by_number() -> None:
    fields: dict[str, Any] = {"given": "Mara", "family": "Quill"}
    assert name(taken=("mquill",), **fields) == "maquill"
    taken = ("mquill", "maquill", "mara.quill", "mquill2")
    assert name(taken=taken, **fields) == "mquill3"
    found = suggest(NameKind.LOGIN, NAMING, fields, dict.fromkeys(taken, "taken"), Limits())
    assert [t.name for t in found.tried if t.problem] == [*taken]
    mail = name(NameKind.MAIL, taken=("mara.quill@sound.example",), **fields)
    assert mail == "mara.quill2@sound.example"


def test_the_strictest_length_holds_with_its_number() -> None:
    fields: dict[str, Any] = {"given": "Bo", "family": "Featherstonehaugh"}
    assert name(length=8, **fields) == "bfeather"
    taken = ("bfeather", "bofeathe", "bo.feath")
    assert name(length=8, taken=taken, **fields) == "bfeathe2"


def test_a_name_without_the_needed_parts_says_what_is_missing() -> None:
    found = suggest(NameKind.LOGIN, NAMING, {}, {}, Limits())
    assert found.name == ""
    assert "family" in found.tried[0].problem


words = st.text(
    alphabet=st.characters(codec="utf-8", categories=("L", "N", "Zs", "P")), max_size=24
)


@given(words, words, st.integers(4, 20), st.sets(st.sampled_from(["aa", "ab", "aa2", "aa3"])))
def test_a_suggestion_always_fits(first: str, last: str, length: int, taken: set[str]) -> None:
    found = name(given=first, family=last, length=length, taken=tuple(taken))
    assert len(found) <= length
    assert found not in taken
    assert set(found) <= set(LOGIN_ALPHABET)


@given(st.integers(12, 40), st.lists(st.sampled_from(list(CLASSES)), unique=True), st.integers())
def test_a_made_password_satisfies_its_rules(
    length: int, needs: list[CharacterClass], seed: int
) -> None:
    password = make(length, needs, random.Random(seed).choice)
    assert len(password) == length
    assert shortcomings(password, length, needs, "mquill") == []


def test_what_a_password_lacks_is_said_in_words() -> None:
    assert shortcomings("mquill", 12, [CharacterClass.UPPER, CharacterClass.DIGIT], "mquill") == [
        "12 characters or more",
        "a capital letter",
        "a digit",
        "nothing of the login in it",
    ]
