"""Whether unused seats are still needed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol

from yugum.core.questions import Question
from yugum.core.reclaim import Looked
from yugum.ports.pages import ListPage


@dataclass(frozen=True, slots=True, kw_only=True)
class QuestionLine(Question):
    """A question in a list: of whom, and of which seat."""

    person_id: str | None
    person_name: str | None
    login: str
    application_id: str
    application_name: str
    license: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Unused:
    """Somebody to be asked about a seat."""

    claim_id: str
    person_id: str
    person_name: str
    mail: str
    login: str
    last_used: datetime | None


class QuestionStore(Protocol):
    async def to_ask(self, looked: Looked, limit: int) -> Sequence[Unused]:
        """Who does not use a seat of a pool, can be reached, and was not asked since they did."""
        ...

    async def ask(
        self, links: Mapping[str, str], asked_at: datetime, answer_by: datetime
    ) -> Sequence[str]:
        """Store questions by claim, each with the hash of its link; those that nobody else has just asked."""
        ...

    async def behind(self, link_hash: str, *, lock: bool = False) -> QuestionLine:
        """The question that a link opens.

        Raises:
            NotFound: there is none, or the seat has come back.
        """
        ...

    async def answer(self, question: Question) -> None:
        """Store what was answered."""
        ...

    async def page(self, pool_id: str, cursor: str | None, limit: int) -> ListPage[QuestionLine]:
        """Questions about seats of a pool that are held, the latest first."""
        ...
