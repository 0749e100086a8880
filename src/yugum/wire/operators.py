"""Operators, sessions, API tokens."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from yugum.core.operators import OperatorRole
from yugum.wire.common import Line, Model, Moment, Request, Seen


class OperatorRow(Model):
    id: str
    login: str
    name: str
    role: Seen[OperatorRole]
    active: bool = True
    person_id: str | None = None


class NewOperator(Request):
    login: Annotated[Line, Field(min_length=1, max_length=60)]
    name: Annotated[Line, Field(min_length=1)]
    role: OperatorRole
    person: Line = ""


class OperatorChange(Request):
    role: OperatorRole | None = None
    active: bool | None = None


class OperatorLink(Model):
    """A one-time sign-in link; shown this once."""

    link: str
    operator: OperatorRow | None = None


class NewToken(Request):
    name: Annotated[Line, Field(min_length=1)]
    scope: OperatorRole = OperatorRole.OPERATOR
    days: Annotated[int, Field(ge=1, le=3650)] | None = 90


class TokenRow(Model):
    id: str
    name: str
    scopes: list[Seen[OperatorRole]]
    expires: Moment | None


class NewTokenReply(TokenRow):
    token: str


class SignInRequest(Request):
    login: Line
    password: Annotated[str, Field(max_length=1000)]


class PasswordRequest(Request):
    password: Annotated[str, Field(max_length=1000)]


class SessionView(Model):
    """Who is signed in; ``csrf`` goes back as X-Yugum-CSRF with every change."""

    operator: OperatorRow
    csrf: str
    organisation: str
    zone: str
    demo: bool
