"""Conditions as they are written, and whom they fit."""

from __future__ import annotations

import pytest

from yugum.core.conditions import matches
from yugum.core.people import FILTER_ATTRIBUTES
from yugum.errors import InvalidInput
from yugum.wire.filters import parse_filter


@pytest.mark.parametrize(
    ("text", "values", "wanted"),
    [
        ('Department EQ "deck"', {"department": ["deck"]}, True),
        ('not (department eq "deck")', {}, True),
        ('department ne "deck"', {}, True),
        ('department eq "a" or department eq "b" and title pr', {"department": ["a"]}, True),
        ('(department eq "a" or department eq "b") and title pr', {"department": ["a"]}, False),
        ('title co "OFF"', {"title": ["deck officer"]}, True),
        ('starts ge "2031-03-01"', {"starts": ["2031-03-03"]}, True),
        ('department eq "say \\"hi\\""', {"department": ['say "hi"']}, True),
    ],
)
def test_filters_as_text(text: str, values: dict[str, list[str]], wanted: bool) -> None:
    assert matches(parse_filter(text, FILTER_ATTRIBUTES), values) is wanted


@pytest.mark.parametrize("text", ["department eq", "a b c", '(department eq "x"', 'salary gt "1"'])
def test_a_bad_filter_says_where_and_what_to_do(text: str) -> None:
    with pytest.raises(InvalidInput) as caught:
        parse_filter(text, FILTER_ATTRIBUTES)
    assert caught.value.place == "filter"
    assert caught.value.remedy
