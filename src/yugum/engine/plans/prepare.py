"""Preparing plans for people: what a request means for each, from what the applications show now."""

from __future__ import annotations

import uuid
from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import datetime, timedelta

from yugum.core.accounts import Account
from yugum.core.applications import Capability
from yugum.core.approvals import Asked, needing
from yugum.core.causes import CAUSES, Cause, LeaverCause, RenameCause
from yugum.core.dates import days_later, parse_moment
from yugum.core.decisions import Decision, DecisionKind, Payload, closed_since
from yugum.core.desired import Subject, World
from yugum.core.dockets import Docket
from yugum.core.facts import told_changes
from yugum.core.lines import NOTHING
from yugum.core.people import Person, PersonState, full_name, state_at
from yugum.core.plans import Caution, FieldChange, Plan, PlannedStep
from yugum.core.precautions import precautions
from yugum.core.renames import doubles, kept_as, not_renamed, replacing
from yugum.core.requests import MOST_AT_ONCE, NO_TERMS, PlanRequest
from yugum.core.veils import former_names
from yugum.core.verbs import Verb
from yugum.engine.asked import Waiting, could_agree
from yugum.engine.context import Loaded, load_rules, load_subjects, load_world
from yugum.engine.declared import own_changes
from yugum.engine.entry import moved, must_be_right
from yugum.engine.managers import manager_names
from yugum.engine.mentions import looked
from yugum.engine.plans.by_hand import with_seats
from yugum.engine.plans.kept import DATED_ANEW, BatchView, Made, held_up_by, keep
from yugum.engine.plans.logins import must_be_free, restorable
from yugum.engine.plans.making import (
    charge,
    first_due,
    in_hand,
    last_leaving,
    make_plan,
    must_name_steps,
    overlaps,
    told_of_later,
    without,
)
from yugum.engine.plans.meanings import Meaning, meaning_of
from yugum.engine.plans.safeguards import (
    Actor,
    guard_done,
    guard_self,
    guarded,
    surroundings,
    with_silence,
)
from yugum.engine.plans.undo import received
from yugum.engine.whom import people_named
from yugum.errors import InvalidInput
from yugum.ports.connectors import Connectors
from yugum.ports.units import Database, UnitOfWork


async def prepare_people(
    database: Database,
    connectors: Connectors,
    request: PlanRequest,
    actor: Actor,
    now: datetime,
) -> BatchView:
    """A batch of plans, one a person.

    Raises:
        InvalidInput: nobody or too many are named, or a date cannot be.
        Conflict: somebody's state does not fit, or nothing is left to be done about a leaver.
    """
    async with database.unit() as unit:
        request, people = await _asked(unit, request, now)
        hours = (await load_rules(unit)).working_hours
        known = await unit.accounts.known(list(people))
    meanings = {i: meaning_of(request.of(i), p, hours, now) for i, p in people.items()}
    guard_self(request, actor, people)
    silent = await looked(database, connectors, known, now, places=request.verb is Verb.LEAVER)
    async with database.unit() as unit:
        world = await load_world(unit)
        known = await unit.accounts.known(list(people))
        after = {i: meanings[i].after for i in people}
        latest = max(m.due for m in meanings.values())
        named = {i: who for i in people if (who := request.of(i).successor)}
        subjects = await load_subjects(unit, after, known, latest, world.rules, named)
        loaded = Loaded(known, world.rules.version)
        meanings = {
            i: _settled(request, people[i], meaning, subjects[i], world, actor, now)
            for i, meaning in meanings.items()
        }
        await must_be_free(unit, meanings, world.rules, now)
        around = await surroundings(unit, request, subjects, world, now)
        made, steps = [], list[PlannedStep]()
        replaced = await _given_up(unit, request.verb, list(people))
        hands = await unit.standing.hands(list(people), now)
        bosses = await manager_names(unit, (*people.values(), *after.values()))
        for person_id, person in people.items():
            meaning, subject = meanings[person_id], subjects[person_id]
            stay = [d for d in subject.decisions if d.id not in meaning.over]
            subject = replace(subject, decisions=(*stay, *meaning.decisions))
            plan = await _planned(unit, request.verb, subject, world, meaning, now)
            hand = hands.get(person_id, NOTHING)
            plan = in_hand(plan, hand.steps if request.verb is Verb.RECHECK else (), world)
            plan = replace(plan, changed=_changed(person, meaning.after, bosses))
            plan, later = told_of_later(plan, subject, world, meaning.due)
            steps += plan.steps
            plan = without(guarded(plan, subject, world, around), request.left_out, world)
            guard_done(request, person, plan, hand, now)
            world = charge(world, plan, person)
            plan = with_silence(plan, silent, world)
            about = needing(request.verb, (*plan.steps, *later), world.rules)
            cause = _cause(request.of(person_id), meaning, subject, about)
            waiting = _waiting(request.verb, subject, plan, actor)
            old = replaced.get(person_id)
            plan = await _told_of(unit, plan, cause, waiting, world, old, now)
            made.append(Made(plan, cause, meaning.due))
        must_name_steps(request.left_out, steps)
        return await keep(unit, made, loaded, actor, now)


