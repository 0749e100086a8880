"""What a seat that is to go waits for, while other steps of the same person are under way."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

import sqlalchemy as sa

from tests.builders import person
from yugum.core.actions import NO_ARGUMENTS, Action, Phase
from yugum.core.dockets import Step, StepState
from yugum.engine.work.claims import kept_until
from yugum.storage import tables as t
from yugum.storage.database import PostgresDatabase
from yugum.wire.rules import RulesDocument

NOW = datetime(2031, 3, 3, 8, 40, tzinfo=UTC)


async def test_a_seat_that_carries_data_goes_after_the_handover(
    database: PostgresDatabase,
) -> None:
    said = {"licenses": {"crew": {"planner": {"carries": ["data"]}, "viewer": {}}}}
    document = RulesDocument.model_validate(said).model_dump_json()
    there: dict[str, Any] = {"subject_id": "p1", "application_id": "crew", "account_id": "a1"}
    async with database.unit() as unit:
        await unit.people.insert([person()])
        await unit.rules.adopt(document, "", NOW, "test", "")
        run = unit.seats.connection.execute  # type: ignore[attr-defined]
        docket = {"id": "d", "subject_id": "p1", "verb": "leaver", "state": "running"}
        await run(sa.insert(t.dockets).values(**docket, author="o", due_at=NOW, made_at=NOW))
        transfer = {"id": "s1", "docket_id": "d", "position": 0, "action": "transfer"}
        await run(sa.insert(t.steps).values(**transfer, **there, phase="hand over", state="due"))

    async def waits(item: str) -> bool:
        step = Step(
            id="s2",
            docket_id="d",
            position=1,
            phase=Phase.ACCESS,
            action=Action.FREE_SEAT,
            item=item,
            arguments=NO_ARGUMENTS,
            origin=None,
            state=StepState.DUE,
            **there,
        )
        async with database.unit() as unit:
            return await kept_until(unit, step, {item}) is not None

    assert await waits("planner")
    assert not await waits("viewer"), "it carries nothing"
    async with database.unit() as unit:
        run = unit.seats.connection.execute  # type: ignore[attr-defined]
        await run(sa.update(t.steps).values(state="done"))
    assert not await waits("planner")
