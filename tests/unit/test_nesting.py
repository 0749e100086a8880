"""Groups inside groups."""

from __future__ import annotations

from yugum.core.nesting import held_through


def test_the_shortest_path_begins_where_it_is_cut() -> None:
    nested = {
        "Night crew": ["Crew", "Radio"],
        "Crew": ["Staff"],
        "Radio": ["Everybody"],
        "Staff": ["Everybody"],
    }
    assert held_through({"Night crew"}, nested) == {
        "Crew": [("Night crew", "Crew")],
        "Radio": [("Night crew", "Radio")],
        "Staff": [("Night crew", "Crew", "Staff")],
        "Everybody": [("Night crew", "Radio", "Everybody")],
    }


def test_every_way_has_to_be_cut() -> None:
    nested = {"Crew": ["Staff"], "Office": ["Staff"]}
    assert held_through({"Crew", "Office", "Guests"}, nested) == {
        "Staff": [("Crew", "Staff"), ("Office", "Staff")]
    }


def test_what_is_held_directly_is_not_held_through_another() -> None:
    assert held_through({"Crew", "Staff"}, {"Crew": ["Staff"]}) == {}


def test_groups_that_contain_each_other_end() -> None:
    circle = {"A": ["B"], "B": ["C"], "C": ["A"]}
    assert held_through({"A"}, circle) == {"B": [("A", "B")], "C": [("A", "B", "C")]}
    assert held_through((), circle) == {}
