"""Signing in, operators and API tokens."""

from __future__ import annotations

from fastapi import APIRouter, Request, Response

from yugum.api.auth import COOKIE, Administrator, Use, Viewer
from yugum.api.idempotency import SECRET, IdempotentRoute
from yugum.api.people import Cursor, Limit
from yugum.api.shapes import page_of
from yugum.engine.access import Operator, OperatorRole, SignIn
from yugum.wire import nouns as wn
from yugum.wire.common import Page

session = APIRouter(prefix="/session", tags=["session"])
router = APIRouter(prefix="/operators", tags=["operators"], route_class=IdempotentRoute)
tokens = APIRouter(prefix="/tokens", tags=["tokens"], route_class=IdempotentRoute)


def _row(operator: Operator) -> wn.OperatorRow:
    return wn.OperatorRow(
        id=operator.id,
        login=operator.login,
        name=operator.name,
        role=operator.role.value,
        person_id=operator.person_id,
    )


def _view(request: Request, operator: Operator) -> wn.SessionView:
    installation = request.app.state.installation
    return wn.SessionView(
        operator=_row(operator),
        csrf=operator.csrf,
        organisation=installation["organisation"],
        zone=installation["zone"],
        demo=installation["demo"],
    )


def _begin(request: Request, response: Response, signed: SignIn) -> wn.SessionView:
    settings = request.app.state.services.settings
    response.set_cookie(
        COOKIE,
        signed.cookie,
        max_age=int(settings.session_hours * 3600),
        httponly=True,
        samesite="strict",
        secure=request.url.scheme == "https",
        path="/",
    )
    return _view(request, signed.operator)


@session.post("")
async def sign_in(
    body: wn.SignInRequest, request: Request, response: Response, use: Use
) -> wn.SessionView:
    """Sign in with login and password; sets the session's cookie."""
    source = request.client.host if request.client else "?"
    return _begin(request, response, await use.access.sign_in(body.login, body.password, source))


@session.post("/link")
async def sign_in_by_link(
    body: wn.LinkRequest, request: Request, response: Response, use: Use
) -> wn.SessionView:
    """Sign in with a one-time link, which works once."""
    return _begin(request, response, await use.access.sign_in_by_link(body.token))


@session.get("")
async def who_am_i(request: Request, operator: Viewer) -> wn.SessionView:
    return _view(request, operator)


@session.delete("", status_code=204)
async def sign_out(request: Request, response: Response, use: Use, _: Viewer) -> None:
    if cookie := request.cookies.get(COOKIE):
        await use.access.sign_out(cookie)
    response.delete_cookie(COOKIE, path="/")


@session.put("/password", status_code=204)
async def set_password(body: wn.PasswordRequest, use: Use, operator: Viewer) -> None:
    """Set one's own password; any role may."""
    await use.access.set_password(operator.id, body.password)


@router.get("")
async def list_operators(
    use: Use, _: Administrator, cursor: Cursor = None, limit: Limit = 50
) -> Page[wn.OperatorRow]:
    return page_of(await use.access.page(cursor, limit), wn.OperatorRow.model_validate)


@router.post("", status_code=201, tags=[SECRET])
async def add_operator(
    body: wn.NewOperator, request: Request, use: Use, operator: Administrator
) -> wn.OperatorLink:
    """A new operator with a one-time sign-in link."""
    made, token = await use.access.add(
        body.login, body.name, OperatorRole(body.role), operator.login, person=body.person
    )
    return wn.OperatorLink(
        link=f"{request.app.state.public_url}/welcome#{token}", operator=_row(made)
    )


@router.patch("/{operator_id}")
async def change_operator(
    operator_id: str, body: wn.OperatorChange, use: Use, operator: Administrator
) -> wn.OperatorRow:
    role = OperatorRole(body.role) if body.role else None
    row = await use.access.change(operator_id, role=role, active=body.active, author=operator.login)
    return wn.OperatorRow.model_validate(dict(row))


@router.post("/{login}/link", tags=[SECRET])
async def operator_link(
    login: str, request: Request, use: Use, operator: Administrator
) -> wn.OperatorLink:
    token = await use.access.link(login, operator.login)
    return wn.OperatorLink(link=f"{request.app.state.public_url}/welcome#{token}")


@tokens.get("")
async def list_tokens(use: Use, operator: Viewer) -> list[wn.TokenRow]:
    return [wn.TokenRow.model_validate(r) for r in await use.access.tokens(operator)]


@tokens.post("", status_code=201, tags=[SECRET])
async def add_token(body: wn.NewToken, use: Use, operator: Viewer) -> wn.NewTokenReply:
    """A new API token, shown this once."""
    row, token = await use.access.add_token(
        operator, body.name, OperatorRole(body.scope), body.days
    )
    return wn.NewTokenReply(**row, token=token)


@tokens.delete("/{token_id}", status_code=204)
async def revoke_token(token_id: str, use: Use, operator: Viewer) -> None:
    await use.access.revoke_token(operator, token_id)
