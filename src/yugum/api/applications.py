"""Applications, their accounts, and initial credentials."""

from __future__ import annotations

from typing import Annotated, Any, Literal
from urllib.parse import urlsplit

from fastapi import APIRouter, Query, Request

from yugum.api.auth import Acting, Administrator, Use, Viewer
from yugum.api.discretion import discreet_rows
from yugum.api.idempotency import SECRET, IdempotentRoute
from yugum.api.people import Cursor, Limit
from yugum.api.shapes import number, page_of
from yugum.core.applications import Application, Trust
from yugum.core.dates import parse_moment
from yugum.errors import InvalidInput
from yugum.wire import approvals as wa
from yugum.wire import nouns as wn
from yugum.wire.common import Page

router = APIRouter(prefix="/applications", tags=["applications"], route_class=IdempotentRoute)


@router.get("")
async def list_applications(use: Use, _: Viewer) -> list[wn.ApplicationRow]:
    """All applications; an organisation has tens, so this is one page."""
    return [wn.ApplicationRow.model_validate(r) for r in await use.applications.rows()]


@router.get("/kinds")
async def list_kinds(request: Request, _: Viewer) -> list[str]:
    """The kinds of application for which a connector is installed."""
    kinds: list[str] = request.app.state.connectors.kinds()
    return kinds


@router.post("", status_code=201)
async def connect_application(
    body: wn.ConnectApplication, request: Request, use: Use, operator: Administrator
) -> wn.ApplicationRow:
    """Connect an application, or change how it is reached; it is asked what it can do."""
    request.app.state.connectors.forget(body.id)
    application = Application(
        id=body.id,
        name=body.name,
        kind=body.kind,
        contact=body.contact,
        owner=body.owner,
        trust=Trust.WATCH,
    )
    config: dict[str, Any] = {"url": body.url, "options": body.options}
    if body.credential_ends:
        zone = request.app.state.installation["zone"]
        ends = parse_moment(body.credential_ends, await use.now.now(), zone)
        config["credential_ends"] = ends.isoformat()
    if body.kind == "postgres" and body.secret:
        parts = urlsplit(body.secret)  # where it is, without the credentials
        config["address"] = f"{parts.hostname}:{parts.port or 5432}"
    await use.applications.connect(
        application,
        config,
        body.secret,
        operator.login,
        trust=body.trust,
        profile=body.profile.model_dump(exclude_unset=True),
    )
    rows = {r["id"]: r for r in await use.applications.rows()}
    return wn.ApplicationRow.model_validate(rows[body.id])


@router.post("/{application_id}/read")
async def read_application(
    application_id: str,
    use: Use,
    operator: Acting,
    mode: Literal["full", "changes"] = "full",
    believe: bool = False,
) -> wn.ReadingResult:
    """Read the accounts of an application and link them to people.

    ``mode`` ``changes`` asks for what has changed only; ``believe`` takes a sudden fall as right.
    """
    counts = await use.readings.read(application_id, operator.login, mode=mode, believe=believe)
    return wn.ReadingResult(**counts)


@router.post("/{application_id}/accounts-file")
async def upload_accounts(
    application_id: str, request: Request, use: Use, operator: Acting
) -> wn.Uploaded:
    """Take a CSV file (columns login, name, number, state, groups) as what the application holds."""
    raw = await request.body()
    try:
        text = raw.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise InvalidInput(
            "The file is not UTF-8.", place=f"byte {error.start}", remedy="Save it as UTF-8."
        ) from error
    return wn.Uploaded.model_validate(await use.tasks.upload(application_id, text, operator.login))


@router.get("/{application_id}/readings")
async def list_readings(
    application_id: str, use: Use, _: Viewer, cursor: Cursor = None, limit: Limit = 50
) -> Page[wn.ReadingRow]:
    page = await use.readings.page(application_id, cursor, limit)
    return page_of(page, wn.ReadingRow.model_validate)


@router.get("/{application_id}/unreadable")
async def list_unreadable(
    application_id: str, use: Use, _: Viewer, cursor: Cursor = None, limit: Limit = 50
) -> Page[wn.ReadingProblem]:
    """Records that could not be understood, each with its reason."""
    page = await use.readings.problems(application_id, cursor, limit)
    return page_of(page, wn.ReadingProblem.model_validate)


@router.post("/{application_id}/unreadable/{external_id}/retry")
async def retry_unreadable(
    application_id: str, external_id: str, use: Use, _: Acting
) -> wn.ReadingResult:
    """Look again at one such record."""
    return wn.ReadingResult(**await use.readings.retry(application_id, external_id))


