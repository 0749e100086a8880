"""Groups themselves; what is done to them is planned like everything else."""

from __future__ import annotations

from fastapi import APIRouter

from yugum.api.auth import Use, Viewer
from yugum.api.parameters import Cursor, Limit, OneOf
from yugum.api.said import WhichGroups
from yugum.api.shapes import page_of
from yugum.api.strict import StrictRoute
from yugum.ports.groups import GroupLine
from yugum.wire import groups as wg
from yugum.wire.common import Page

router = APIRouter(prefix="/groups", tags=["groups"], route_class=StrictRoute)


@router.get("", operation_id="groups.list")
async def list_groups(
    use: Use,
    _: Viewer,
    said: WhichGroups,
    application: OneOf = "",
    cursor: Cursor = None,
    limit: Limit = 50,
) -> Page[wg.GroupRow]:
    """Groups of applications that let them be changed, with their owners."""
    page = await use.groups.page(
        application=application,
        owner=said.owner,
        q=said.q,
        retired=said.retired,
        cursor=cursor,
        limit=limit,
    )
    return page_of(page, _row)


@router.get("/{group_id}", operation_id="groups.show")
async def show_group(group_id: str, use: Use, _: Viewer) -> wg.GroupRow:
    return _row(await use.groups.one(group_id))


def _row(line: GroupLine) -> wg.GroupRow:
    return wg.GroupRow(
        id=line.id,
        application_id=line.application_id,
        application_name=line.application_name,
        name=line.login,
        state=line.state,
        back_until=line.recoverable_until,
        owner_id=line.owner_id,
        owner_name=line.owner_name,
        owner_left=line.owner_left,
        address=line.settings.get("address", ""),
        outside_senders=line.settings.get("outside_senders", ""),
        description=line.settings.get("description", ""),
        members=line.members,
    )
