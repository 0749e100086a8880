"""Operators, sessions, API tokens."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from yugum.core.operators import OperatorRole
from yugum.wire.common import Line, Model, Moment, Request, Seen, Words
from yugum.wire.texts import written
from yugum.wire.views import ViewRow

Password = Annotated[str, Field(max_length=1000)]


Username = Annotated[str, Field(min_length=1, max_length=60), written("username")]
"""A login of an operator or integration (RFC 8265 3.3, and none that looks like another's)."""


class OperatorRow(Model):
    id: str
    login: str
    name: str
    role: Seen[OperatorRole]
    active: bool = True
    person_id: str | None = None


class NewOperator(Request):
    login: Username
    name: Words
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
    name: Words
    scope: OperatorRole = OperatorRole.OPERATOR
    days: Annotated[int, Field(ge=1, le=3650)] | None = 90
    password: Password
    integration: Annotated[
        Line, Field(description="The login of an integration you answer for; empty is you.")
    ] = ""


class IntegrationRow(Model):
    """A program that works with Yugum; ``owner`` is the login of who answers for it."""

    id: str
    login: str
    name: str
    role: Seen[OperatorRole]
    active: bool
    owner: str


class NewIntegration(Request):
    """A program that works with Yugum by tokens of its own; whoever adds it answers for it."""

    login: Username
    name: Words
    role: OperatorRole


class IntegrationChange(Request):
    owner: Words = Field(description="The login of who answers for it from now on.")


class TokenRow(Model):
    id: str
    name: str
    of: str
    scopes: list[Seen[OperatorRole]]
    expires: Moment | None


class NewTokenReply(TokenRow):
    token: str


class SignInRequest(Request):
    login: Line
    password: Password


class PasswordRequest(Request):
    """A new password; the present one too, unless there is none or a link began the session."""

    password: Password
    current: Password = ""


class ProofRequest(Request):
    """The present password, for what lets somebody in."""

    password: Password


class SessionView(Model):
    """Who is signed in; ``csrf`` goes back as X-Yugum-CSRF with every change.

    Without a ``password`` only another one-time link leads in again.
    """

    operator: OperatorRow
    csrf: str
    organisation: str
    zone: str
    demo: bool
    password: bool = True
    start: ViewRow | None = None