@router.patch("/{application_id}/trust")
async def trust_application(
    application_id: str, body: wn.TrustChange, use: Use, operator: Administrator
) -> wn.ApplicationRow:
    """Say what Yugum may do there: watch, add or everything."""
    await use.applications.trust(application_id, body.trust, operator.login)
    rows = {r["id"]: r for r in await use.applications.rows()}
    return wn.ApplicationRow.model_validate(rows[application_id])


@router.patch("/{application_id}/profile")
async def change_profile(
    application_id: str, body: wn.ProfileDocument, use: Use, operator: Administrator
) -> wn.ApplicationRow:
    """Change windows, seats, limits and the rest of a profile; fields left out stay."""
    said = body.model_dump(exclude_unset=True)
    await use.applications.change_profile(application_id, said, operator.login)
    rows = {r["id"]: r for r in await use.applications.rows()}
    return wn.ApplicationRow.model_validate(rows[application_id])


accounts = APIRouter(prefix="/accounts", tags=["accounts"], route_class=IdempotentRoute)


@accounts.get("")
async def list_accounts(
    use: Use,
    operator: Viewer,
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
    page = await discreet_rows(use, operator, page, "person_id")
    return page_of(page, wn.AccountRow.model_validate)


@accounts.put("/{account_id}/person")
async def link_account(
    account_id: str, body: wn.LinkAccount, use: Use, operator: Acting
) -> dict[str, str | None]:
    """Say who is behind an account, or that nobody is; and of what kind it is."""
    return dict(await use.links.link(account_id, body.who, body.kind, operator.login))


@accounts.get("/proposals")
async def list_proposals(
    use: Use, _: Viewer, cursor: Cursor = None, limit: Limit = 50
) -> Page[wn.Proposal]:
    """Links between accounts and people that are likely but not certain."""
    return page_of(await use.links.proposals(cursor, limit), wn.Proposal.model_validate)


@accounts.post("/{account_id}/credential-link", tags=[SECRET])
async def credential_link(
    account_id: str, request: Request, use: Use, operator: Acting
) -> wn.CredentialLink:
    """A one-time link to the account's initial credential; an earlier link stops working."""
    token, hours = await use.credentials.link(account_id, operator.login)
    return wn.CredentialLink(link=f"{request.app.state.public_url}/c#{token}", hours=hours)


@accounts.post("/{account_id}/credential", status_code=201)
async def new_credential(
    account_id: str, body: wa.NewCredential, request: Request, use: Use, operator: Acting
) -> wa.ChosenReply:
    """A new initial credential, told of as the first one was; the account is not touched else."""
    made = await use.credentials.renew(account_id, operator.login, body.reason, body.reference)
    async with use.database.unit() as unit:
        account = await unit.accounts.get(account_id)
    return wa.ChosenReply(
        application=account.application_id, login=account.login, docket=number(request, made)
    )


@accounts.post("/{account_id}/hand-over", tags=[SECRET])
async def hand_credential_over(
    account_id: str, body: wa.HandOver, request: Request, use: Use, operator: Acting
) -> wn.CredentialLink:
    """For the help desk: a one-time link, with how the receiver was identified on record."""
    token, hours = await use.credentials.link(account_id, operator.login, body.check)
    return wn.CredentialLink(link=f"{request.app.state.public_url}/c#{token}", hours=hours)


credentials = APIRouter(prefix="/credentials", tags=["credentials"])


@credentials.post("/open")
async def open_credential(body: wn.LinkRequest, request: Request, use: Use) -> wn.OpenedCredential:
    """Open a one-time link; needs no sign-in, works once."""
    source = request.client.host if request.client else "?"
    found: dict[str, Any] = await use.credentials.open(body.token, source)
    return wn.OpenedCredential(**found)


@credentials.post("/rules")
async def credential_rules(body: wn.LinkRequest, use: Use) -> wa.CredentialRules:
    """Whose account a link is about and what a password there must be like; opens nothing."""
    return wa.CredentialRules.model_validate(await use.credentials.rules_behind(body.token))


@credentials.post("/choose", tags=[SECRET])
async def choose_credential(
    body: wa.ChosenCredential, request: Request, use: Use
) -> wa.ChosenReply:
    """A password of one's own instead of the one behind the link; needs no sign-in, works once."""
    source = request.client.host if request.client else "?"
    made = await use.credentials.choose(body.token, body.password, source)
    return wa.ChosenReply.model_validate({**made, "docket": number(request, made["docket"])})


@credentials.get("")
async def list_credentials(
    use: Use, _: Viewer, who: Annotated[str, Query(min_length=1, max_length=200)]
) -> list[wa.CredentialState]:
    """Somebody's initial credentials: told to whom, opened or not. No secret is told."""
    return [wa.CredentialState.model_validate(r) for r in await use.credentials.of_person(who)]
