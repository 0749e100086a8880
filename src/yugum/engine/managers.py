"""Who stands above somebody: the first manager up the chain who is still there."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime

from yugum.core.people import Person, PersonState, state_at
from yugum.ports.units import UnitOfWork

CHAIN = 6
"""How many managers up somebody is looked for."""


async def manager_of(unit: UnitOfWork, person: Person, now: datetime) -> Person | None:
    """The first manager up the chain who has not left."""
    manager_id = person.manager_id
    for _ in range(CHAIN):
        if not manager_id:
            return None
        entry: Mapping[str, tuple[Person, int]] = await unit.people.many([manager_id])
        if manager_id not in entry:
            return None
        manager = entry[manager_id][0]
        if state_at(manager, now) is not PersonState.LEFT:
            return manager
        manager_id = manager.manager_id
    return None
