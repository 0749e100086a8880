"""Who stands above somebody: the first manager up the chain who is still there."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime

from yugum.core.people import Person, PersonState, full_name, state_at
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


async def manager_names(unit: UnitOfWork, people: Sequence[Person]) -> dict[str, str]:
    """What the managers of some people are called, by id."""
    ids = {p.manager_id for p in people if p.manager_id}
    return {i: full_name(p) for i, (p, _) in (await unit.people.many(ids)).items()}
