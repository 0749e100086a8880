"""Former names that are nobody's business: what they are, and how they are hidden from view."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

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

    def hide(self, text: str, subject_id: str) -> str:
        """``text`` without the subject's former names, hidden as whole words in any case."""
        names = self.names.get(subject_id)
        if not names:
            return text
        words = "|".join(re.escape(n) for n in names)
        return re.sub(rf"(?<!\w)(?:{words})(?!\w)", MARK, text, flags=re.IGNORECASE)
