"""Signing in, operators and API tokens."""

from __future__ import annotations

from fastapi import APIRouter, Request, Response

from yugum.api.auth import (
    COOKIE,
    Acting,
    Administrator,
    Deciding,
    Governing,
    SignedIn,
    Source,
    Use,
    Viewer,
    services_of,
)
from yugum.api.idempotency import SECRET, IdempotentRoute
from yugum.api.parameters import Cursor, Limit
from yugum.api.said import WhichIntegrations, WhichOperators, WhichTokens
from yugum.api.shapes import installation, page_of, shape
from yugum.api.strict import StrictRoute
from yugum.api.views import view_row
from yugum.engine.access import Operator, SignIn
from yugum.wire import operators as wo
from yugum.wire.common import LinkRequest, Page

session = APIRouter(prefix="/session", tags=["session"], route_class=StrictRoute)
router = APIRouter(prefix="/operators", tags=["operators"], route_class=IdempotentRoute)
integrations = APIRouter(prefix="/integrations", tags=["integrations"], route_class=IdempotentRoute)
tokens = APIRouter(prefix="/tokens", tags=["tokens"], route_class=IdempotentRoute)


async def _view(request: Request, operator: Operator) -> wo.SessionView:
    whose = installation(request)
    use = services_of(request)
    start = await use.views.start_of(operator)
    return wo.SessionView(
        operator=shape(wo.OperatorRow, operator),
        csrf=operator.csrf,
        organisation=whose.organisation,
        zone=whose.zone,
        demo=whose.demo,
        password=await use.access.has_password(operator),
        start=view_row(start, operator) if start else None,
    )


async def _begin(request: Request, response: Response, signed: SignIn) -> wo.SessionView:
    settings = request.app.state.services.settings
    response.set_cookie(
        COOKIE,
        signed.cookie,
        max_age=int(settings.session_hours * 3600),
        httponly=True,
        samesite="strict",
        secure=request.app.state.public_url.startswith("https://"),
        path="/",
    )
    return await _view(request, signed.operator)


@session.post("", operation_id="session.sign-in")
async def sign_in(
    body: wo.SignInRequest, request: Request, response: Response, use: Use, source: Source
) -> wo.SessionView:
    """Sign in with login and password; sets the session's cookie."""
    return await _begin(
        request, response, await use.access.sign_in(body.login, body.password, source)
    )


@session.post("/link", operation_id="session.sign-in-by-link")
async def sign_in_by_link(
    body: LinkRequest, request: Request, response: Response, use: Use
) -> wo.SessionView:
    """Sign in with a one-time link, which works once."""
    return await _begin(request, response, await use.access.sign_in_by_link(body.token))


@session.get("", operation_id="session.show")
async def who_am_i(request: Request, operator: Viewer) -> wo.SessionView:
    return await _view(request, operator)


@session.delete("", status_code=204, operation_id="session.sign-out")
async def sign_out(request: Request, response: Response, use: Use, _: Viewer) -> None:
    if cookie := request.cookies.get(COOKIE):
        await use.access.sign_out(cookie)
    response.delete_cookie(COOKIE, path="/")


@session.put("/password", status_code=204, operation_id="session.set-password")
async def set_password(
    body: wo.PasswordRequest, use: Use, operator: SignedIn, source: Source
) -> None:
    """Set one's own password, in a session; any role may. Every other session of one's own ends."""
    await use.access.set_password(operator, body.password, body.current, source)


@session.post("/others/end", status_code=204, operation_id="session.sign-out-others")
async def sign_out_others(
    body: wo.ProofRequest, use: Use, operator: SignedIn, source: Source
) -> None:
    """End every other session of one's own."""
    await use.access.sign_out_others(operator, body.password, source)


@router.get("", operation_id="operators.list")
async def list_operators(
    use: Use, _: Administrator, said: WhichOperators, cursor: Cursor = None, limit: Limit = 50
) -> Page[wo.OperatorRow]:
    """Who works with Yugum, by login."""
    page = await use.operators.page(cursor, limit, said.chosen())
    return page_of(page, wo.OperatorRow.model_validate)


