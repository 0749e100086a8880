"""Names in texts: whole words, whoever looks, and put in each other's place without touching anything else."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from yugum.core.mentions import Finder, swapped, words_in

NAMES = ["mquill", "m.quill", "mquill@ferries.example", "quill", "ässa", "a"]
PARTS = st.sampled_from(
    [
        *NAMES,
        *(n.upper() for n in NAMES),
        "x",
        ".",
        "-",
        "@",
        ",",
        ";",
        " ",
        "\n",
        "2",
        "_",
        "+",
        "<",
        ">",
        "ß",
    ]
)
TEXTS = st.lists(PARTS, max_size=14).map("".join)


@given(TEXTS)
def test_the_finder_finds_the_words_and_nothing_else(text: str) -> None:
    names = {f"p{n}": [name] for n, name in enumerate(NAMES)}
    assert Finder(names).whom(text) == {i for i, mine in names.items() if {*mine} & words_in(text)}
    assert Finder({}).whom(text) == set()


@given(TEXTS)
def test_who_was_replaced_is_named_no_more_and_others_stay(text: str) -> None:
    after = swapped(text, {"mquill": "svarga", "mquill@ferries.example": "svarga@ferries.example"})
    gone = {"mquill", "mquill@ferries.example"}
    assert not words_in(after) & gone
    assert words_in(text) - gone == words_in(after) - {"svarga", "svarga@ferries.example"}
    if not words_in(text) & gone:
        assert after == text


def test_of_a_list_nobody_stands_in_it_twice() -> None:
    instead = {"mquill": "svarga"}
    for text, after in (
        ("svarga, mquill", "svarga"),
        ("mquill; svarga; bridge", "svarga; bridge"),
        ("mquill, bridge, bridge", "svarga, bridge, bridge"),
        ("To: mquill, then mquill.", "To: svarga, then svarga."),
        ("ask @mquill or mquill2", "ask @svarga or mquill2"),
        ("mquill@elsewhere.example", "mquill@elsewhere.example"),
    ):
        assert swapped(text, instead) == after
