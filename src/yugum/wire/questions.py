"""Whether unused seats are still needed."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from yugum.core.questions import SeatAnswer
from yugum.wire.common import Model, Moment, Request, Seen


class Asked(Model):
    """How many were asked now."""

    people: int


class QuestionRow(Model):
    """Somebody asked whether a seat is still needed; ``answer`` is "" until there is one."""

    claim_id: str
    person_id: str | None
    person_name: str | None
    login: str
    asked_at: Moment
    answer_by: Moment
    answer: Seen[SeatAnswer]
    answered_at: Moment | None
    kept_until: Moment | None


class SeatLink(Request):
    """The link of a mail."""

    token: Annotated[str, Field(max_length=200)]


class SeatReply(SeatLink):
    """Whether the seat is still needed."""

    keeps: bool


class SeatQuestion(Model):
    """What the link of a mail asks."""

    person_name: str | None
    login: str
    application_name: str
    license: str
    answer_by: Moment
    answer: Seen[SeatAnswer]
    kept_until: Moment | None
