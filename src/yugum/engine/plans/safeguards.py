"""What stands before a plan: guards of leavers, the operator's own person, purges, silence."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from yugum.core.approvals import PURGE
from yugum.core.desired import Subject, World
from yugum.core.guards import PREFIX, Surroundings, guard_leaver
from yugum.core.lines import Hand
from yugum.core.people import Person, PersonState, full_name, state_at
from yugum.core.plans import Caution, Plan
from yugum.core.requests import PlanRequest
from yugum.core.roles import GuardForce
from yugum.core.verbs import Verb
from yugum.core.wording import plural
from yugum.engine.reports import heirs_of
from yugum.errors import Conflict
from yugum.ports.plans import KeptPlan
from yugum.ports.units import UnitOfWork


@dataclass(frozen=True, slots=True)
class Actor:
    """Who asks: an operator's login, and the person the operator is, if one."""

    login: str
    person_id: str | None = None


def guard_self(request: PlanRequest, actor: Actor, people: Mapping[str, Person]) -> None:
    """Nobody lets themselves go."""
    if request.verb is Verb.LEAVER and (actor.person_id or "") in people:
        raise Conflict(
            "You cannot make yourself a leaver.", remedy="Ask another operator to do it."
        )


def guard_done(request: PlanRequest, person: Person, plan: Plan, hand: Hand, now: datetime) -> None:
    """A leaver of whom nothing is open any more needs no second docket.

    Something is open when a caution holds a step back (what is merely told is not), and when nobody
    has agreed: of somebody suspended before, only what is closed later waits for that.
    """
    left = state_at(person, now) is PersonState.LEFT
    is_open = plan.steps or hand.leaving_asked or any(c.blocks for c in plan.cautions)
    if request.verb is Verb.LEAVER and left and not is_open:
        raise Conflict(
            f"{full_name(person)} has left already.",
            remedy=f"Look at what was done: yugum people show {person.user_name}.",
        )


async def surroundings(
    unit: UnitOfWork,
    request: PlanRequest,
    subjects: Mapping[str, Subject],
    world: World,
    now: datetime,
) -> Surroundings | None:
    """What the guards look at; only a leaver plan has any."""
    if request.verb is not Verb.LEAVER:
        return None
    reports, alike = await unit.people.around(list(subjects), now)
    groups = {i: g for i, a in world.applications.items() if (g := a.profile.admin_group)}
    others = await unit.accounts.others_in(groups, list(subjects))
    knows = await unit.shared.known_to(list(subjects))
    mine = {o.id: str(o.person_id) for o in await unit.operators.of_people(list(subjects))}
    works_here: dict[str, list[str]] = {person_id: [] for person_id in mine.values()}
    for fed in await unit.operators.owned(list(mine)) if mine else ():
        works_here[mine[str(fed.owner_id)]].append(fed.login)
    led = [s.person for i, s in subjects.items() if reports.get(i)]
    heirs = await heirs_of(unit, led, world.rules, now) if led else {}
    return Surroundings(
        heirs={i: full_name(p) for i, p in heirs.items() if p is not None},
        reports=reports,
        alike=alike,
        others=others,
        knows=knows,
        works_here=works_here,
    )


def guarded(plan: Plan, subject: Subject, world: World, around: Surroundings | None) -> Plan:
    """The plan with what speaks against it first."""
    if around is None:
        return plan
    return replace(plan, cautions=(*guard_leaver(subject, world, around), *plan.cautions))


def with_silence(plan: Plan, silent: Mapping[str, str], world: World) -> Plan:
    """The plan with a caution for each of its applications that did not answer just now."""
    touched = {s.application_id for s in plan.steps}
    cautions = [
        Caution(
            "not-seen",
            f"{world.applications[a].name} was not seen just now ({text}) "
            "Its steps are planned as last seen and run when it answers.",
        )
        for a, text in sorted(silent.items())
        if a in touched
    ]
    return replace(plan, cautions=(*plan.cautions, *cautions)) if cautions else plan


async def must_be_typed(unit: UnitOfWork, plans: Sequence[KeptPlan], typed: str) -> None:
    """Whoever confirms what cannot be put back types what goes for good.

    Raises:
        Conflict: it was not typed.
    """
    if not any(PURGE in p.cause.needs for p in plans):
        return
    whole = await unit.plans.batch(plans[0].batch_id)
    gone = {s.account_id for p in whole for s in p.steps if s.irreversible}
    wanted = [f"purge {len(gone)}"]
    if len(gone) == 1:
        accounts = await unit.accounts.some(gone)
        wanted += [a.login for a in accounts.values()]
    if typed.strip() not in wanted:
        raise Conflict(
            f"This cannot be put back: {plural(len(gone), 'account')} gone for good.",
            place="typed",
            remedy=f"Type '{wanted[-1]}' to confirm it.",
        )


async def overridden(unit: UnitOfWork, plans: Sequence[KeptPlan], override: str) -> list[str]:
    """The guards that are overridden with a reason; refused where that is not allowed."""
    if plans[0].verb is not Verb.LEAVER:
        return []
    passed = []
    for caution in await unit.plans.blocked_by(plans[0].batch_id):
        if caution.blocks == GuardForce.BLOCK or not override.strip():
            how = "The rules let nobody override this."
            if caution.blocks == GuardForce.OVERRIDE:
                how = "Say why it is right all the same: --override REASON."
            raise Conflict(caution.text, place="override", remedy=how)
        passed.append(caution.code.removeprefix(PREFIX))
    return passed
