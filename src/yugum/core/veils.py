"""Former names that are nobody's business: what they are, and how they are hidden from view."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from yugum.core.people import Person, full_name

MARK = "(former name)"
IN_CONFIDENCE = "(in confidence)"


def former_names(before: Person, after: Person) -> list[str]:
    """What somebody was called before and is not any more, the longest first."""
    was, now = _names(before), _names(after)
    return sorted((n for n in was - now if len(n) > 1), key=lambda n: (-len(n), n))


def _names(person: Person) -> set[str]:
    named = {person.user_name, person.mail, person.given_name, person.family_name}
    return {*named, person.display_name, full_name(person)}


@dataclass(frozen=True, slots=True)
class Veil:
    """Hides former names, and the ``grounds`` of precautions, by the subject they belong to."""

    names: Mapping[str, Sequence[str]] = field(default_factory=dict)
    grounds: Mapping[str, Sequence[str]] = field(default_factory=dict)

    def __bool__(self) -> bool:
        return bool(self.names or self.grounds)

    def hide(self, text: str, subject_id: str) -> str:
        """``text`` without the subject's grounds and former names, these as whole words in any case."""
        for ground in self.grounds.get(subject_id, ()):
            text = text.replace(ground, IN_CONFIDENCE)
        names = self.names.get(subject_id)
        if not names:
            return text
        words = "|".join(re.escape(n) for n in names)
        return re.sub(rf"(?<!\w)(?:{words})(?!\w)", MARK, text, flags=re.IGNORECASE)
