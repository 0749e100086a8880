"""Applications: connecting them, reading them, what Yugum may do there."""

from __future__ import annotations

from typing import Annotated
from urllib.parse import urlsplit

from fastapi import APIRouter, Query, Request

from yugum.api.auth import Acting, Administrator, Use, Viewer
from yugum.api.discretion import discreet_page
from yugum.api.idempotency import IdempotentRoute
from yugum.api.parameters import ApplicationId, Cursor, Limit, OneLine
from yugum.api.shapes import installation, page_of, shape
from yugum.core.applications import Application, ProfileChange, Trust
from yugum.core.dates import parse_moment
from yugum.core.disconnecting import Disconnection
from yugum.core.groups import said_of
from yugum.core.readings import ReadingMode
from yugum.engine.applications import ListedApplication
from yugum.engine.services import Services
from yugum.errors import InvalidInput
from yugum.ports.applications import Access
from yugum.wire import applications as wp
from yugum.wire.common import Page, as_dataclass

CSV = {
    "requestBody": {
        "required": True,
        "content": {"text/csv": {"schema": {"type": "string", "format": "accounts-file"}}},
    }
}

router = APIRouter(prefix="/applications", tags=["applications"], route_class=IdempotentRoute)


@router.get("", operation_id="applications.list")
async def list_applications(use: Use, _: Viewer) -> list[wp.ApplicationRow]:
    """All applications; an organisation has tens, so this is one page."""
    return [application_row(a) for a in await use.applications.list()]


def application_row(application: ListedApplication) -> wp.ApplicationRow:
    attributes = [
        wp.AttributeRow(
            name=name,
            of=made.of,
            keep=made.keep,
            outside=made.outside,
            longest=known.longest or made.shape.longest,
            values=list(known.values or made.shape.values),
        )
        for name, made in sorted(application.made.items())
        for known in [application.line.attributes[name]]
    ]
    return shape(
        wp.ApplicationRow,
        application.line,
        ruled=application.ruled,
        left_this_hour=application.left_this_hour,
        attributes=attributes,
        group_fields=said_of(application.line.groups),
    )


async def _one(use: Services, application_id: str) -> wp.ApplicationRow:
    found = {a.line.id: a for a in await use.applications.list()}
    return application_row(found[application_id])


@router.get("/kinds", operation_id="applications.kinds")
async def list_kinds(use: Use, _: Viewer) -> list[str]:
    """The kinds of application for which a connector is installed."""
    return use.connectors.kinds()


@router.post("", status_code=201, operation_id="applications.connect")
async def connect_application(
    body: wp.ConnectApplication, request: Request, use: Use, operator: Administrator
) -> wp.ApplicationRow:
    """Connect an application, or change how it is reached; it is asked what it can do."""
    use.connectors.forget(body.id)
    application = Application(
        id=body.id,
        name=body.name,
        kind=body.kind,
        contact=body.contact,
        owner=body.owner,
        trust=Trust.WATCH,
    )
    ends = None
    if body.credential_ends:
        clock = await use.clock.read()
        ends = parse_moment(body.credential_ends, clock.now, installation(request).zone)
    address = ""
    if body.kind == "postgres" and body.secret:
        parts = urlsplit(body.secret)  # where it is, without the credentials
        address = f"{parts.hostname}:{parts.port or 5432}"
    await use.applications.connect(
        application,
        Access(url=body.url, options=body.options, address=address, credential_ends=ends),
        body.secret,
        operator.login,
        trust=body.trust,
        profile=as_dataclass(body.profile, ProfileChange, only_set=True),
    )
    return await _one(use, body.id)


@router.get("/disconnected", operation_id="applications.gone")
async def list_disconnected(use: Use, _: Viewer) -> list[wp.DisconnectedRow]:
    """Applications that are not connected any more; there are tens, so this is one page."""
    return [shape(wp.DisconnectedRow, a) for a in await use.disconnecting.gone()]


@router.get("/{application_id}/disconnection", operation_id="applications.plan-disconnection")
async def plan_disconnection(
    application_id: str, use: Use, _: Administrator, erase: bool = False
) -> wp.DisconnectionView:
    """What would follow from disconnecting it, keeping or erasing its accounts and their history."""
    return disconnection(await use.disconnecting.plan(application_id, erase=erase))


def disconnection(plan: Disconnection) -> wp.DisconnectionView:
    return shape(wp.DisconnectionView, plan, digest=plan.digest, follows=list(plan.follows()))


