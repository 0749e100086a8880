"""Seats: pools, who holds one, who waits."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum


class SeatState(StrEnum):
    """Whether a claim on a seat holds one or waits in line."""

    HELD = "held"
    WAITING = "waiting"


@dataclass(frozen=True, slots=True, kw_only=True)
class Pool:
    """How many seats of a license were bought and are held.

    ``price_cents`` is per seat and month. ``waiting`` counts the line.
    """

    id: str
    application_id: str
    license: str
    bought: int
    held: int = 0
    waiting: int = 0
    price_cents: int = 0
    currency: str = "EUR"

    @property
    def free(self) -> int:
        return self.bought - self.held


def next_in_line(free: int, waiting: tuple[int, ...]) -> tuple[int, ...]:
    """The places (lowest first) that are served when ``free`` seats are there."""
    return tuple(sorted(waiting)[: max(0, free)])
