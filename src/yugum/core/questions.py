"""Whether a seat that is not used is still needed: asked by mail, answered by a link."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum


class SeatAnswer(StrEnum):
    """What became of a question."""

    OPEN = ""
    KEPT = "kept"
    GIVEN_UP = "given-up"


@dataclass(frozen=True, slots=True, kw_only=True)
class Question:
    """Asked of whoever has a seat. It is kept ``kept_until`` a day if they said so."""

    claim_id: str
    asked_at: datetime
    answer_by: datetime
    answer: SeatAnswer = SeatAnswer.OPEN
    answered_at: datetime | None = None
    kept_until: datetime | None = None
