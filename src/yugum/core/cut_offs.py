"""How long cutting leavers off took, against the moment their access was to end."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import StrEnum


class Lateness(StrEnum):
    """How long after it was due, or known where that came later, an account was shut."""

    MINUTE = "within-a-minute"
    MINUTES = "within-five-minutes"
    QUARTER = "within-a-quarter"
    HOUR = "within-an-hour"
    DAY = "within-a-day"
    LATER = "later"
    LEFT_OUT = "left-out"
    OPEN = "open"


@dataclass(frozen=True, slots=True, kw_only=True)
class BatchTimes:
    """Dockets that were confirmed together: how they stand, and how long cutting off took, machine time.

    ``cut_offs`` are the dockets of which every account that was to be shut is; ``half_ms`` is what half of
    them took at most.
    """

    dockets: int
    scheduled: int
    running: int
    done: int
    otherwise: int
    stuck: int
    cut_offs: int
    half_ms: float | None
    longest_ms: float | None


LONGEST = (
    (timedelta(minutes=1), Lateness.MINUTE),
    (timedelta(minutes=5), Lateness.MINUTES),
    (timedelta(minutes=15), Lateness.QUARTER),
    (timedelta(hours=1), Lateness.HOUR),
    (timedelta(days=1), Lateness.DAY),
)


@dataclass(frozen=True, slots=True, kw_only=True)
class CutOff:
    """One account of a leaver: when access was to end, when that was known, and when it was shut.

    ``cut_at`` is None while it is open, and where somebody left the step out (``left_out``).
    """

    id: str
    person_id: str
    display_name: str
    user_name: str
    department: str
    application_name: str
    login: str
    number: int
    ended_at: datetime
    known_at: datetime
    cut_at: datetime | None
    left_out: bool
    problem: str

    @property
    def seconds(self) -> float | None:
        """From the moment it could be shut at the earliest; None where it is not."""
        if self.cut_at is None:
            return None
        return max(0.0, (self.cut_at - max(self.ended_at, self.known_at)).total_seconds())

    @property
    def lateness(self) -> Lateness:
        took = self.seconds
        if took is None:
            return Lateness.LEFT_OUT if self.left_out else Lateness.OPEN
        return next(
            (word for most, word in LONGEST if took <= most.total_seconds()), Lateness.LATER
        )