def _changed(before: Person, after: Person, names: Mapping[str, str]) -> tuple[FieldChange, ...]:
    return tuple(FieldChange(*line) for line in told_changes(before, after, names))


async def _told_of(
    unit: UnitOfWork,
    plan: Plan,
    cause: Cause,
    waiting: Waiting,
    world: World,
    old: Docket | None,
    now: datetime,
) -> Plan:
    """The plan with who will be asked to agree, and what its docket takes the place of."""
    names = held_up_by(cause, world.rules)
    told = [await could_agree(unit, name, world.rules, waiting, now) for name in names]
    if names and waiting.verb is Verb.LEAVER:
        text = "Access ends at its time all the same; the rest waits."
        told.append(Caution("secured-first", text))
    if old is not None:
        text = (
            f"It takes the place of docket {world.number(old.number)}, "
            f"due {old.due_at:%a %-d %b %Y %H:%M} UTC; "
        )
        text += "its reference and reason are kept unless others are given."
        text += f" Needed again: {', '.join(names)}." if names else ""
        told.append(Caution("replaces", text))
    return replace(plan, cautions=(*plan.cautions, *told)) if told else plan


def _waiting(verb: Verb, subject: Subject, plan: Plan, actor: Actor) -> Waiting:
    """What is asked about a plan that nobody has confirmed yet."""
    return Waiting(
        verb=verb,
        person=subject.person,
        author=actor.login,
        applications=frozenset(s.application_id for s in plan.steps),
    )


async def _planned(
    unit: UnitOfWork, verb: Verb, subject: Subject, world: World, meaning: Meaning, now: datetime
) -> Plan:
    """The plan of a verb for one person, before anything is left out of it."""
    done = await last_leaving(unit, verb, subject.person.id)
    still = await received(unit, done)
    at, renamed = max(meaning.due, now), meaning.renamed_from
    plan = make_plan(subject, world, at, verb, done, renamed_from=renamed, still=still)
    return await restorable(unit, plan, world)


async def _given_up(unit: UnitOfWork, verb: Verb, ids: Sequence[str]) -> Mapping[str, Docket]:
    """The dockets that have not begun, in whose place a new one comes, by person."""
    return await unit.dockets.not_begun(ids, verb) if verb in DATED_ANEW else {}


def _settled(
    request: PlanRequest,
    before: Person,
    meaning: Meaning,
    subject: Subject,
    world: World,
    actor: Actor,
    now: datetime,
) -> Meaning:
    """The meaning with what the rules make of it: its day, and decisions that come with it."""
    rules, person = world.rules, meaning.after
    match request.verb:
        case Verb.JOINER:
            return replace(meaning, due=first_due(subject, world, meaning.due, now))
        case Verb.MOVER:
            made = overlaps(before, person, rules, meaning.due, request.overlap_days, actor.login)
            return replace(meaning, decisions=tuple(made))
        case Verb.RETURNER if state_at(before, now) is PersonState.LEFT:
            closed = closed_since(subject.decisions, before.access_ends)
            over = (*precautions(subject.decisions, now), *closed)
            return replace(meaning, over=tuple(d.id for d in over))
        case Verb.RECHECK if request.accounts:
            twice = doubles(subject, request.accounts)
            settled = _anew(twice, meaning, subject, world, actor, now)
            return replace(meaning, decisions=tuple(settled))
        case Verb.RECHECK if person.id in request.seats:
            return with_seats(request, meaning, subject, world, actor, now)
        case Verb.RENAME:
            veil = _veil(before, person, actor.login) if request.sensitive else ()
            kept = _kept_as(request, meaning, before, subject, world, actor)
            anew = _replaced(request, meaning, before, subject, world, actor, now)
            return replace(meaning, decisions=(*veil, *kept, *anew))
        case Verb.EXTENSION:
            if state_at(before, now) is PersonState.LEFT:
                closed = closed_since(subject.decisions, before.access_ends)
                meaning = replace(meaning, over=tuple(d.id for d in closed))
            longest = rules.procedure(Verb.EXTENSION).longest_days
            if longest and person.access_ends and person.access_ends > now + timedelta(longest):
                raise InvalidInput(
                    f"A term goes on for at most {longest} days from today.",
                    place="until",
                    remedy="Name an earlier day, or change the rules.",
                )
    return meaning


