"""Groups themselves, looked at; what is done to them are plans."""

from __future__ import annotations

from yugum.errors import NotFound
from yugum.ports.clock import Clock
from yugum.ports.groups import GroupLine, WhichGroups
from yugum.ports.pages import ListPage
from yugum.ports.units import Database


class Groups:
    def __init__(self, database: Database, clock: Clock) -> None:
        self._database = database
        self._clock = clock

    async def page(
        self,
        *,
        application: str,
        owner: str,
        q: str,
        retired: bool,
        cursor: str | None,
        limit: int,
    ) -> ListPage[GroupLine]:
        """Groups that can be changed, with their owners and how many are in them."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            if application and application not in await unit.applications.all():
                raise NotFound(f"There is no application {application}.", place="application")
            owner_id = (await unit.people.resolve(owner)).id if owner else ""
            which = WhichGroups(application=application, owner_id=owner_id, q=q, retired=retired)
            return await unit.groups.page(now, which, cursor=cursor, limit=limit)

    async def one(self, group_id: str) -> GroupLine:
        """One group by its id.

        Raises:
            NotFound: there is none.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            which = WhichGroups(group_id=group_id)
            page = await unit.groups.page(now, which, cursor=None, limit=1)
        if not page.items:
            raise NotFound(f"There is no group {group_id}.", remedy="See: yugum groups list.")
        return page.items[0]
