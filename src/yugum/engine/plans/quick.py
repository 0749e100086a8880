"""Preparing quick actions on accounts, a plan for each person (or account that is nobody's)."""

from __future__ import annotations

from datetime import datetime

from yugum.core.approvals import for_good
from yugum.core.causes import AccountCause
from yugum.core.plans import PlannedStep
from yugum.core.quick import ENDING, plan_quick
from yugum.core.requests import PlanRequest
from yugum.core.verbs import Verb
from yugum.engine.context import Loaded, load_subjects, load_world, observe_all
from yugum.engine.givers import givers_of
from yugum.engine.plans.kept import BatchView, Made, keep
from yugum.engine.plans.logins import must_be_restorable
from yugum.engine.plans.making import charge, kept_by, must_name_steps, without
from yugum.engine.plans.safeguards import Actor, with_silence
from yugum.errors import InvalidInput, NotFound
from yugum.ports.connectors import Connectors
from yugum.ports.units import Database


async def prepare_accounts(
    database: Database,
    connectors: Connectors,
    request: PlanRequest,
    actor: Actor,
    now: datetime,
) -> BatchView:
    """One action on some accounts.

    Raises:
        InvalidInput: no accounts or no action are named.
        NotFound: an account is not there.
        Conflict: the state of one does not fit.
    """
    if not request.accounts or request.action is None:
        raise InvalidInput("Name accounts and an action.", place="accounts")
    what = request.action
    async with database.unit() as unit:
        chosen = await unit.accounts.some(request.accounts)
        missing = sorted(set(request.accounts) - set(chosen))
        if missing:
            raise NotFound(f"There is no account {missing[0]}.", place="accounts")
        subject_ids = sorted({a.person_id or a.id for a in chosen.values()})
        await unit.leases.make_subjects(subject_ids)
        known = await unit.accounts.known(subject_ids)
    silent, _ = await observe_all(database, connectors, known, now)
    async with database.unit() as unit:
        world = await load_world(unit)
        known = await unit.accounts.known(subject_ids)
        named = dict.fromkeys(known.people, request.successor) if request.successor else {}
        subjects = await load_subjects(unit, dict(known.people), known, now, world.rules, named)
        made, steps = [], list[PlannedStep]()
        givers = await givers_of(unit, world, chosen.values(), now)
        for subject_id in subject_ids:
            subject = subjects[subject_id]
            mine = [a for a in subject.accounts if a.id in chosen]
            plan = plan_quick(subject, world, mine, what, now, givers, request.duties)
            await must_be_restorable(unit, plan, world)
            steps += plan.steps
            plan = without(plan, request.left_out, world)
            world = charge(world, plan, subject.person)
            cause = AccountCause(
                action=what,
                accounts=tuple(a.id for a in mine),
                left_out=request.left_out,
                decisions=tuple(kept_by(what, subject, mine, actor.login)),
                ends=tuple(a.application_id for a in mine) if what in ENDING else (),
                duties=request.duties,
                needs=for_good(Verb.ACCOUNT, plan.steps),
            )
            made.append(Made(with_silence(plan, silent, world), cause, now))
        must_name_steps(request.left_out, steps)
        loaded = Loaded(known, world.rules.version)
        return await keep(unit, made, loaded, actor, now)