@router.post("", status_code=201, tags=[SECRET], operation_id="operators.add")
async def add_operator(
    body: wo.NewOperator, request: Request, use: Use, operator: Governing
) -> wo.OperatorLink:
    """A new operator with a one-time sign-in link."""
    made, token = await use.operators.add(
        body.login, body.name, body.role, operator.login, person=body.person
    )
    return wo.OperatorLink(
        link=f"{request.app.state.public_url}/welcome#{token}", operator=shape(wo.OperatorRow, made)
    )


@router.patch("/{operator_id}", operation_id="operators.change")
async def change_operator(
    operator_id: str, body: wo.OperatorChange, use: Use, operator: Governing
) -> wo.OperatorRow:
    changed = await use.operators.change(
        operator_id, role=body.role, active=body.active, author=operator.login
    )
    return wo.OperatorRow.model_validate(changed)


@router.post("/{login}/link", tags=[SECRET], operation_id="operators.link")
async def operator_link(
    login: str, request: Request, use: Use, operator: Governing
) -> wo.OperatorLink:
    token = await use.operators.link(login, operator.login)
    return wo.OperatorLink(link=f"{request.app.state.public_url}/welcome#{token}")


@integrations.get("", operation_id="integrations.list")
async def list_integrations(
    use: Use, _: Viewer, said: WhichIntegrations, cursor: Cursor = None, limit: Limit = 50
) -> Page[wo.IntegrationRow]:
    """Programs that work with Yugum, and who answers for each."""
    page = await use.operators.integrations(cursor, limit, said.chosen())
    return page_of(page, wo.IntegrationRow.model_validate)


@integrations.post("", status_code=201, operation_id="integrations.add")
async def add_integration(
    body: wo.NewIntegration, use: Use, operator: Deciding
) -> wo.IntegrationRow:
    """A program with tokens of its own, for which whoever adds it answers."""
    made = await use.operators.add_integration(body.login, body.name, body.role, operator)
    return wo.IntegrationRow.model_validate(made)


@integrations.patch("/{login}", operation_id="integrations.change")
async def change_integration(
    login: str, body: wo.IntegrationChange, use: Use, operator: Acting
) -> wo.IntegrationRow:
    """Another operator answers for it; its owner or an administrator may say so."""
    changed = await use.operators.pass_on(login, body.owner, operator)
    return wo.IntegrationRow.model_validate(changed)


@integrations.delete("/{login}", status_code=204, operation_id="integrations.end")
async def end_integration(login: str, use: Use, operator: Acting) -> None:
    """It does not work with Yugum any more; its tokens are gone."""
    await use.operators.end_integration(login, operator)


@tokens.get("", operation_id="tokens.list")
async def list_tokens(
    use: Use, operator: Viewer, said: WhichTokens, cursor: Cursor = None, limit: Limit = 50
) -> Page[wo.TokenRow]:
    """The tokens of one's own, and of the integrations one answers for."""
    page = await use.access.tokens(operator, said.of, cursor, limit)
    return page_of(page, lambda line: shape(wo.TokenRow, line, scopes=[line.scope]))


@tokens.post("", status_code=201, tags=[SECRET], operation_id="tokens.add")
async def add_token(
    body: wo.NewToken, use: Use, operator: SignedIn, source: Source
) -> wo.NewTokenReply:
    """A new API token, shown this once; in a session, with the present password."""
    made, token = await use.access.add_token(
        operator,
        body.name,
        body.scope,
        body.days,
        password=body.password,
        source=source,
        integration=body.integration,
    )
    return shape(wo.NewTokenReply, made, scopes=[made.scope], token=token)


@tokens.delete("/{token_id}", status_code=204, operation_id="tokens.revoke")
async def revoke_token(token_id: str, use: Use, operator: Viewer) -> None:
    await use.access.revoke_token(operator, token_id)
