"""Preparing an undo: the inverse of what a docket did, and its cause taken back."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import replace
from datetime import datetime

from yugum.core.accounts import HoldingKind
from yugum.core.actions import Action
from yugum.core.approvals import for_good
from yugum.core.causes import AccountCause, UndoCause
from yugum.core.decisions import Decision, DecisionKind, Payload, closed_since
from yugum.core.desired import Subject
from yugum.core.dockets import Docket, DocketState, DoneStep
from yugum.core.facts import difference, taken_back
from yugum.core.people import Person
from yugum.core.requests import PlanRequest
from yugum.core.undo import Since, plan_undo
from yugum.core.verbs import Measure, Verb
from yugum.engine.context import (
    Loaded,
    load_subjects,
    load_world,
    observe_all,
    with_account_ids,
)
from yugum.engine.mentions import texts_of
from yugum.engine.plans.kept import BatchView, Made, keep
from yugum.engine.plans.logins import restorable
from yugum.engine.plans.making import must_name_steps, without
from yugum.engine.plans.safeguards import Actor, with_silence
from yugum.errors import Conflict
from yugum.ports.accounts import Known
from yugum.ports.connectors import Connectors
from yugum.ports.units import Database, UnitOfWork

HAS_DONE = frozenset({DocketState.DONE, DocketState.RUNNING, DocketState.SUPERSEDED})


async def prepare_undo(
    database: Database,
    connectors: Connectors,
    request: PlanRequest,
    actor: Actor,
    now: datetime,
) -> BatchView:
    """A plan that puts back what a docket did, with what cannot come back said first.

    Raises:
        NotFound: there is no such docket.
        Conflict: it has done nothing yet.
    """
    async with database.unit() as unit:
        docket = await unit.dockets.by_name(request.docket)
        _must_have_done(docket)
        known = await unit.accounts.known([docket.subject_id])
        done = await done_by(unit, docket)
        receivers = await _receivers(unit, done)
    silent, _ = await observe_all(database, connectors, known, now)
    await observe_all(database, connectors, receivers, now)
    texts = await texts_of(connectors, done)
    async with database.unit() as unit:
        known = await unit.accounts.known([docket.subject_id])
        before = known.people[docket.subject_id]
        after = await _taken_back(unit, docket, before)
        world = await load_world(unit)
        subjects = await load_subjects(unit, {docket.subject_id: after}, known, now, world.rules)
        subject = subjects[docket.subject_id]
        came = await unit.decisions.of_docket(docket.subject_id, docket.id)
        over: list[Decision] = []
        if before.access_ends != after.access_ends:
            over = closed_since(subject.decisions, before.access_ends)
        ids = {d.id for d in (*came, *over)}
        stay = tuple(d for d in subject.decisions if d.id not in ids)
        as_now = replace(subject, person=before)
        done = await done_by(unit, docket)
        back = _back_in_place(subject, came, done, actor)
        subject = replace(subject, decisions=(*stay, *back))
        still = await received(unit, done)
        since = replace(await become(unit, docket.subject_id, docket.id), texts=texts)
        plan = plan_undo(subject, world, now, done, as_now, still, since)
        plan = with_account_ids(plan)
        plan = await restorable(unit, plan, world)
        must_name_steps(request.left_out, plan.steps)
        plan = with_silence(without(plan, request.left_out, world), silent, world)
        _, changes = difference(before, after)
        cause = UndoCause(
            undoes=docket.id,
            changes=changes,
            left_out=request.left_out,
            decisions=tuple(back),
            over=tuple(d.id for d in over),
            needs=for_good(Verb.UNDO, plan.steps),
        )
        loaded = Loaded(known, world.rules.version)
        return await keep(unit, [Made(plan, cause, now)], loaded, actor, now)


def _must_have_done(docket: Docket) -> None:
    """Something was done that there is a way back from."""
    if docket.state not in HAS_DONE:
        raise Conflict(
            "This docket has done nothing that could be undone.",
            remedy="Cancel it instead: yugum dockets cancel NUMBER.",
        )
    if isinstance(docket.cause, AccountCause) and docket.cause.measure is Measure.SECURE:
        raise Conflict(
            "Sessions that ended and credentials that were replaced do not come back.",
            remedy="Nobody is kept out by it; end the precaution: yugum people end-decision ID.",
        )


def _back_in_place(
    subject: Subject, came: Sequence[Decision], done: Sequence[DoneStep], actor: Actor
) -> list[Decision]:
    """Where a docket made an account in the place of another, that one takes its place again."""
    over = {d.payload.application for d in came if d.kind is DecisionKind.DENY and d.payload.item}
    return [
        Decision(
            id=str(uuid.uuid4()),
            subject_id=subject.person.id,
            kind=DecisionKind.DENY,
            payload=Payload(
                application=s.application_id, kind=HoldingKind.ACCOUNT, item=s.account_id
            ),
            author=actor.login,
            reason="the account of before takes its place again",
        )
        for s in done
        if s.action is Action.CREATE and s.application_id in over
    ]


async def done_by(unit: UnitOfWork, docket: Docket, undo: str = "") -> Sequence[DoneStep]:
    """What a docket did that is undone, by the docket ``undo``; with a leaving what it gave others later on as well.

    What was open when somebody left goes to others by dockets of its own, once it has a home.
    """
    done = await unit.dockets.done_steps(docket.id)
    if docket.verb is not Verb.LEAVER:
        return done
    later = await unit.dockets.given_later(docket.id, undo)
    last = max((s.position for s in done), default=0)
    return [*done, *(replace(s, position=last + n) for n, s in enumerate(later, 1))]


async def as_before_undo(
    unit: UnitOfWork, docket: Docket, undone: str, subject: Subject
) -> Subject:
    """Somebody as they would be without an undo that has taken back the cause of another docket."""
    person = subject.person
    for fact in await unit.dockets.facts(docket.id):
        person = taken_back(person, fact.before, fact.after)
    came = await unit.decisions.of_docket(docket.subject_id, undone)
    ended = {d.id for d in came if d.ends is not None and d.ends >= docket.due_at}
    mine = {d.id for d in await unit.decisions.of_docket(docket.subject_id, docket.id)}
    decisions = tuple(
        replace(d, ends=None) if d.id in ended else d for d in subject.decisions if d.id not in mine
    )
    return replace(subject, person=person, decisions=decisions)


async def become(unit: UnitOfWork, subject_id: str, undone: str) -> Since:
    """What has become of what a docket that is undone did, and what it has still to do."""
    left = [s for s in await unit.dockets.begun([subject_id]) if s.docket_id == undone]
    return Since(left=left, reborn=await unit.dockets.reborn(undone))


async def received(unit: UnitOfWork, done: Sequence[DoneStep]) -> dict[str, frozenset[str]]:
    """What the accounts that got something by some steps own now, as last seen."""
    if not done:
        return {}
    known = await _receivers(unit, done)
    return {
        a.id: frozenset(x.external_id for x in a.assets)
        for mine in known.accounts.values()
        for a in mine
    }


async def _receivers(unit: UnitOfWork, done: Sequence[DoneStep]) -> Known:
    """The accounts that got something by some steps, and nothing else of theirs."""
    ids = {s.arguments.to_account for s in done if s.action is Action.TRANSFER and s.did.assets}
    people = {a.person_id for a in (await unit.accounts.some(ids)).values()}
    known = await unit.accounts.known([p for p in people if p is not None])
    mine = {i: [a for a in accounts if a.id in ids] for i, accounts in known.accounts.items()}
    return replace(known, accounts=mine)


async def _taken_back(unit: UnitOfWork, docket: Docket, person: Person) -> Person:
    for fact in await unit.dockets.facts(docket.id):
        person = taken_back(person, fact.before, fact.after)
    return person
