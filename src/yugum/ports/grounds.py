"""What is the same for everybody: read before anybody is looked at."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol

from yugum.core.applications import Application
from yugum.core.decisions import Decision
from yugum.core.reservations import Reservation
from yugum.core.seats import Pool


@dataclass(frozen=True, slots=True)
class Adopted:
    """Rules in force; ``document`` is JSON text."""

    version: int
    document: str
    adopted_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class Grounds:
    """All of one moment. Pools are by application and license, reservations are those in force.

    ``holds`` are those on applications as a whole, ``prefix`` begins dockets' numbers.
    """

    rules: Adopted | None
    prefix: str
    applications: Mapping[str, Application]
    pools: Mapping[tuple[str, str], Pool]
    reservations: Sequence[Reservation]
    holds: Mapping[str, tuple[Decision, ...]]


class GroundStore(Protocol):
    async def load(self) -> Grounds: ...
