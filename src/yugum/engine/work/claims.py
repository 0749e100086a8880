"""Seats claimed when their step runs: who is served first, who waits, who has to have another one before."""

from __future__ import annotations

from collections.abc import Collection
from datetime import datetime

from yugum.core.dockets import Step, StepProblem
from yugum.core.licenses import lacking
from yugum.core.people import folded
from yugum.engine.context import load_rules
from yugum.ports.seats import Asked
from yugum.ports.units import UnitOfWork

REFUSED = "no-seat-left"
"""The code of a step that nobody waits with: its license is blocked where none is free."""
NEEDS_BASE = "needs-base"
"""The code of a step that goes on once another seat of the account is there."""


async def claim_for(
    unit: UnitOfWork, step: Step, held: Collection[str], now: datetime
) -> StepProblem | None:
    """Claim the seat of a step for an account that holds some; None when it is held, else why not."""
    rules = await load_rules(unit)
    if missing := lacking(step.application_id, step.item, held, rules.licenses):
        return StepProblem(
            code=NEEDS_BASE,
            text=f"{step.item} needs a seat of {' and '.join(missing)} first.",
            remedy="It goes on by itself once that seat is there.",
        )
    license = rules.license(step.application_id, step.item)
    rank = 0
    if license.priority:
        people = await unit.people.many([step.subject_id])
        rank = max(
            (license.rank(folded(p)) for p, _ in people.values()), default=len(license.priority)
        )
    asked = Asked(
        application_id=step.application_id,
        license=step.item,
        account_id=step.account_id,
        person_id=step.subject_id,
        rank=rank,
    )
    claim = await unit.seats.claim(asked, license, now)
    if claim.held:
        return None
    if claim.place:
        return StepProblem(
            code="no-seat",
            text=f"No seat of {step.item} is free; number {claim.place} in line.",
            remedy="Buy or reclaim one; the step goes on by itself when a seat returns.",
        )
    return StepProblem(
        code=REFUSED,
        text=f"No seat of {step.item} is free, and nobody waits for one.",
        remedy="Buy or reclaim one, then retry the step.",
    )


async def kept_until(unit: UnitOfWork, step: Step, held: Collection[str]) -> StepProblem | None:
    """What is being taken and contains the seat that is to go, where it is not there yet."""
    licenses = (await load_rules(unit)).licenses
    suites = {
        name
        for (application_id, name), license in licenses.items()
        if application_id == step.application_id and step.item in license.contains
    }
    if not suites - {*held}:
        return None
    coming = suites & {*await unit.seats.being_taken(step.subject_id, step.account_id)} - {*held}
    if not coming:
        return None
    return StepProblem(
        code=NEEDS_BASE,
        text=f"It goes once there is a seat of {min(coming)}, which contains it.",
        remedy="It goes on by itself.",
    )
