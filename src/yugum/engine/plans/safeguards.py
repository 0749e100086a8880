"""What stands before a plan: guards of leavers, the operator's own person, purges, silence."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from yugum.core.approvals import PURGE
from yugum.core.desired import Subject, World
from yugum.core.guards import PREFIX, Surroundings, administers, guard_last, guard_leaver
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
) -> Surroundings:
    """What the guards look at; of any plan but a leaver's who else administers its applications."""
    if request.verb is not Verb.LEAVER:
        return await administrators(unit, world, subjects)
    reports, alike = await unit.people.around(list(subjects), now)
    around = await administrators(unit, world, subjects)
    knows = await unit.shared.known_to(list(subjects))
    mine = {o.id: str(o.person_id) for o in await unit.operators.of_people(list(subjects))}
    works_here: dict[str, list[str]] = {person_id: [] for person_id in mine.values()}
    for fed in await unit.operators.owned(list(mine)) if mine else ():
        works_here[mine[str(fed.owner_id)]].append(fed.login)
    inherited: dict[str, list[str]] = {}
    for line in await unit.handover.inherited(list(subjects)):
        docket = world.number(line.number)
        told = f"{plural(line.count, line.thing)} from {line.owner} (docket {docket})"
        inherited.setdefault(line.person_id, []).append(told)
    led = [s.person for i, s in subjects.items() if reports.get(i)]
    heirs = await heirs_of(unit, led, world.rules, now) if led else {}
    return replace(
        around,
        heirs={i: full_name(p) for i, p in heirs.items() if p is not None},
        reports=reports,
        alike=alike,
        knows=knows,
        has=await unit.equipment.held_by(list(subjects)),
        works_here=works_here,
        inherited=inherited,
        heir_of=await unit.handover.chosen_for(list(subjects), now),
    )


async def administrators(
    unit: UnitOfWork, world: World, subjects: Mapping[str, Subject]
) -> Surroundings:
    """How many others administer each application that some people administer."""
    theirs = {
        application.id: application
        for subject in subjects.values()
        for account in subject.accounts
        if administers(account, application := world.applications[account.application_id], world)
    }
    groups = {i: g for i, a in theirs.items() if (g := a.profile.admin_group)}
    levels = [
        (application_id, name, level)
        for application_id in theirs
        for name, one in world.rules.mapped(application_id).levels.items()
        for level in one.administrators
    ]
    return Surroundings(others=await unit.accounts.others_in(groups, levels, list(subjects)))


def guarded(plan: Plan, subject: Subject, world: World, around: Surroundings) -> Plan:
    """The plan with what speaks against it first."""
    if plan.verb is Verb.LEAVER:
        found = guard_leaver(subject, world, around)
    else:
        found = guard_last(plan, subject, world, around)
    return replace(plan, cautions=(*found, *plan.cautions)) if found else plan


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
    passed = []
    for caution in await unit.plans.blocked_by(plans[0].batch_id):
        if caution.blocks == GuardForce.BLOCK or not override.strip():
            how = "The rules let nobody override this."
            if caution.blocks == GuardForce.OVERRIDE:
                how = "Say why it is right all the same: --override REASON."
            raise Conflict(caution.text, place="override", remedy=how)
        passed.append(caution.code.removeprefix(PREFIX))
    return passed
