"""Approvals, mail, and credentials that people are told of."""

from __future__ import annotations

from typing import Annotated

from pydantic import ConfigDict, Field

from yugum.wire.common import Line, Model, Moment, Request


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
    verb: str
    subject_id: str
    subject_name: str
    employee_number: str
    author: str
    reason: str
    name: str
    everyone: bool
    state: str
    summary: list[str]
    asked: list[Asked]
    answers: list[Answer]
    due_at: Moment
    made_at: Moment
    expires_at: Moment
    mine: bool


class AnswerApproval(Request):
    agrees: bool
    note: Line = ""


class Delegate(Request):
    to: Annotated[Line, Field(min_length=1)]


class AnswerByLink(AnswerApproval):
    token: Annotated[str, Field(max_length=200)]


class Answered(Model):
    id: str
    name: str
    state: str


class ApprovalByLink(Model):
    """What the link in a mail shows."""

    asked: str
    name: str
    state: str
    verb: str
    subject_name: str
    author: str
    reason: str
    summary: list[str]
    due_at: Moment
    expires_at: Moment


class MailRow(Model):
    """A mail: when it was sent, or what keeps it. Links that open something are not kept."""

    id: str
    address: str
    subject: str
    text: str
    kind: str
    subject_id: str | None
    docket_id: str | None
    made_at: Moment
    sent_at: Moment | None
    tries: int
    problem: str


class CredentialRules(Model):
    """Behind a link that still opens: whose account it is and what its password must be like."""

    application: str
    login: str
    length: int
    needs: list[str]


class ChosenCredential(Request):
    """A blank at its end belongs to a password."""

    model_config = ConfigDict(extra="forbid", str_strip_whitespace=False)

    token: Annotated[str, Field(max_length=200)]
    password: Annotated[str, Field(max_length=256)]


class ChosenReply(Model):
    application: str
    login: str
    docket: str


class NewCredential(Request):
    reason: Line = ""
    reference: Line = ""


class HandOver(Request):
    """What the help desk checked before it hands a credential over."""

    check: Annotated[Line, Field(min_length=3)]


class CredentialState(Model):
    """The newest initial credential of an account: told to whom, opened, still to be fetched."""

    account_id: str
    application_name: str
    login: str
    set_at: Moment
    told_at: Moment | None
    told_to: str
    told_how: str
    opened_at: Moment | None
    unopened: bool
    expired: bool | None
