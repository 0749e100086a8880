"""Batches of plans as they are kept: stored, found again by whoever may, and viewed."""

from __future__ import annotations

import hashlib
import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from yugum.core.approvals import PURGE, there_are
from yugum.core.causes import Cause
from yugum.core.plans import Caution, Plan, digest_of, step_document
from yugum.core.roles import Rules
from yugum.core.verbs import Verb
from yugum.engine.context import Loaded
from yugum.engine.own import must_be_for_others
from yugum.engine.plans.safeguards import Actor
from yugum.errors import Forbidden, NotFound
from yugum.ports.plans import KeptPlan, NewPlan
from yugum.ports.units import UnitOfWork


@dataclass(frozen=True, slots=True)
class Made:
    """A plan that was made, why, and when it is due."""

    plan: Plan
    cause: Cause
    due: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class BatchView:
    """Plans made together; a confirmation binds to ``digest``. ``applications`` are names by id."""

    id: str
    digest: str
    verb: Verb
    confirmed: bool
    applications: Mapping[str, str]
    plans: Sequence[KeptPlan]


async def keep(
    unit: UnitOfWork, made: Sequence[Made], loaded: Loaded, actor: Actor, now: datetime
) -> BatchView:
    """Store plans made together until they are confirmed.

    Raises:
        Forbidden: one is about who makes it, and another operator could.
    """
    deciding = [
        m.plan.subject_id
        for m in made
        if m.plan.verb is not Verb.RECHECK or m.cause.decisions or m.cause.over
    ]
    if await must_be_for_others(unit, actor.login, deciding, "a plan", now):
        if any(PURGE in m.cause.needs for m in made if m.plan.subject_id == actor.person_id):
            raise Forbidden("Nobody does to themselves what cannot be put back.")
        made = [replace(m, plan=_marked(m.plan, actor)) for m in made]
    batch = str(uuid.uuid4())
    by_id = {str(uuid.uuid4()): m for m in made}
    documents = {i: [step_document(s) for s in m.plan.steps] for i, m in by_id.items()}
    await unit.plans.keep(
        [
            NewPlan(
                id=i,
                batch_id=batch,
                subject_id=m.plan.subject_id,
                verb=m.plan.verb,
                cause=m.cause,
                steps=documents[i],
                notes=m.plan.notes,
                inputs=loaded.inputs(m.plan.subject_id),
                digest=digest_of(documents[i]),
                due_at=m.due,
                made_at=now,
                author=actor.login,
            )
            for i, m in by_id.items()
        ]
    )
    # What was just written is not read again.
    kept = await batch_of(unit, batch, actor, whole=False)
    whole = [replace(k, steps=(p := by_id[k.id].plan).steps, notes=p.notes) for k in kept]
    return await _shown(unit, batch, whole)


def _marked(plan: Plan, actor: Actor) -> Plan:
    """A plan that says that it is about who makes it."""
    if plan.subject_id != actor.person_id:
        return plan
    text = "You decide about yourself: no other operator could. It is on record as that."
    return replace(plan, cautions=(*plan.cautions, Caution("own", text)))


async def batch_of(
    unit: UnitOfWork, batch_id: str, actor: Actor, *, whole: bool = True
) -> Sequence[KeptPlan]:
    """A batch's plans; one kept in confidence is not there for anybody but its author."""
    plans = await unit.plans.batch(batch_id, whole=whole)
    hidden = bool(plans) and plans[0].cause.confidential and plans[0].confirmed is None
    if not plans or (hidden and plans[0].author != actor.login):
        raise NotFound(f"There is no plan {batch_id}.", remedy="Make a new one.")
    return plans


async def view(unit: UnitOfWork, batch_id: str, actor: Actor) -> BatchView:
    """A batch as it is looked at before it is confirmed."""
    return await _shown(unit, batch_id, await batch_of(unit, batch_id, actor))


async def _shown(unit: UnitOfWork, batch_id: str, plans: Sequence[KeptPlan]) -> BatchView:
    return BatchView(
        id=batch_id,
        digest=batch_digest(plans),
        verb=plans[0].verb,
        confirmed=plans[0].confirmed is not None,
        applications={a.id: a.name for a in (await unit.applications.all()).values()},
        plans=plans,
    )


DATED_ANEW = frozenset({Verb.JOINER, Verb.LEAVER})
"""A plan of these takes the place of one for the same person that has not begun."""


def held_up_by(cause: Cause, rules: Rules) -> tuple[str, ...]:
    """The approvals that a plan waits for.

    An urgent leaver waits for nobody, but nothing is lost for good without a second operator.
    """
    names = there_are(cause.needs, rules)
    return tuple(n for n in names if n == PURGE or not cause.urgent)


def batch_digest(plans: Sequence[KeptPlan]) -> str:
    """What a confirmation of a whole batch binds to."""
    text = "".join(sorted(f"{p.subject_id}{p.digest}{p.due_at.isoformat()}" for p in plans))
    return hashlib.sha256(text.encode()).hexdigest()
