"""Who sees former names: administrators always, everybody else unless they are veiled."""

from __future__ import annotations

from collections.abc import Collection
from datetime import datetime

from yugum.core.operators import OperatorRole
from yugum.core.veils import Veil
from yugum.ports.clock import Clock
from yugum.ports.units import Database, UnitOfWork


class Veils:
    def __init__(self, database: Database, clock: Clock) -> None:
        self._database = database
        self._clock = clock

    async def before(self, role: OperatorRole, subject_ids: Collection[str]) -> Veil:
        """What an operator of this role must not read about some subjects."""
        if role is OperatorRole.ADMINISTRATOR:
            return Veil()
        now = await self._clock.now()
        async with self._database.unit() as unit:
            return await veil_before(unit, role, subject_ids, now)


async def veil_before(
    unit: UnitOfWork, role: OperatorRole, subject_ids: Collection[str], now: datetime
) -> Veil:
    if role is OperatorRole.ADMINISTRATOR or not subject_ids:
        return Veil()
    names = await unit.decisions.former_names(subject_ids, now)
    return Veil(names, await unit.decisions.grounds(subject_ids))
