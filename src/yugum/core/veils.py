"""Former names that are nobody's business: what they are, and how they are hidden from view."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from yugum.core.people import Person, full_name

MARK = "(former name)"


def former_names(before: Person, after: Person) -> list[str]:
    """What somebody was called before and is not any more, the longest first."""
    was, now = _names(before), _names(after)
    return sorted((n for n in was - now if len(n) > 1), key=lambda n: (-len(n), n))


def _names(person: Person) -> set[str]:
    named = {person.user_name, person.mail, person.given_name, person.family_name}
    return {*named, person.display_name, full_name(person)}


@dataclass(frozen=True, slots=True)
class Veil:
    """Hides former names: ``names`` by the subject they belonged to."""

    names: Mapping[str, Sequence[str]] = field(default_factory=dict)

    def over(self, value: Any, subject_id: str) -> Any:
        """``value`` (text, or mappings and lists of it) without the subject's former names.

        A name is hidden as a whole word, in any case; keys and what is no text stay as they are.
        """
        names = self.names.get(subject_id)
        if not names:
            return value
        words = "|".join(re.escape(n) for n in names)
        return _without(value, re.compile(rf"(?<!\w)(?:{words})(?!\w)", re.IGNORECASE))


def _without(value: Any, former: re.Pattern[str]) -> Any:
    if type(value) is str:  # an enum's member is a word of ours, not a name
        return former.sub(MARK, value)
    if isinstance(value, Mapping):
        return {k: _without(v, former) for k, v in value.items()}
    if isinstance(value, list | tuple):
        return type(value)(_without(v, former) for v in value)
    return value
