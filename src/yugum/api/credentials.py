"""Initial credentials."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Request, Response

from yugum.api.auth import Acting, Use, Viewer
from yugum.api.idempotency import SECRET, IdempotentRoute
from yugum.api.parameters import OneLine
from yugum.api.shapes import installation, number, shape
from yugum.api.strict import StrictRoute
from yugum.core.people import full_name
from yugum.pages import slips_page
from yugum.wire import credentials as wc
from yugum.wire.common import LinkRequest

accounts = APIRouter(prefix="/accounts", tags=["accounts"], route_class=IdempotentRoute)
issuing = APIRouter(prefix="/credentials", tags=["credentials"], route_class=IdempotentRoute)
credentials = APIRouter(prefix="/credentials", tags=["credentials"], route_class=StrictRoute)


@accounts.post("/{account_id}/credential", status_code=201, operation_id="accounts.new-credential")
async def new_credential(
    account_id: str, body: wc.NewCredential, request: Request, use: Use, operator: Acting
) -> wc.ChosenReply:
    """A new initial credential, told of as the first one was; the account is not touched else."""
    made = await use.credentials.renew(account_id, operator.login, body.reason, body.reference)
    account = await use.accounts.one(account_id)
    return wc.ChosenReply(
        application=account.application_id, login=account.login, docket=number(request, made)
    )


@accounts.get("/{account_id}/credential", operation_id="accounts.credential-rules")
async def account_credential_rules(account_id: str, use: Use, _: Acting) -> wc.CredentialRules:
    """What a password of an account must be like."""
    return wc.CredentialRules.model_validate(await use.credentials.rules_of(account_id))


@accounts.put("/{account_id}/credential", operation_id="accounts.type-credential")
async def type_credential(
    account_id: str, body: wc.TypedCredential, request: Request, use: Use, operator: Acting
) -> wc.ChosenReply:
    """A credential typed for an account's owner, who is told that it was; nobody is told what it is."""
    made = await use.credentials.type(
        account_id, body.password, operator.login, body.reason, body.reference
    )
    account = await use.accounts.one(account_id)
    return wc.ChosenReply(
        application=account.application_id, login=account.login, docket=number(request, made)
    )


@accounts.post("/{account_id}/hand-over", tags=[SECRET], operation_id="accounts.hand-over")
async def hand_credential_over(
    account_id: str, body: wc.HandOver, request: Request, use: Use, operator: Acting
) -> wc.CredentialLink:
    """For the help desk: a one-time link, with how the receiver was identified on record.

    To an address of this one time it goes as a mail, which can be looked at before.
    """
    if body.to:
        mail = await use.credentials.send(
            account_id, operator.login, body.check, body.to, look=body.look
        )
        shown = wc.CredentialMail(address=mail.address, subject=mail.subject, text=mail.text)
        return wc.CredentialLink(link="", hours=use.credentials.hours, mail=shown)
    token, hours = await use.credentials.link(account_id, operator.login, body.check)
    return wc.CredentialLink(link=f"{request.app.state.public_url}/c#{token}", hours=hours)


@issuing.post("", status_code=201, operation_id="credentials.issue")
async def issue_credentials(
    body: wc.NewCredentials, request: Request, use: Use, operator: Acting
) -> list[wc.IssuedRow]:
    """New credentials for many, generated each, told of as the first ones were; each by a docket of its own."""
    made = await use.issuing.issue(
        body.who,
        body.applications,
        operator.login,
        reason=body.reason,
        reference=body.reference,
        look=body.look,
    )
    return [
        wc.IssuedRow(
            person_id=one.person.id,
            person_name=full_name(one.person),
            account_id=one.account_id,
            application_name=one.application,
            login=one.login,
            docket=number(request, one.docket) if one.docket else "",
            problem=one.problem,
        )
        for one in made
    ]


@issuing.post(
    "/slips",
    tags=[SECRET],
    operation_id="credentials.slips",
    response_class=Response,
    responses={
        200: {"content": {"text/html": {}}, "description": "One slip a page, to be printed."}
    },
)
async def credential_slips(
    body: wc.WhoseCredentials, request: Request, use: Use, operator: Acting
) -> Response:
    """Credentials nobody has opened, on paper, for who has no mail; with this they are opened, on record."""
    slips, without = await use.issuing.slips(body.who, body.applications, operator.login)
    page = slips_page(installation(request).organisation, slips, without)
    return Response(page, media_type="text/html", headers={"Cache-Control": "no-store"})


@credentials.post("/open", operation_id="credentials.open")
async def open_credential(body: LinkRequest, request: Request, use: Use) -> wc.OpenedCredential:
    """Open a one-time link; needs no sign-in, works once."""
    source = request.client.host if request.client else "?"
    found = await use.credentials.open(body.token, source)
    return wc.OpenedCredential.model_validate(found)


@credentials.post("/rules", operation_id="credentials.rules")
async def credential_rules(body: LinkRequest, use: Use) -> wc.CredentialRules:
    """Whose account a link is about and what a password there must be like; opens nothing."""
    return wc.CredentialRules.model_validate(await use.credentials.rules_behind(body.token))


@credentials.post("/choose", tags=[SECRET], operation_id="credentials.choose")
async def choose_credential(
    body: wc.ChosenCredential, request: Request, use: Use
) -> wc.ChosenReply:
    """A password of one's own instead of the one behind the link; needs no sign-in, works once."""
    source = request.client.host if request.client else "?"
    made = await use.credentials.choose(body.token, body.password, source)
    return shape(wc.ChosenReply, made, docket=number(request, made.docket))


@credentials.get("", operation_id="credentials.list")
async def list_credentials(
    use: Use, _: Viewer, who: Annotated[str, Query(min_length=1, max_length=200), *OneLine]
) -> list[wc.CredentialState]:
    """Somebody's initial credentials: told to whom, opened or not. No secret is told."""
    return [
        shape(wc.CredentialState, c.line, login=c.login, application_name=c.application_name)
        for c in await use.credentials.of_person(who)
    ]
