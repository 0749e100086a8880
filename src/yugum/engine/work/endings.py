"""Ending dockets: those without an open step are done, others wait."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import datetime

from yugum.core.dockets import Docket
from yugum.core.roles import NoticeAt
from yugum.engine.arrivals import tell_heirs
from yugum.engine.context import load_rules
from yugum.engine.events import make_event
from yugum.engine.mails import Told, notify
from yugum.ports.clock import Clock
from yugum.ports.leases import Lease
from yugum.ports.services import Vault
from yugum.ports.units import Database, UnitOfWork


class Endings:
    """Ends finished dockets of many subjects in one transaction, and releases the leases."""

    def __init__(
        self,
        database: Database,
        clock: Clock,
        vault: Vault,
        actor: str,
        hint: Callable[[], None],
    ) -> None:
        self._database = database
        self._clock = clock
        self._vault = vault
        self._actor = actor
        self._hint = hint

    async def end(self, leases: Sequence[Lease]) -> Sequence[bool]:
        """End what has ended; one result a lease, as the batcher wants it."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            subject_ids = [lease.subject_id for lease in leases]
            ended = await unit.dockets.finish(subject_ids, now)
            if ended:
                await self._follow_up(unit, ended, now)
            await tell_heirs(unit, subject_ids, self._vault, now)
            left = {*subject_ids} - {d.subject_id for d in ended}
            if left:
                waiting = await unit.dockets.let_wait(sorted(left), now)
                await unit.standing.mark(waiting)
            await unit.leases.release(leases)
            if await unit.leases.wake_due(now):
                self._hint()
        return [True] * len(leases)

    async def _follow_up(self, unit: UnitOfWork, ended: Sequence[Docket], now: datetime) -> None:
        rules = await load_rules(unit)
        if any(n.at is NoticeAt.DONE for n in rules.notices):
            told = [Told.of(d) for d in ended if not d.cause.confidential]
            await notify(unit, told, NoticeAt.DONE, rules, self._vault, now)
        await unit.audit.add(
            [
                make_event(
                    now, self._actor, "docket.done", d.subject_id, {"verb": d.verb.value}, d.id
                )
                for d in ended
            ]
        )
