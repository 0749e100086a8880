"""Accounts as last seen, and whose they are."""

from __future__ import annotations

from typing import Annotated

from yugum.core.accounts import AccountKind, AccountState
from yugum.core.applications import Duty
from yugum.wire.common import BlankIsNone, Line, Model, Moment, Request, Seen


class AccountRow(Model):
    id: str
    application_id: str
    application_name: str
    person_id: str | None
    person_name: str | None
    kind: Seen[AccountKind]
    login: str
    external_id: str
    state: Seen[AccountState]
    locked: bool
    invited_at: Moment | None
    duties: list[Seen[Duty]]
    entitlements: list[str]
    seats: list[str]
    sessions: int
    keys: int
    settings: dict[str, str]
    recoverable_until: Moment | None
    last_used: Moment | None
    seen_at: Moment | None


class Proposal(Model):
    """A link between an account and a person that somebody should look at."""

    account_id: str
    person_id: str
    rule: str
    confidence: int
    login: str
    account_name: str
    application_name: str
    person_name: str
    employee_number: str
    department: str


class LinkAccount(Request):
    """``who`` empty: nobody is behind the account. ``kind`` says whose kind of account it is."""

    who: Line = ""
    kind: Annotated[AccountKind | None, BlankIsNone] = None


class Linked(Model):
    """Whose an account is now; nobody's without a person."""

    account_id: str
    person_id: str | None
