"""Applications, their accounts, and initial credentials."""

from __future__ import annotations

from typing import Annotated, Any, Literal
from urllib.parse import urlsplit

from fastapi import APIRouter, Query, Request

from yugum.api.auth import Acting, Administrator, Use, Viewer
from yugum.api.idempotency import SECRET, IdempotentRoute
from yugum.api.people import Cursor, Limit
from yugum.api.shapes import page_of
from yugum.core.applications import Application, Profile
from yugum.wire import nouns as wn
from yugum.wire.common import Page

router = APIRouter(prefix="/applications", tags=["applications"], route_class=IdempotentRoute)


@router.get("")
async def list_applications(use: Use, _: Viewer) -> list[wn.ApplicationRow]:
    """All applications; an organisation has tens, so this is one page."""
    return [wn.ApplicationRow.model_validate(r) for r in await use.applications.rows()]


@router.post("", status_code=201)
async def connect_application(
    body: wn.ConnectApplication, request: Request, use: Use, operator: Administrator
) -> wn.ApplicationRow:
    """Connect an application, or change how it is reached; it is asked what it can do."""
    request.app.state.connectors.forget(body.id)
    profile = body.profile.model_dump()
    profile["never_returns"] = tuple(profile["never_returns"])
    application = Application(
        id=body.id,
        name=body.name,
        kind=body.kind,
        contact=body.contact,
        trust=body.trust,
        profile=Profile(**profile),
    )
    config: dict[str, Any] = {"url": body.url, "options": body.options}
    if body.kind == "postgres" and body.secret:
        parts = urlsplit(body.secret)  # where it is, without the credentials
        config["address"] = f"{parts.hostname}:{parts.port or 5432}"
    await use.applications.connect(application, config, body.secret, operator.login)
    rows = {r["id"]: r for r in await use.applications.rows()}
    return wn.ApplicationRow.model_validate(rows[body.id])


@router.post("/{application_id}/read")
async def read_application(application_id: str, use: Use, operator: Acting) -> wn.ReadingResult:
    """Read all accounts of an application and link them to people."""
    return wn.ReadingResult(**await use.applications.read(application_id, operator.login))


accounts = APIRouter(prefix="/accounts", tags=["accounts"], route_class=IdempotentRoute)


@accounts.get("")
async def list_accounts(
    use: Use,
    _: Viewer,
    application: Annotated[str, Query(max_length=60)] = "",
    state: Literal["", "active", "suspended", "archived", "deleted", "purged"] = "",
    who: Annotated[str, Query(max_length=200)] = "",
    q: Annotated[str, Query(max_length=200)] = "",
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wn.AccountRow]:
    async with use.database.unit() as unit:
        person_id = (await unit.people.resolve(who)).id if who else ""
        page = await unit.accounts.page(
            application=application,
            state=state,
            person_id=person_id,
            query=q,
            cursor=cursor,
            limit=limit,
        )
    return page_of(page, wn.AccountRow.model_validate)


@accounts.post("/{account_id}/credential-link", tags=[SECRET])
async def credential_link(
    account_id: str, request: Request, use: Use, operator: Acting
) -> wn.CredentialLink:
    """A one-time link to the account's initial credential; an earlier link stops working."""
    token, hours = await use.credentials.link(account_id, operator.login)
    return wn.CredentialLink(link=f"{request.app.state.public_url}/c#{token}", hours=hours)


credentials = APIRouter(prefix="/credentials", tags=["credentials"])


@credentials.post("/open")
async def open_credential(body: wn.LinkRequest, request: Request, use: Use) -> wn.OpenedCredential:
    """Open a one-time link; needs no sign-in, works once."""
    source = request.client.host if request.client else "?"
    found: dict[str, Any] = await use.credentials.open(body.token, source)
    return wn.OpenedCredential(**found)
