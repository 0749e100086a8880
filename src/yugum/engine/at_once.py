"""A docket about one account that starts at once: planned, kept, confirmed and woken."""

from __future__ import annotations

import uuid
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime

from yugum.core.accounts import Account
from yugum.core.causes import Cause
from yugum.core.desired import Subject, World
from yugum.core.plans import Plan, step_document
from yugum.core.verbs import Verb
from yugum.engine.context import Loaded, load_subjects, load_world
from yugum.errors import Conflict
from yugum.ports.plans import ConfirmedDocket, NewPlan
from yugum.ports.units import UnitOfWork


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """Who asks for what and why; ``nothing`` and ``remedy`` are said when there is nothing to do."""

    verb: Verb
    cause: Cause
    author: str
    reason: str
    reference: str
    priority: int
    nothing: str
    remedy: str


async def start_at_once(
    unit: UnitOfWork,
    account_id: str,
    asked: Asked,
    planned: Callable[[Subject, World, Account], Plan],
    now: datetime,
) -> ConfirmedDocket:
    """The docket of the steps that ``planned`` gives; its worker is told when this is committed.

    Raises:
        Conflict: the plan has no steps; the text is its first caution.
    """
    account = await unit.accounts.get(account_id)
    subject_id = account.person_id or account.id
    known = await unit.accounts.known([subject_id])
    world = await load_world(unit)
    subjects = await load_subjects(unit, dict(known.people), known, now, world.rules)
    plan = planned(subjects[subject_id], world, account)
    if not plan.steps:
        text = plan.cautions[0].text if plan.cautions else asked.nothing
        raise Conflict(text, remedy=asked.remedy)
    kept = NewPlan(
        id=str(uuid.uuid4()),
        batch_id=str(uuid.uuid4()),
        subject_id=subject_id,
        verb=asked.verb,
        cause=asked.cause,
        steps=[step_document(s) for s in plan.steps],
        notes=plan.notes,
        inputs=Loaded(known, world.rules.version).inputs(subject_id),
        digest=plan.digest,
        due_at=now,
        made_at=now,
        author=asked.author,
    )
    await unit.leases.make_subjects([subject_id])
    await unit.plans.keep([kept])
    dockets = await unit.plans.confirm(
        kept.batch_id, now=now, reference=asked.reference, reason=asked.reason, undoes=None
    )
    await unit.leases.wake([subject_id], priority=asked.priority)
    await unit.hint()
    return dockets[0]
