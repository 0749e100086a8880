"""What gives a group: roles and exceptions."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime

from yugum.core.accounts import Account, HoldingKind
from yugum.core.desired import World
from yugum.core.groups import is_group
from yugum.core.wording import plural
from yugum.ports.units import UnitOfWork


async def givers_of(
    unit: UnitOfWork, world: World, accounts: Iterable[Account], now: datetime
) -> dict[str, list[str]]:
    """The roles and exceptions that give the groups among some accounts, by the group's id."""
    groups = {(a.application_id, a.login): a.id for a in accounts if is_group(a)}
    found: dict[str, list[str]] = {i: [] for i in groups.values()}
    if not groups:
        return found
    for role in world.rules.roles:
        for given in role.gives:
            mine = groups.get((given.application_id, given.item))
            if mine is not None and given.kind is HoldingKind.ENTITLEMENT:
                found[mine].append(f"role {role.name}")
    for group, count in (await unit.decisions.giving(list(groups), now)).items():
        found[groups[group]].append(plural(count, "exception"))
    return found
