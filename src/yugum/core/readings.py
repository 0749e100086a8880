"""Readings: of what sort they are, how they ended, and whether what they found is believed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from enum import StrEnum

from yugum.core.applications import Profile

SITE = 5
"""A whole site that is gone with fewer accounts than this says nothing."""


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


@dataclass(frozen=True, slots=True)
class KnownKey:
    """An account that a complete reading has to find: ``site`` is where its owner works, "" nobody's.

    ``busy`` while a docket of its owner runs; ``in_use`` unless it is deleted already.
    """

    account_id: str
    external_id: str
    site: str
    busy: bool
    in_use: bool


def is_fall(gone: int, before: int, profile: Profile) -> bool:
    """Whether so many of the accounts in use are gone that it is not believed at once."""
    return gone >= profile.fall_least and gone * 100 >= profile.fall_percent * before


def whole_site(gone: Mapping[str, int], before: Mapping[str, int]) -> str:
    """A site of which every account in use is gone; "" when there is none."""
    return next((s for s, n in sorted(gone.items()) if s and n >= SITE and n == before[s]), "")
