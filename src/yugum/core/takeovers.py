"""Whether whoever is to take something over does: asked by mail, answered by a link."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

Key = tuple[str, str, str]
"""An application, a kind of thing, and who is to take it over."""


class TakeoverAnswer(StrEnum):
    """What became of a question."""

    OPEN = "open"
    ACCEPTED = "accepted"
    PASSED_ON = "passed-on"
    DECLINED = "declined"
    UNANSWERED = "unanswered"


SAID_NO = frozenset({TakeoverAnswer.PASSED_ON, TakeoverAnswer.DECLINED})
"""Answers after which whoever gave them takes nothing of the kind."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Takeover:
    """Somebody is to take over ``count`` things of a kind from a person in an application; ``asked_at`` once they are asked."""

    id: str
    person_id: str
    heir_id: str
    application_id: str
    thing: str
    count: int
    asked_at: datetime | None = None
    answer_by: datetime | None = None
    answer: TakeoverAnswer = TakeoverAnswer.OPEN
    answered_at: datetime | None = None
    note: str = ""

    @property
    def key(self) -> Key:
        """What is told apart of one person's."""
        return self.application_id, self.thing, self.heir_id


@dataclass(frozen=True, slots=True, kw_only=True)
class NewTakeover:
    """Somebody who is to be asked about so many things of a person's."""

    person_id: str
    heir_id: str
    application_id: str
    thing: str
    count: int