@router.post("/{application_id}/disconnection", operation_id="applications.disconnect")
async def disconnect_application(
    application_id: str, body: wp.Disconnect, use: Use, operator: Administrator
) -> wp.DisconnectionView:
    """Disconnect it as it was shown; nothing is changed in the application itself."""
    done = await use.disconnecting.carry_out(
        application_id,
        body.digest,
        operator.login,
        body.reason,
        erase=body.erase,
        typed=body.typed,
    )
    return disconnection(done)


@router.get("/{application_id}/archived", operation_id="applications.archived")
async def list_archived(
    application_id: str, use: Use, operator: Viewer, cursor: Cursor = None, limit: Limit = 50
) -> Page[wp.ArchivedRow]:
    """The accounts that are kept of an application that was disconnected."""
    page = await use.disconnecting.archived(application_id, cursor, limit)
    make = wp.ArchivedRow.model_validate
    return await discreet_page(use, operator, page, lambda a: a.person_id, make)


@router.post("/{application_id}/read", operation_id="applications.read")
async def read_application(
    application_id: str,
    use: Use,
    operator: Acting,
    mode: ReadingMode = ReadingMode.FULL,
    believe: bool = False,
) -> wp.ReadingResult:
    """Read the accounts of an application and link them to people.

    ``mode`` ``changes`` asks for what has changed only; ``believe`` takes a sudden fall as right.
    """
    counts = await use.readings.read(application_id, operator.login, mode=mode, believe=believe)
    return wp.ReadingResult.model_validate(counts)


@router.post(
    "/{application_id}/accounts-file", operation_id="applications.upload", openapi_extra=CSV
)
async def upload_accounts(
    application_id: str, request: Request, use: Use, operator: Acting
) -> wp.Uploaded:
    """Take a CSV file (columns login, name, number, state, groups) as what the application holds."""
    raw = await request.body()
    try:
        text = raw.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise InvalidInput(
            "The file is not UTF-8.", place=f"byte {error.start}", remedy="Save it as UTF-8."
        ) from error
    return wp.Uploaded(accounts=await use.tasks.upload(application_id, text, operator.login))


@router.get("/{application_id}/readings", operation_id="applications.readings")
async def list_readings(
    application_id: ApplicationId, use: Use, _: Viewer, cursor: Cursor = None, limit: Limit = 50
) -> Page[wp.ReadingRow]:
    page = await use.readings.page(application_id, cursor, limit)
    return page_of(page, wp.ReadingRow.model_validate)


@router.get("/{application_id}/unreadable", operation_id="applications.unreadable")
async def list_unreadable(
    application_id: ApplicationId, use: Use, _: Viewer, cursor: Cursor = None, limit: Limit = 50
) -> Page[wp.ReadingProblem]:
    """Records that could not be understood, each with its reason."""
    page = await use.readings.unreadable(application_id, cursor, limit)
    return page_of(page, wp.ReadingProblem.model_validate)


@router.post(
    "/{application_id}/unreadable/{external_id}/retry", operation_id="applications.retry-unreadable"
)
async def retry_unreadable(
    application_id: str, external_id: str, use: Use, _: Acting
) -> wp.ReadingResult:
    """Look again at one such record."""
    counts = await use.readings.retry(application_id, external_id)
    return wp.ReadingResult.model_validate(counts)


@router.get("/{application_id}/names", operation_id="applications.names")
async def list_names(
    application_id: str,
    use: Use,
    _: Viewer,
    kind: wp.NamedKind,
    q: Annotated[
        str, Query(max_length=200, description="Any part of it, in any case."), *OneLine
    ] = "",
    limit: Limit = 50,
) -> list[str]:
    """What is known of a kind there, each name once: held by somebody, given by a role, or on sale."""
    return list(await use.decisions.names(application_id, kind, q, limit))


@router.patch("/{application_id}/trust", operation_id="applications.trust")
async def trust_application(
    application_id: str, body: wp.TrustChange, use: Use, operator: Administrator
) -> wp.ApplicationRow:
    """Say what Yugum may do there: watch, add or everything."""
    await use.applications.trust(application_id, body.trust, operator.login)
    return await _one(use, application_id)


@router.patch("/{application_id}/profile", operation_id="applications.change-profile")
async def change_profile(
    application_id: str, body: wp.ProfileDocument, use: Use, operator: Administrator
) -> wp.ApplicationRow:
    """Change windows, seats, limits and the rest of a profile; fields left out stay."""
    said = as_dataclass(body, ProfileChange, only_set=True)
    await use.applications.change_profile(application_id, said, operator.login)
    return await _one(use, application_id)
