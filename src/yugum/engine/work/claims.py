"""Seats claimed when their step runs: who is served first, who waits, who has to have another one before."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import datetime

from yugum.core.actions import Action
from yugum.core.conditions import Values
from yugum.core.counter import Asked
from yugum.core.dockets import Step, StepProblem
from yugum.core.licenses import USUAL, Carries, lacking
from yugum.core.people import folded
from yugum.core.seats import Claim
from yugum.engine.context import load_rules
from yugum.engine.promises import promised
from yugum.engine.work.batching import Batcher
from yugum.errors import NotFound
from yugum.ports.clock import Clock
from yugum.ports.units import Database, UnitOfWork

REFUSED = "no-seat-left"
"""The code of a step that nobody waits with: its license is blocked where none is free."""
NEEDS_BASE = "needs-base"
"""The code of a step that goes on once another seat of the account is there."""


@dataclass(frozen=True, slots=True)
class Asking:
    """A step that takes a seat, for an account that ``held`` some when it was looked at."""

    step: Step
    held: frozenset[str]


HANDING = (Action.TRANSFER, Action.COPY, Action.CALL_OFF)
"""What has to have gone through before a seat that carries data comes free."""


class SeatDesk:
    """Where the steps of a worker claim their seats: those that ask for the same license meanwhile are one
    transaction, so that the pool is locked, counted and let go of once for all of them."""

    def __init__(self, database: Database, clock: Clock) -> None:
        self._database = database
        self._clock = clock
        self._queues: dict[tuple[str, str], Batcher[Asking, StepProblem | None]] = {}

    async def claim(self, step: Step, held: Collection[str]) -> StepProblem | None:
        """Claim the seat of a step; None when it is held, else why not."""
        key = step.application_id, step.item
        queue = self._queues.get(key)
        if queue is None:
            queue = self._queues[key] = Batcher(self._serve)
        return await queue.submit(Asking(step, frozenset(held)))

    async def _serve(self, asking: Sequence[Asking]) -> Sequence[StepProblem | None]:
        async with self._database.unit() as unit:
            return await claim_all(unit, asking, await self._clock.now(unit))


async def claim_all(
    unit: UnitOfWork, asking: Sequence[Asking], now: datetime
) -> Sequence[StepProblem | None]:
    """Claim seats of one license for some, in that order; None for whoever holds one, else why not.

    Raises:
        NotFound: no pool holds seats of it.
    """
    rules = await load_rules(unit)
    steps = [a.step for a in asking]
    application_id, name = steps[0].application_id, steps[0].item
    license = rules.license(application_id, name)
    pool = await unit.seats.hold(application_id, name)
    if pool is None:
        raise NotFound(f"No pool holds seats of {name}.", remedy="Add one: yugum seats pool.")
    people = [s.subject_id for s in steps]
    counter = await unit.seats.counter(pool, [s.account_id for s in steps], people)
    known: dict[str, Values] = {}
    if license.priority or any(a.who for a in counter.asides):
        known = {p.id: folded(p) for p, _ in (await unit.people.many(people)).values()}
    found: list[StepProblem | None] = []
    for one in asking:
        if missing := lacking(application_id, name, one.held, rules.licenses):
            found.append(_needs(name, missing))
            continue
        step, values = one.step, known.get(one.step.subject_id)
        asked = Asked(
            account_id=step.account_id,
            person_id=step.subject_id,
            rank=len(license.priority) if values is None else license.rank(values),
            reservation_id=promised(counter, step.subject_id, values or {}, rules),
        )
        found.append(_told(counter.ask(asked, license), name))
    await unit.seats.give(counter, now)
    if counter.fell:
        await unit.seats.serve()
    return found


def _needs(name: str, missing: Sequence[str]) -> StepProblem:
    return StepProblem(
        code=NEEDS_BASE,
        text=f"{name} needs a seat of {' and '.join(missing)} first.",
        remedy="It goes on by itself once that seat is there.",
    )


def _told(claim: Claim, name: str) -> StepProblem | None:
    if claim.held:
        return None
    if claim.place:
        return StepProblem(
            code="no-seat",
            text=f"No seat of {name} is free; number {claim.place} in line.",
            remedy="Buy or reclaim one; the step goes on by itself when a seat returns.",
        )
    return StepProblem(
        code=REFUSED,
        text=f"No seat of {name} is free, and nobody waits for one.",
        remedy="Buy or reclaim one, then retry the step.",
    )


async def kept_until(unit: UnitOfWork, step: Step, held: Collection[str]) -> StepProblem | None:
    """What a seat that is to go waits for: another one that takes its place, or a handover of what it carries."""
    licenses = (await load_rules(unit)).licenses
    mine = licenses.get((step.application_id, step.item), USUAL)
    others = {
        name
        for (application_id, name), license in licenses.items()
        if application_id == step.application_id and step.item in license.contains
    }
    others |= {c.license for c in mine.cheaper}
    missing = others - {*held}
    if not missing and Carries.DATA not in mine.carries:
        return None
    left = await unit.seats.under_way(step.subject_id, step.account_id)
    coming = missing & {item for action, item in left if action is Action.TAKE_SEAT}
    if coming and not others & {*held}:
        return StepProblem(
            code=NEEDS_BASE,
            text=f"It goes once there is a seat of {min(coming)}, which takes its place.",
            remedy="It goes on by itself.",
        )
    if Carries.DATA in mine.carries and any(a in HANDING for a, _ in left):
        return StepProblem(
            code=NEEDS_BASE,
            text="It goes once what is owned has been handed over.",
            remedy="It goes on by itself.",
        )
    return None
