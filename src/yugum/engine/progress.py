"""One reading under way."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import datetime

from yugum.core.accounts import Observed
from yugum.core.applications import Application
from yugum.core.readings import ReadingCounts
from yugum.core.roles import Rules


@dataclass(slots=True)
class Progress:
    """One reading under way; ``keys`` are short hashes of what was seen.

    ``again`` holds what was shown more than once, since lists shift while they are paged through;
    the last showing counts, and ``twice`` is while these are taken in. ``groups`` are counted among the accounts until it ends. ``in_step`` counts the attributes changed outside that are put back or taken
    over.
    """

    application: Application
    rules: Rules
    first: bool
    empty: bool
    now: datetime
    keys: set[int] = field(default_factory=set)
    again: list[Observed] = field(default_factory=list)
    counts: ReadingCounts = field(default_factory=ReadingCounts)
    in_step: int = 0
    twice: bool = False
    groups: int = 0
    new_groups: int = 0
