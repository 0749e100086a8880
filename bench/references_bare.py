"""Who is named in settings, as a practitioner would search: one pass by an Aho–Corasick library."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

import ahocorasick


def searched(texts: Iterable[tuple[str, str]], names: Mapping[str, str]) -> set[tuple[str, str]]:
    """Each text's key with whom it names; whole words are not told apart from parts."""
    automaton = ahocorasick.Automaton()
    for name, person in names.items():
        automaton.add_word(name, person)
    automaton.make_automaton()
    found = set()
    for key, text in texts:
        for _, person in automaton.iter(text.lower()):
            found.add((key, person))
    return found
