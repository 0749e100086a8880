"""Readings: of what sort they are, how they ended, and whether what they found is believed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from enum import StrEnum

FALL = 0.7
"""A reading that finds less than this share of the accounts in use is not believed at once."""
FEW = 10
"""With fewer accounts than this, a fall says nothing."""


class ReadingMode(StrEnum):
    """Every account, or only what has changed since the last reading."""

    FULL = "full"
    CHANGES = "changes"


class ReadingState(StrEnum):
    """How far a reading came; one that is held waits for somebody to believe it."""

    RUNNING = "running"
    DONE = "done"
    HELD = "held"
    FAILED = "failed"


@dataclass(slots=True)
class ReadingCounts:
    """What a reading found; ``outside`` counts changes that Yugum did not make."""

    accounts: int = 0
    new: int = 0
    changed: int = 0
    linked: int = 0
    nobody: int = 0
    unreadable: int = 0
    gone: int = 0
    outside: int = 0

    def by_name(self) -> Mapping[str, int]:
        return asdict(self)


def is_fall(seen: int, before: int) -> bool:
    """Whether so few accounts were found that something is probably wrong with the application."""
    return before >= FEW and seen < before * FALL
