"""Whether whoever is to take something over does."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from yugum.core.takeovers import TakeoverAnswer
from yugum.wire.common import Line, Model, Moment, Request, Seen

Said = Literal[TakeoverAnswer.ACCEPTED, TakeoverAnswer.PASSED_ON, TakeoverAnswer.DECLINED]


class TakeoverRow(Model):
    """Somebody (``heir``) is to take over ``count`` things of a kind from a person in an application.

    ``asked_at`` is empty until they are asked; without an ``address`` no mail reaches them.
    """

    id: str
    person_id: str
    name: str
    user_name: str
    leaves_at: Moment | None
    heir_id: str
    heir_name: str
    address: str
    application_id: str
    application_name: str
    thing: str
    count: int
    asked_at: Moment | None
    answer_by: Moment | None
    answer: Seen[TakeoverAnswer]
    answered_at: Moment | None
    note: str


class TakeoverReply(Request):
    """They take it over, decline (with a ``note`` why), or pass it on ``to`` somebody, named by login or mail address."""

    answer: Said
    to: Line = ""
    note: Annotated[str, Field(max_length=300)] = ""


class TakeoverLink(Request):
    """The link of a mail."""

    token: Annotated[str, Field(max_length=200)]


class TakeoverLinkReply(TakeoverReply, TakeoverLink):
    """What is said to one of the questions (``id``) behind the link of a mail."""

    id: Annotated[str, Field(max_length=60)]


class TakeoverQuestion(Model):
    """One of the things that a link asks: to take over ``count`` of a kind from ``name``, whose access ends or has ended, and
    what was said to it."""

    id: str
    person_id: str
    name: str
    leaves_at: Moment | None
    application_name: str
    thing: str
    count: int
    answer: Seen[TakeoverAnswer]
    answer_by: Moment
    answered_at: Moment | None


class TakeoverQuestions(Model):
    """What is asked of somebody, those without an answer first; ``zone`` is theirs."""

    heir_name: str
    zone: str
    questions: list[TakeoverQuestion]
