"""Readings: of what sort they are, how they ended, and whether what they found is believed."""

from __future__ import annotations

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


def is_fall(seen: int, before: int) -> bool:
    """Whether so few accounts were found that something is probably wrong with the application."""
    return before >= FEW and seen < before * FALL
