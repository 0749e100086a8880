"""The guide, for whoever works with the console or the command line."""

from __future__ import annotations

from asyncio import to_thread

from fastapi import APIRouter

from yugum import guide
from yugum.api.auth import Viewer
from yugum.api.strict import StrictRoute
from yugum.wire import guide as wg

router = APIRouter(prefix="/guide", tags=["guide"], route_class=StrictRoute)


@router.get("", operation_id="guide.list")
async def list_guide(_: Viewer) -> list[wg.GuideLine]:
    """The pages of the guide."""
    found = await to_thread(guide.titles)
    return [wg.GuideLine(name=name, title=title) for name, title in found.items()]


@router.get("/{name}", operation_id="guide.show")
async def show_guide(name: str, _: Viewer) -> wg.GuidePage:
    """A page of the guide, as text and as the console shows it."""
    return wg.GuidePage.model_validate(await to_thread(guide.page, name))