def _replaced(
    request: PlanRequest,
    meaning: Meaning,
    before: Person,
    subject: Subject,
    world: World,
    actor: Actor,
    now: datetime,
) -> list[Decision]:
    """The decisions by which other accounts take the place of those that keep an old login."""
    mine = {a.id: a for a in subject.accounts}
    for account_id in request.accounts:
        if account_id not in mine or mine[account_id].login == meaning.after.user_name:
            raise InvalidInput(
                f"No other account takes the place of {account_id}.",
                place="accounts",
                remedy="Name an account of the person under another login than theirs.",
            )
    old = [mine[i] for i in request.accounts]
    if meaning.after.user_name != before.user_name:
        named = not_renamed(subject, world, before.user_name)
        old += [a for a in named if a.id not in request.accounts]
    return _anew(old, meaning, subject, world, actor, now)


def _anew(
    old: Sequence[Account],
    meaning: Meaning,
    subject: Subject,
    world: World,
    actor: Actor,
    now: datetime,
) -> list[Decision]:
    """What is settled for accounts whose place another one takes."""
    return [
        Decision(
            id=str(uuid.uuid4()),
            subject_id=subject.person.id,
            kind=kind,
            payload=payload,
            author=actor.login,
            reason="another account takes its place",
            starts=meaning.due if meaning.due > now else None,
        )
        for kind, payload in replacing(subject, world, old, meaning.due)
    ]


def _kept_as(
    request: PlanRequest,
    meaning: Meaning,
    before: Person,
    subject: Subject,
    world: World,
    actor: Actor,
) -> list[Decision]:
    """The exceptions that keep an old login: as an alias, or, where it is nobody's business, unseen.

    Raises:
        InvalidInput: a day is named until which nothing is kept.
    """
    after, due = meaning.after, meaning.due
    if request.until and not request.sensitive:
        raise InvalidInput(
            "A day is named for the old address of a sensitive rename only; an alias stays as long as the "
            "rules say.",
            place="until",
            remedy="Leave it out, or hide the former name.",
        )
    days = world.rules.procedure(Verb.RENAME).alias_days
    until, reason = days_later(due, days, after.time_zone), f"the old name for {days} days"
    if request.sensitive:
        until = parse_moment(request.until, due, after.time_zone) if request.until else due
        reason = "mail to the old address arrives unseen"
    if request.until and until <= due:
        raise InvalidInput(
            f"{request.until} is not after the rename.", place="until", remedy="Name a later day."
        )
    if meaning.renamed_from == after.user_name:
        return []
    where = {}
    for account in subject.accounts:
        application = world.applications[account.application_id]
        profile = application.profile
        name = profile.unseen_setting if request.sensitive else profile.alias_setting
        if application.can(Capability.SETTINGS):
            where[application.id] = (str(uuid.uuid4()), name)
    return kept_as(after, where, before.user_name, until, due, actor.login, reason)


def _veil(before: Person, after: Person, author: str) -> tuple[Decision, ...]:
    """The decision that hides what somebody was called; in force at once, for good."""
    names = former_names(before, after)
    if not names:
        return ()
    return (
        Decision(
            id=str(uuid.uuid4()),
            subject_id=after.id,
            kind=DecisionKind.VEIL,
            payload=Payload(names=tuple(names)),
            author=author,
            reason="the former name is nobody's business",
        ),
    )


def _cause(
    request: PlanRequest,
    meaning: Meaning,
    subject: Subject,
    about: Mapping[str, tuple[Asked, ...]],
) -> Cause:
    cause = CAUSES[request.verb](
        urgent=request.urgent,
        confidential=request.confidential,
        request=request if request.confidential else None,
        decisions=meaning.decisions,
        over=meaning.over,
        left_out=request.left_out,
        changes=meaning.changes,
        applied=meaning.applied,
        effective=meaning.effective,
        needs=tuple(about),
        about=about,
    )
    if isinstance(cause, LeaverCause):
        own = request.each.get(subject.person.id, NO_TERMS)
        heir = request.successor if subject.successor is not None else ""
        return replace(
            cause, successor=heir, file=request.file, reference=own.reference, reason=own.reason
        )
    if isinstance(cause, RenameCause):
        return replace(cause, renamed_from=meaning.renamed_from)
    return cause


async def _asked(
    unit: UnitOfWork, request: PlanRequest, now: datetime
) -> tuple[PlanRequest, Mapping[str, Person]]:
    """Whom a request is about, with its own attributes read; what is typed of them is looked at."""
    people = await _resolve_all(unit, request.who)
    request = replace(request, changes=await own_changes(unit, request.changes))
    await must_be_right(unit, moved(request, people.values()), now)
    return request, people


async def _resolve_all(unit: UnitOfWork, who: Sequence[str]) -> Mapping[str, Person]:
    if not who or len(who) > MOST_AT_ONCE:
        raise InvalidInput(
            f"Name between one and {MOST_AT_ONCE} people.", place="who", remedy="Split the list."
        )
    found: dict[str, Person] = {}
    named = await people_named(unit, who)
    for person in (named[name] for name in who):
        if person.id in found:
            raise InvalidInput(f"{full_name(person)} is named twice.", place="who")
        found[person.id] = person
    return found
