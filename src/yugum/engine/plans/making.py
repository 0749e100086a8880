"""What making a plan needs beside the core: first days, overlaps, seats of a batch, steps left out."""

from __future__ import annotations

import uuid
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from datetime import datetime

from yugum.core.accounts import Account, AccountState, HoldingKind
from yugum.core.actions.registry import ACTIONS
from yugum.core.dates import days_later
from yugum.core.decisions import Decision, DecisionKind, Payload
from yugum.core.desired import Subject, World, desired, prepared_from
from yugum.core.dockets import DoneStep, OpenStep
from yugum.core.fidelity import NOT_KNOWN, Still
from yugum.core.people import Person, folded, start_moment
from yugum.core.planning import plan_subject
from yugum.core.plans import Caution, Plan, PlannedStep
from yugum.core.promises import freed, taken
from yugum.core.quick import KEPT
from yugum.core.renames import plan_rename
from yugum.core.returns import plan_return
from yugum.core.roles import Rules
from yugum.core.standing import less
from yugum.core.summaries import only
from yugum.core.verbs import Quick, Verb
from yugum.engine.context import with_account_ids
from yugum.errors import InvalidInput
from yugum.ports.units import UnitOfWork


def first_due(subject: Subject, world: World, starts: datetime, now: datetime) -> datetime:
    """When the first account of a joiner is made; now, if one has to be taken back."""
    if any(a.state is AccountState.ACTIVE for a in subject.accounts) and starts > now:
        return now
    given = desired(subject, world.rules, starts)
    moments = [
        m
        for i in given
        if i in world.applications
        and (m := prepared_from(subject.person, world.applications[i])) is not None
    ]
    return max(now, min([starts, *moments]))


def told_of_later(
    plan: Plan, subject: Subject, world: World, due: datetime
) -> tuple[Plan, tuple[PlannedStep, ...]]:
    """A joiner's plan says what follows on the first day; with the steps of that day."""
    starts = start_moment(subject.person)
    if plan.verb is not Verb.JOINER or starts is None or due >= starts:
        return plan, ()
    whole = plan_subject(subject, world, starts, plan.verb)
    made = {s.application_id for s in plan.steps}
    others = sorted(
        {world.applications[s.application_id].name for s in whole.steps}
        - {world.applications[i].name for i in made}
    )
    text = f"On {subject.person.starts} the accounts are opened with new initial credentials"
    text += f"; these follow on that day: {', '.join(others)}." if others else "."
    return replace(plan, cautions=(*plan.cautions, Caution("later", text))), whole.steps


def overlaps(
    before: Person, after: Person, rules: Rules, at: datetime, days: int | None, author: str
) -> list[Decision]:
    """Exceptions that keep the roles a mover loses for a time, so that work can be handed over."""
    staying = {r.name for r in rules.roles_of(folded(after))}
    made = []
    for role in rules.roles_of(folded(before)):
        length = role.overlap_days if days is None else days
        if role.name in staying or length <= 0:
            continue
        made.append(
            Decision(
                id=str(uuid.uuid4()),
                subject_id=after.id,
                kind=DecisionKind.ROLE,
                payload=Payload(role=role.name),
                author=author,
                reason=f"overlap of {length} days after the move",
                starts=at,
                ends=days_later(at, length, after.time_zone),
            )
        )
    return made


def make_plan(
    subject: Subject,
    world: World,
    at: datetime,
    verb: Verb,
    done: Sequence[DoneStep],
    *,
    renamed_from: str = "",
    still: Still = NOT_KNOWN,
) -> Plan:
    """The plan of a verb; somebody who comes back gets back what leaving took (``done``)."""
    if verb is Verb.RENAME and renamed_from:
        return with_account_ids(plan_rename(subject, world, at, renamed_from))
    if verb in (Verb.RETURNER, Verb.EXTENSION) and done:
        return with_account_ids(plan_return(subject, world, at, done, still))
    return with_account_ids(plan_subject(subject, world, at, verb))


