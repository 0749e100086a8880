"""Accounts: as last seen, and whose they are."""

from __future__ import annotations

from fastapi import APIRouter

from yugum.api.auth import Acting, Use, Viewer
from yugum.api.discretion import discreet_page
from yugum.api.idempotency import IdempotentRoute
from yugum.api.parameters import Cursor, Limit, OfApplication
from yugum.api.said import WhichAccounts
from yugum.api.shapes import page_of
from yugum.wire import accounts as wa
from yugum.wire.common import Page

router = APIRouter(prefix="/accounts", tags=["accounts"], route_class=IdempotentRoute)


@router.get("", operation_id="accounts.list")
async def list_accounts(
    use: Use,
    operator: Viewer,
    application: OfApplication,
    said: WhichAccounts,
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wa.AccountRow]:
    page = await use.accounts.page(said.chosen(application), said.who, cursor, limit)
    return await discreet_page(
        use, operator, page, lambda a: a.person_id, wa.AccountRow.model_validate
    )


@router.put("/{account_id}/person", operation_id="accounts.link")
async def link_account(
    account_id: str, body: wa.LinkAccount, use: Use, operator: Acting
) -> wa.Linked:
    """Say who is behind an account, or that nobody is; and of what kind it is."""
    linked = await use.links.link(account_id, body.who, body.kind, operator.login)
    return wa.Linked.model_validate(linked)


@router.get("/proposals", operation_id="accounts.proposals")
async def list_proposals(
    use: Use, _: Viewer, cursor: Cursor = None, limit: Limit = 50
) -> Page[wa.Proposal]:
    """Links between accounts and people that are likely but not certain."""
    return page_of(await use.links.proposals(cursor, limit), wa.Proposal.model_validate)
