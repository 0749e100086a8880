"""Approvals: what somebody is asked to agree to."""

from __future__ import annotations

from typing import Annotated

from pydantic import ConfigDict, Field

from yugum.core.approvals import ApprovalState
from yugum.core.verbs import Verb
from yugum.wire.common import Line, Model, Moment, Request, Seen, Words
from yugum.wire.texts import asks


class Asked(Model):
    key: str
    name: str
    why: str


class Answer(Model):
    name: str
    agrees: bool
    note: str
    at: Moment


class ApprovalRow(Model):
    """What somebody is asked to agree to, since when, and until when."""

    id: str
    docket_id: str
    number: str
    verb: Seen[Verb]
    subject_id: str
    subject_name: str
    employee_number: str
    author: str
    reason: str
    name: str
    everyone: bool
    state: Seen[ApprovalState]
    summary: list[str]
    asked: list[Asked]
    answers: list[Answer]
    due_at: Moment
    made_at: Moment
    expires_at: Moment
    mine: bool


class AnswerApproval(Request):
    """Agreeing, or refusing with the reason in ``note``."""

    model_config = ConfigDict(json_schema_extra=asks("agrees", False, "note"))

    agrees: bool
    note: Line = ""


class Delegate(Request):
    to: Words


class AnswerByLink(AnswerApproval):
    token: Annotated[str, Field(max_length=200)]


class Answered(Model):
    id: str
    name: str
    state: Seen[ApprovalState]


class ApprovalByLink(Model):
    """What the link in a mail shows."""

    asked: str
    name: str
    state: Seen[ApprovalState]
    verb: Seen[Verb]
    subject_name: str
    author: str
    reason: str
    summary: list[str]
    due_at: Moment
    expires_at: Moment
