"""The organisation's own steps in a procedure: with its docket, at their time, or once known."""

from __future__ import annotations

from datetime import date, datetime
from zoneinfo import ZoneInfo

from yugum.core.actions import Action, Arguments
from yugum.core.applications import Capability
from yugum.core.conditions import matches
from yugum.core.desired import Subject, World
from yugum.core.drafts import Draft
from yugum.core.people import Person, PersonState, as_text, folded, start_moment, state_at
from yugum.core.roles import OwnStep
from yugum.core.verbs import Verb


def own_steps(draft: Draft, verb: Verb) -> None:
    """The organisation's own steps of a verb's procedure, each once for what caused it.

    When somebody is looked at again, those of an earlier docket whose time has come.
    """
    if verb is Verb.RECHECK:
        for earlier, step in ready_steps(draft.subject, draft.world, draft.at):
            _own_step(draft, earlier, step)
        return
    values = folded(draft.subject.person)
    for step in draft.world.rules.procedure(verb).steps:
        if not matches(step.when, values):
            continue
        person = draft.subject.person
        due = step.at.moment(person, draft.world.rules.working_hours) if step.at else None
        if step.at is not None and (due is None or due > draft.at):
            local = due.astimezone(ZoneInfo(person.time_zone)) if due else None
            when = f"{local:%-d %b %Y %H:%M}" if local else f"when {step.at.anchor} is known"
            draft.warn("later", f"{step.name} runs later: {when}.")
        elif not matches(step.wait_for, values):
            draft.warn("later", f"{step.name} waits until what it waits for is known.")
        else:
            _own_step(draft, verb, step)


def ready_steps(subject: Subject, world: World, at: datetime) -> list[tuple[Verb, OwnStep]]:
    """Steps of a docket behind the person that could run now, each with the docket's verb."""
    values = folded(subject.person)
    left = state_at(subject.person, at) is PersonState.LEFT
    return [
        (verb, step)
        for verb, step, due in later_steps(subject, world)
        if due <= at
        and not (left and verb is Verb.JOINER)
        and matches(step.wait_for, values)
        and not _has_run(subject, verb, step)
    ]


def later_steps(subject: Subject, world: World) -> list[tuple[Verb, OwnStep, datetime]]:
    """Steps that run after their docket, with the moment from which on they may.

    Somebody with a fixed term has steps of both procedures. What fell due before the rules were
    adopted is not caught up on.
    """
    person, values, found = subject.person, folded(subject.person), []
    for verb, begins in (
        (Verb.JOINER, start_moment(person)),
        (Verb.LEAVER, person.access_ends),
    ):
        if begins is None:
            continue
        for step in world.rules.procedure(verb).steps:
            application = world.applications.get(step.application_id)
            if not step.later or application is None or not application.can(Capability.RUN):
                continue
            due = step.at.moment(person, world.rules.working_hours) if step.at else begins
            if due is None or not matches(step.when, values):
                continue
            if world.rules.since is None or due >= world.rules.since:
                found.append((verb, step, due))
    return found


def _has_run(subject: Subject, verb: Verb, step: OwnStep) -> bool:
    run = _run_name(subject.person, verb, date.min)
    return any(
        a.application_id == step.application_id and a.settings.get(step.name) == run
        for a in subject.accounts
    )


def _run_name(person: Person, verb: Verb, otherwise: date | datetime) -> str:
    """What makes two runs of the same step two: the day it is about."""
    day: date | datetime | None = None
    if verb is Verb.LEAVER:
        day = person.access_ends
    elif verb in (Verb.JOINER, Verb.RETURNER):
        day = person.starts
    return f"{verb.value}:{as_text(day or otherwise)}"


def _own_step(draft: Draft, verb: Verb, step: OwnStep) -> None:
    person = draft.subject.person
    application = draft.world.applications.get(step.application_id)
    if application is None or not application.can(Capability.RUN):
        draft.warn(
            "no-own-step",
            f"{step.name} cannot run: {step.application_id} is no web hook or script.",
            "run",
        )
        return
    account = next((a for a in draft.subject.accounts if a.application_id == application.id), None)
    run = _run_name(person, verb, draft.at)
    if account is not None and account.settings.get(step.name) == run:
        return
    draft.add(
        application,
        account,
        Action.RUN,
        "not run",
        "run",
        f"step of the {verb.value} procedure",
        item=step.name,
        arguments=Arguments(
            run=run,
            verb=verb.value,
            login=person.user_name,
            person={k: as_text(getattr(person, f)) for k, f in TOLD.items()},
            undo=step.undo,
        ),
        phase=step.phase,
    )


TOLD = {
    "userName": "user_name",
    "displayName": "display_name",
    "employeeNumber": "employee_number",
    "department": "department",
    "title": "title",
    "site": "site",
    "mail": "mail",
    "starts": "starts",
    "accessEnds": "access_ends",
}
"""What an own step is told of the person."""
