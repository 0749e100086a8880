"""Who makes a request: a console session with CSRF protection, or an API token.

Reading, a token may also come as the password of HTTP's Basic scheme.
"""

from __future__ import annotations

from base64 import b64decode
from collections.abc import Awaitable, Callable
from typing import Annotated

from fastapi import Depends, Request

from yugum.core.operators import OperatorRole
from yugum.engine.access import Operator, must_be_session
from yugum.engine.hashing import same
from yugum.engine.plans.safeguards import Actor
from yugum.engine.services import Services
from yugum.errors import Forbidden, Unauthenticated

COOKIE = "yugum_session"
CSRF_HEADER = "X-Yugum-CSRF"
SAFE = ("GET", "HEAD", "OPTIONS")


def services_of(request: Request) -> Services:
    found: Services = request.app.state.services
    return found


async def authenticate(request: Request) -> Operator:
    """The operator behind a request; found once a request.

    Raises:
        Unauthenticated: no session or token, or one that is not good any more.
        Forbidden: a session's change without its CSRF token.
    """
    known: Operator | None = getattr(request.state, "operator", None)
    if known is not None:
        return known
    access = services_of(request).access
    operator = None
    header = request.headers.get("Authorization", "")
    if header.startswith("Bearer "):
        operator = await access.by_token(header[7:])
    elif header.startswith("Basic ") and request.method in SAFE:
        operator = await access.by_token(_password(header[6:]))
    elif cookie := request.cookies.get(COOKIE):
        operator = await access.by_session(cookie)
        if operator is not None and request.method not in SAFE:
            sent = request.headers.get(CSRF_HEADER, "")
            if not same(sent, operator.csrf):
                raise Forbidden(
                    "The request does not carry this session's token.",
                    remedy="Load the page again.",
                )
    if operator is None:
        raise Unauthenticated(
            "Sign in first.", remedy="In the console, or with a token: YUGUM_TOKEN."
        )
    request.state.operator = operator
    return operator


def _password(credentials: str) -> str:
    """The password of HTTP's Basic scheme (RFC 7617), which is what calendar programs can send."""
    try:
        return b64decode(credentials, validate=True).decode().partition(":")[2]
    except ValueError:
        return ""


def needs(role: OperatorRole) -> Callable[[Request], Awaitable[Operator]]:
    """A dependency that lets operators of at least this role pass."""

    async def check(request: Request) -> Operator:
        operator = await authenticate(request)
        if not operator.may(role):
            raise Forbidden(
                f"This needs the role {role.value}; yours is {operator.role.value}.",
                remedy="Ask an administrator.",
            )
        return operator

    return check


Viewer = Annotated[Operator, Depends(needs(OperatorRole.VIEWER))]
Acting = Annotated[Operator, Depends(needs(OperatorRole.OPERATOR))]
Administrator = Annotated[Operator, Depends(needs(OperatorRole.ADMINISTRATOR))]


async def _services(request: Request) -> Services:
    return services_of(request)


Use = Annotated[Services, Depends(_services)]


async def source_of(request: Request) -> str:
    """The address a request comes from; a proxy's word for it counts where the proxy is configured."""
    return request.client.host if request.client else "?"


Source = Annotated[str, Depends(source_of)]


def somebody(role: OperatorRole) -> Callable[[Request], Awaitable[Operator]]:
    """A dependency that lets operators of at least this role pass, and no program."""

    async def check(request: Request) -> Operator:
        operator = await needs(role)(request)
        if operator.owner_id:
            raise Forbidden(
                "This is for somebody to decide, not for an integration.",
                remedy="Sign in as an operator.",
            )
        return operator

    return check


async def in_session(request: Request) -> Operator:
    """Whoever has signed in; no token does.

    Raises:
        Forbidden: it comes with a token.
    """
    operator = await authenticate(request)
    must_be_session(operator)
    return operator


Governing = Annotated[Operator, Depends(somebody(OperatorRole.ADMINISTRATOR))]
Deciding = Annotated[Operator, Depends(somebody(OperatorRole.OPERATOR))]
"""Who is somebody: who works with Yugum, and who agrees, is no program's decision."""
SignedIn = Annotated[Operator, Depends(in_session)]


def actor(operator: Operator) -> Actor:
    return Actor(operator.login, operator.person_id)
