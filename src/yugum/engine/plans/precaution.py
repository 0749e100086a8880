"""Preparing a precaution: a plan for each person, with a ground and the day it is looked at again."""

from __future__ import annotations

import uuid
from dataclasses import replace
from datetime import date, datetime
from zoneinfo import ZoneInfo

from yugum.core.causes import AccountCause
from yugum.core.dates import parse_day
from yugum.core.decisions import Decision, DecisionKind, Payload
from yugum.core.people import Person, PersonState, full_name, state_at
from yugum.core.plans import Caution, PlannedStep
from yugum.core.precautions import plan_precaution, precautions
from yugum.core.requests import PlanRequest
from yugum.core.verbs import Measure, Quick
from yugum.engine.context import Loaded, load_subjects, load_world, observe_all
from yugum.engine.plans.kept import BatchView, Made, keep
from yugum.engine.plans.making import must_name_steps, without
from yugum.engine.plans.safeguards import Actor, guard_self, with_silence
from yugum.engine.whom import people_named
from yugum.errors import Conflict, InvalidInput
from yugum.ports.connectors import Connectors
from yugum.ports.units import Database

AS_BEFORE = {Measure.SUSPEND: Quick.SUSPEND, Measure.SECURE: Quick.RESUME}
"""What a process that knows no precautions takes the docket for."""


async def prepare_precaution(
    database: Database,
    connectors: Connectors,
    request: PlanRequest,
    actor: Actor,
    now: datetime,
) -> BatchView:
    """One measure for some people.

    Raises:
        InvalidInput: nobody, no ground or no review day is named, or the day is past.
        Conflict: somebody has left, or is under a precaution already.
    """
    measure = request.measure
    assert measure is not None
    if not request.who:
        raise InvalidInput("Name somebody.", place="who")
    if not request.ground.strip():
        raise InvalidInput("A precaution has a ground.", place="ground")
    async with database.unit() as unit:
        named = await people_named(unit, request.who)
        people = {p.id: p for p in named.values()}
        known = await unit.accounts.known(list(people))
    guard_self(request, actor, people)
    silent, _ = await observe_all(database, connectors, known, now)
    async with database.unit() as unit:
        world = await load_world(unit)
        known = await unit.accounts.known(list(people))
        subjects = await load_subjects(unit, dict(known.people), known, now, world.rules)
        made, steps = [], list[PlannedStep]()
        for subject in subjects.values():
            _must_fit(subject.person, subject.decisions, measure, now)
            review = _review(request.review, subject.person, now)
            plan = plan_precaution(subject, world, measure, now)
            steps += plan.steps
            plan = with_silence(without(plan, request.left_out, world), silent, world)
            told = Caution("review", f"It is to be looked at again on {review:%a %-d %b %Y}.")
            plan = replace(plan, cautions=(*plan.cautions, told))
            decision = Decision(
                id=str(uuid.uuid4()),
                subject_id=subject.person.id,
                kind=DecisionKind.SUSPEND,
                payload=Payload(measure=measure.value, review=review.isoformat()),
                author=actor.login,
                reason=request.ground,
            )
            cause = AccountCause(
                action=AS_BEFORE[measure],
                accounts=tuple({s.account_id: None for s in plan.steps}),
                measure=measure,
                decisions=(decision,),
                left_out=request.left_out,
                urgent=True,
                confidential=True,
            )
            made.append(Made(plan, cause, now))
        must_name_steps(request.left_out, steps)
        return await keep(unit, made, Loaded(known, world.rules.version), actor, now)


def _must_fit(
    person: Person, decisions: tuple[Decision, ...], measure: Measure, now: datetime
) -> None:
    if state_at(person, now) is PersonState.LEFT:
        raise Conflict(f"{full_name(person)} has left.", place="who")
    there = [d for d in precautions(decisions, now) if d.payload.measure == measure]
    if there:
        raise Conflict(
            f"{full_name(person)} is under this precaution since {there[0].made:%-d %b %Y}.",
            place="who",
            remedy="Lift it, or turn it into a leaver: yugum precautions.",
        )


def _review(text: str, person: Person, now: datetime) -> date:
    if not text:
        raise InvalidInput(
            "Say when it is looked at again.", place="review", remedy="--review +14d"
        )
    day = parse_day(text, now, person.time_zone)
    if day <= now.astimezone(ZoneInfo(person.time_zone)).date():
        raise InvalidInput(f"{day} is not to come.", place="review", remedy="Name a later day.")
    return day
