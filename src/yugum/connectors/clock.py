"""What time it is by Yugum's clock, for connectors to which it matters."""

from __future__ import annotations

from datetime import UTC, datetime

from yugum.ports.units import UnitOfWork


async def moment(unit: UnitOfWork) -> datetime:
    """Now: simulated or real."""
    simulated, at = await unit.clock.read()
    return at if simulated and at else datetime.now(UTC)