def charge(world: World, plan: Plan, person: Person) -> World:
    """The world with the seats taken and freed that a person's plan says, for the next of the same batch."""
    pools = dict(world.pools)
    for step in plan.steps:
        key = (step.application_id, step.item)
        seats = ACTIONS[step.action].seats
        if not seats or key not in pools:
            continue
        pool = pools[key]
        if key in world.promises:
            world = replace(world, pools=pools)
            world = taken(world, key, person) if seats > 0 else freed(world, key, step.account_id)
            pools = dict(world.pools)
        elif seats > 0 and pool.full:
            pools[key] = pool.counting(pool.held, pool.waiting + 1)
        else:
            pools[key] = pool.counting(pool.held + seats, pool.waiting)
    return replace(world, pools=pools)


async def last_leaving(
    unit: UnitOfWork, verb: Verb, person_id: str, but: str = ""
) -> Sequence[DoneStep]:
    """What leaving did, for somebody who comes back by a docket ``but``; nothing for other verbs."""
    if verb not in (Verb.RETURNER, Verb.EXTENSION):
        return ()
    return await unit.dockets.leaving_steps(person_id, but)


def in_hand(plan: Plan, begun: Sequence[OpenStep], world: World) -> Plan:
    """A look's plan less what dockets have in hand, each told with what it waits for."""
    if not begun:
        return plan
    plan, _ = less(plan, begun, (), world)
    told = [
        Caution(
            "in-hand",
            f"{world.applications[s.application_id].name}: {ACTIONS[s.action].words.does} {s.item}".rstrip()
            + f" stays with docket {world.number(s.number)}"
            + (f": {s.problem.text}" if s.problem else "."),
        )
        for s in begun
        if s.application_id in world.applications
    ]
    return replace(plan, cautions=(*plan.cautions, *told)) if told else plan


def step_key(step: PlannedStep) -> str:
    """What names a step to somebody who leaves it out: ``application/action/item``."""
    return f"{step.application_id}/{step.action.value}/{step.item}".rstrip("/")


ALL_LEFT_OUT = "Nothing to do: every step is left out."


def without(plan: Plan, left_out: Mapping[str, str], world: World) -> Plan:
    """The plan less some steps, each with its reason among the cautions; its head tells of the rest."""
    if not left_out:
        return plan
    steps = tuple(s for s in plan.steps if step_key(s) not in left_out)
    gone = [s for s in plan.steps if step_key(s) in left_out]
    told = [
        Caution("left-out", f"Left out: {step_key(s)}, because {left_out[step_key(s)]}")
        for s in gone
    ]
    rest = only(plan, steps, world.applications, ALL_LEFT_OUT)
    return replace(rest, cautions=(*plan.cautions, *told))


def must_name_steps(left_out: Mapping[str, str], steps: Iterable[PlannedStep]) -> None:
    """What is left out must be there.

    Raises:
        InvalidInput: no step is called so.
    """
    known = sorted({step_key(s) for s in steps}) if left_out else []
    for key in left_out:
        if key not in known:
            some = ", ".join(known[:5]) + (" …" if len(known) > 5 else "")
            raise InvalidInput(
                f"No step is called {key}.",
                place="left_out",
                remedy=f"Steps of this plan: {some or 'none'}.",
            )


def kept_by(
    what: Quick, subject: Subject, accounts: Sequence[Account], author: str
) -> list[Decision]:
    """The decisions that keep the rules from undoing what was asked for."""
    kind = KEPT.get(what)
    if kind is None:
        return []
    made = []
    for account in accounts:
        denied = HoldingKind.ACCOUNT if kind is DecisionKind.DENY else None
        made.append(
            Decision(
                id=str(uuid.uuid4()),
                subject_id=subject.person.id,
                kind=kind,
                payload=Payload(application=account.application_id, kind=denied),
                author=author,
                reason=f"{what.value} asked for",
            )
        )
    return made
