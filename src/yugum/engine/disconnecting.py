"""Disconnecting an application: shown first, agreed to by digest, then done in one transaction."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from yugum.core.disconnecting import Disconnection
from yugum.core.documents import Document
from yugum.engine.context import load_rules
from yugum.engine.events import make_event
from yugum.errors import Conflict, InvalidInput, PlanStale
from yugum.ports.applications import ArchivedAccount, DisconnectedLine
from yugum.ports.clock import Clock
from yugum.ports.connectors import Connectors
from yugum.ports.pages import ListPage
from yugum.ports.units import Database, UnitOfWork


class Disconnecting:
    def __init__(self, database: Database, connectors: Connectors, clock: Clock) -> None:
        self._database = database
        self._connectors = connectors
        self._clock = clock

    async def plan(self, application_id: str, *, erase: bool) -> Disconnection:
        """What would follow from disconnecting an application, or from erasing what is kept of one.

        Raises:
            NotFound: there has never been one of that id.
            Conflict: something holds it, or nothing would change.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            return await _plan(unit, application_id, now, erase=erase)

    async def carry_out(
        self, application_id: str, digest: str, author: str, reason: str, *, erase: bool, typed: str
    ) -> Disconnection:
        """Disconnect it as was shown.

        Raises:
            InvalidInput: what is erased for good was not typed.
            PlanStale: something has changed since it was shown.
            Conflict: see `plan`.
        """
        if erase and typed != application_id:
            raise InvalidInput(
                "What is erased cannot be put back.",
                place="typed",
                remedy=f"Type {application_id}.",
            )
        now = await self._clock.now()
        async with self._database.unit() as unit:
            plan = await _plan(unit, application_id, now, erase=erase)
            if plan.digest != digest:
                raise PlanStale(
                    "What hangs on it has changed since it was shown.",
                    remedy="Look at what follows from it again.",
                )
            touched = await unit.applications.disconnect(application_id, now, erase=erase)
            await unit.leases.wake(touched, priority=1)
            payload: Document = {"reason": reason, "erase": erase, "follows": list(plan.follows())}
            await unit.audit.add(
                [make_event(now, author, "application.disconnected", application_id, payload)]
            )
            await unit.hint()
        self._connectors.forget(application_id)
        return plan

    async def gone(self) -> Sequence[DisconnectedLine]:
        """The applications that are not connected any more; there are tens, so this is no page."""
        async with self._database.unit() as unit:
            return await unit.applications.disconnected()

    async def archived(
        self, application_id: str, cursor: str | None, limit: int
    ) -> ListPage[ArchivedAccount]:
        """The accounts kept of one.

        Raises:
            NotFound: there has never been one of that id.
        """
        async with self._database.unit() as unit:
            if await unit.applications.earlier(application_id) is None:
                await unit.applications.connection_of(
                    application_id
                )  # of one that is, nothing is kept
            return await unit.applications.archived(application_id, cursor, limit)


async def _plan(
    unit: UnitOfWork, application_id: str, now: datetime, *, erase: bool
) -> Disconnection:
    name, connected = await unit.applications.hold_still(application_id)
    tied = await unit.applications.tied(application_id, now)
    if not connected and not (erase and tied.archived):
        raise Conflict(f"{name} is not connected any more.", remedy="See: yugum apps gone.")
    if tied.in_doubt:
        raise Conflict(
            f"Something is being done in {name} just now.",
            remedy="Try again in a minute, or settle the steps of which nobody knows yet.",
        )
    if erase and tied.holds:
        raise Conflict(
            f"A hold keeps what is known of {name}: {'; '.join(tied.holds)}.",
            remedy="End the hold, or disconnect without erasing.",
        )
    rules = await load_rules(unit)
    roles = sorted(
        {r.name for r in rules.roles if any(g.application_id == application_id for g in r.gives)}
    )
    return Disconnection(
        application_id=application_id,
        name=name,
        connected=connected,
        erase=erase,
        roles=roles if connected else (),
        tied=tied,
    )
