"""Planning for operators: a preview that is kept, and its confirmation into dockets."""

from __future__ import annotations

import hashlib
import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

from yugum.core.accounts import AccountState
from yugum.core.actions import ACTIONS, Action
from yugum.core.decisions import Decision, DecisionKind
from yugum.core.dockets import DoneStep, Verb
from yugum.core.facts import difference, from_document, taken_back
from yugum.core.people import Person, PersonState, changed, full_name, state_at
from yugum.core.planning import Draft as PlanDraft
from yugum.core.planning import Subject, World, plan_subject
from yugum.core.plans import Caution, Plan
from yugum.core.undo import plan_return, plan_undo
from yugum.core.windows import can_come_back
from yugum.engine.context import (
    Loaded,
    load_subjects,
    load_world,
    observe_all,
    plan_document,
    step_documents,
    with_account_ids,
)
from yugum.engine.events import make_event
from yugum.engine.requests import Intent, PlanRequest, intend
from yugum.errors import Conflict, InvalidInput, NotFound, PlanStale, WindowOver
from yugum.ports import Clock, Connectors, Database, DocketRow, Draft, Row, UnitOfWork

LIMIT = 500
"""People in one request."""


@dataclass(frozen=True, slots=True)
class Actor:
    """Who asks: an operator's login, and the person the operator is, if one."""

    login: str
    person_id: str | None = None


class Plans:
    """Prepares and confirms plans."""

    def __init__(self, database: Database, connectors: Connectors, clock: Clock) -> None:
        self._database = database
        self._connectors = connectors
        self._clock = clock

    async def prepare(self, request: PlanRequest, actor: Actor) -> Row:
        """A batch of plans, one a person, from what the applications show now.

        Nothing is changed but what Yugum knows. An application that does not answer is named in
        the cautions, and its accounts are planned as last seen.
        """
        now = await self._clock.now()
        if request.verb is Verb.UNDO:
            return await self._prepare_undo(request, actor, now)
        if request.verb is Verb.RESTORE:
            return await self._prepare_restore(request, actor, now)
        if not request.who or len(request.who) > LIMIT:
            raise InvalidInput(
                f"Name between one and {LIMIT} people.", place="who", remedy="Split the list."
            )
        async with self._database.unit() as unit:
            people = await _resolve_all(unit, request.who)
            known = await unit.accounts.known(list(people))
        intents = {i: intend(request, p, now) for i, p in people.items()}
        self._guard_self(request, actor, people)
        silent, _ = await observe_all(self._database, self._connectors, known, now)
        async with self._database.unit() as unit:
            world = await load_world(unit)
            known = await unit.accounts.known(list(people))
            after = {i: intents[i].after for i in people}
            latest = max(i.due for i in intents.values())
            subjects = await load_subjects(unit, after, known, latest, request.successor)
            loaded = Loaded(known, world.rules.version)
            plans: dict[str, Plan] = {}
            for person_id in people:
                intent = intents[person_id]
                done = await last_leaving(unit, request.verb, person_id)
                plan = make_plan(
                    subjects[person_id], world, max(intent.due, now), request.verb, done
                )
                _guard_done(request, people[person_id], plan, now)
                world = charge(world, plan)
                plans[person_id] = _with_silence(plan, silent, world)
            causes = {
                i: _cause(request, intents[i], subjects[i].successor is not None) for i in people
            }
            return await self._keep(unit, plans, causes, intents, loaded, actor, now)

    def _guard_self(self, request: PlanRequest, actor: Actor, people: Mapping[str, Person]) -> None:
        own = actor.person_id or ""
        if request.verb is Verb.LEAVER and own in people:
            raise Conflict(
                "You cannot make yourself a leaver.", remedy="Ask another operator to do it."
            )

    async def _keep(
        self,
        unit: UnitOfWork,
        plans: Mapping[str, Plan],
        causes: Mapping[str, Mapping[str, Any]],
        intents: Mapping[str, Intent],
        loaded: Loaded,
        actor: Actor,
        now: datetime,
    ) -> Row:
        batch = str(uuid.uuid4())
        drafts = []
        for person_id, plan in plans.items():
            drafts.append(
                Draft(
                    id=str(uuid.uuid4()),
                    batch_id=batch,
                    subject_id=person_id,
                    verb=plan.verb,
                    cause=causes[person_id],
                    steps=step_documents(plan),
                    document=plan_document(plan),
                    inputs=loaded.inputs(person_id),
                    digest=plan.digest,
                    due_at=intents[person_id].due,
                    made_at=now,
                    author=actor.login,
                )
            )
        await unit.plans.keep(drafts)
        return await self._view(unit, batch)

    async def _prepare_undo(self, request: PlanRequest, actor: Actor, now: datetime) -> Row:
        async with self._database.unit() as unit:
            docket = await unit.dockets.by_name(request.docket)
            if docket.state not in ("done", "running", "superseded"):
                raise Conflict(
                    "This docket has done nothing that could be undone.",
                    remedy="Cancel it instead: yugum dockets cancel NUMBER.",
                )
            known = await unit.accounts.known([docket.subject_id])
        silent, _ = await observe_all(self._database, self._connectors, known, now)
        async with self._database.unit() as unit:
            known = await unit.accounts.known([docket.subject_id])
            before = known.people[docket.subject_id]
            after = await _taken_back(unit, docket, before)
            world = await load_world(unit)
            subjects = await load_subjects(unit, {docket.subject_id: after}, known, now)
            done = await unit.dockets.done_steps(docket.id)
            plan = with_account_ids(plan_undo(subjects[docket.subject_id], world, now, done))
            plan = _with_silence(plan, silent, world)
            _, changes = difference(before, after)
            cause = {"undoes": docket.id, "changes": changes, "applied": True}
            intent = Intent(after, now, changes, True)
            loaded = Loaded(known, world.rules.version)
            return await self._keep(
                unit, {after.id: plan}, {after.id: cause}, {after.id: intent}, loaded, actor, now
            )

    async def _prepare_restore(self, request: PlanRequest, actor: Actor, now: datetime) -> Row:
        async with self._database.unit() as unit:
            account = await unit.accounts.get(request.account)
            if account.person_id is None:
                raise Conflict(
                    "Nobody is behind this account.", remedy="Link it to a person first."
                )
            known = await unit.accounts.known([account.person_id])
        await observe_all(self._database, self._connectors, known, now)
        async with self._database.unit() as unit:
            known = await unit.accounts.known([account.person_id])
            account = await unit.accounts.get(request.account)
            person = next(iter(known.people.values()))
            if account.state is AccountState.PURGED or (
                account.state is AccountState.DELETED and not can_come_back(account, now)
            ):
                ended = account.recoverable_until
                raise WindowOver(
                    f"The account {account.login} cannot come back"
                    + (f": its window ended {ended:%Y-%m-%d %H:%M} UTC." if ended else "."),
                    remedy=f"A new one is made by: yugum returner {person.user_name}.",
                )
            if account.state is not AccountState.DELETED:
                raise Conflict(f"The account {account.login} is not deleted.")
            world = await load_world(unit)
            subjects = await load_subjects(unit, {person.id: person}, known, now)
            draft = PlanDraft(subjects[person.id], world, now)
            application = world.applications[account.application_id]
            draft.add(application, account, Action.RESTORE, "deleted", "suspended", "restored")
            plan = draft.finish(Verb.RESTORE.value)
            cause = {"account": account.id, "changes": {}, "applied": True}
            return await self._keep(
                unit,
                {person.id: plan},
                {person.id: cause},
                {person.id: Intent(person, now, {}, True)},
                Loaded(known, world.rules.version),
                actor,
                now,
            )

    async def show(self, batch_id: str) -> Row:
        async with self._database.unit() as unit:
            return await self._view(unit, batch_id)

    async def _view(self, unit: UnitOfWork, batch_id: str) -> Row:
        rows = await unit.plans.batch(batch_id)
        if not rows:
            raise NotFound(f"There is no plan {batch_id}.", remedy="Make a new one.")
        return {
            "id": batch_id,
            "digest": batch_digest(rows),
            "verb": rows[0]["verb"],
            "confirmed": rows[0]["confirmed"] is not None,
            "applications": {a.id: a.name for a in (await unit.applications.all()).values()},
            "plans": [_plan_view(r) for r in rows],
        }

    async def confirm(
        self, batch_id: str, digest: str, actor: Actor, *, reference: str, reason: str
    ) -> Sequence[Row]:
        """Make dockets of a batch whose digest is ``digest``, in one transaction.

        Confirming a second time returns the same dockets.

        Raises:
            PlanStale: what the plan was made from has changed; make it again.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            rows = await unit.plans.batch(batch_id, whole=False)
            if not rows:
                raise NotFound(f"There is no plan {batch_id}.", remedy="Make a new one.")
            if rows[0]["confirmed"] is not None:
                return [await unit.dockets.one(r["id"]) for r in rows[:50]]
            if batch_digest(rows) != digest:
                raise PlanStale(
                    "The digest is not that of this plan.", remedy="Look at the plan again."
                )
            stale = [r["display_name"] for r in rows if r["stale"]]
            if stale:
                raise PlanStale(
                    f"Since this plan was made, things have changed for {', '.join(stale[:5])}.",
                    remedy="Make the plan again and look at it.",
                )
            await self._apply(unit, rows, actor.login, reason, now)
            ids = [r["subject_id"] for r in rows]
            if rows[0]["verb"] == Verb.LEAVER:
                await unit.dockets.cancel_scheduled(ids, Verb.LEAVER, now)
            undoes = rows[0]["cause"].get("undoes")
            dockets = await unit.plans.confirm(
                batch_id, now=now, reference=reference, reason=reason, undoes=undoes
            )
            if undoes:
                await unit.decisions.end_of_docket(undoes, now)
            urgent = bool(rows[0]["cause"].get("urgent"))
            leaving = rows[0]["verb"] == Verb.LEAVER
            due = [d["subject_id"] for d in dockets if d["due_at"] <= now]
            await unit.leases.wake(due, priority=0 if urgent else 1 if leaving else 5)
            await unit.audit.add(
                [
                    make_event(
                        now,
                        actor.login,
                        "docket.confirmed",
                        r["subject_id"],
                        {
                            "verb": r["verb"],
                            "digest": r["digest"],
                            "reference": reference,
                            "reason": reason,
                            "due": r["due_at"].isoformat(),
                        },
                        r["id"],
                    )
                    for r in rows
                ]
            )
            if due:
                await unit.hint()
            return dockets

    async def _apply(
        self, unit: UnitOfWork, rows: Sequence[Row], author: str, reason: str, now: datetime
    ) -> None:
        """Record the causes that take effect now, and the successors that were named."""
        applied = [r for r in rows if r["cause"].get("applied") and r["cause"].get("changes")]
        await apply_changes(
            unit,
            {r["subject_id"]: (r["id"], r["cause"]["changes"], r["due_at"]) for r in applied},
            author,
            reason,
            now,
        )
        for row in rows:
            if heir := row["cause"].get("successor"):
                person = await unit.people.resolve(heir)
                decision = Decision(
                    id=str(uuid.uuid4()),
                    subject_id=row["subject_id"],
                    kind=DecisionKind.SUCCESSOR,
                    payload={"person": person.id},
                    author=author,
                    reason=reason,
                )
                await unit.decisions.put(decision, now, row["id"])


def make_plan(
    subject: Subject, world: World, at: datetime, verb: str, done: Sequence[DoneStep]
) -> Plan:
    """The plan of a verb; somebody who comes back gets back what the leaver docket took."""
    if verb == Verb.RETURNER and done:
        return with_account_ids(plan_return(subject, world, at, done))
    return with_account_ids(plan_subject(subject, world, at, verb))


def charge(world: World, plan: Plan) -> World:
    """The world with the plan's seats taken and freed, for the next plan of the same batch."""
    pools = dict(world.pools)
    for step in plan.steps:
        key = (step.application_id, step.item)
        if key in pools and step.action in (Action.TAKE_SEAT, Action.FREE_SEAT):
            pool = pools[key]
            if step.action is Action.FREE_SEAT:
                pools[key] = replace(pool, held=pool.held - 1)
            elif pool.free > 0:
                pools[key] = replace(pool, held=pool.held + 1)
            else:
                pools[key] = replace(pool, waiting=pool.waiting + 1)
    return replace(world, pools=pools)


async def apply_changes(
    unit: UnitOfWork,
    changes: Mapping[str, tuple[str, Mapping[str, Any], datetime]],
    author: str,
    reason: str,
    now: datetime,
) -> None:
    """Record facts about people: by person, the docket, the changed fields and since when."""
    if not changes:
        return
    people = await unit.people.many(list(changes))
    after: list[Person] = []
    facts = []
    for person_id, (docket_id, document, effective) in changes.items():
        before = people[person_id][0]
        person = changed(before, from_document(document))
        was, becomes = difference(before, person, {*document, "display_name"})
        after.append(person)
        facts.append(
            {
                "id": str(uuid.uuid4()),
                "person_id": person_id,
                "effective_at": effective,
                "known_at": now,
                "before": was,
                "after": becomes,
                "author": author,
                "reason": reason,
                "docket_id": docket_id,
            }
        )
    await unit.people.change(after)
    await unit.people.record(facts)


def batch_digest(rows: Sequence[Row]) -> str:
    """What a confirmation of a whole batch binds to."""
    text = "".join(sorted(f"{r['subject_id']}{r['digest']}{r['due_at'].isoformat()}" for r in rows))
    return hashlib.sha256(text.encode()).hexdigest()


async def _resolve_all(unit: UnitOfWork, who: Sequence[str]) -> dict[str, Person]:
    found: dict[str, Person] = {}
    by_id = await unit.people.many(who)
    for name in who:
        person = by_id[name][0] if name in by_id else await unit.people.resolve(name)
        if person.id in found:
            raise InvalidInput(f"{full_name(person)} is named twice.", place="who")
        found[person.id] = person
    return found


async def last_leaving(unit: UnitOfWork, verb: str, person_id: str) -> Sequence[DoneStep]:
    """What the leaver docket did, for somebody who comes back; nothing for other verbs."""
    if verb != Verb.RETURNER:
        return ()
    docket = await unit.dockets.latest(person_id, Verb.LEAVER)
    return await unit.dockets.done_steps(docket.id) if docket else ()


async def _taken_back(unit: UnitOfWork, docket: DocketRow, person: Person) -> Person:
    for fact in await unit.dockets.facts(docket.id):
        person = taken_back(person, fact["before"], fact["after"])
    return person


def _guard_done(request: PlanRequest, person: Person, plan: Plan, now: datetime) -> None:
    """A leaver of whom nothing is open any more needs no second docket."""
    left = state_at(person, now) is PersonState.LEFT
    if request.verb is Verb.LEAVER and left and not plan.steps and not plan.cautions:
        raise Conflict(
            f"{full_name(person)} has left already.",
            remedy=f"Look at what was done: yugum people show {person.user_name}.",
        )


def _cause(request: PlanRequest, intent: Intent, has_successor: bool) -> dict[str, Any]:
    cause: dict[str, Any] = {
        "changes": dict(intent.changes),
        "applied": intent.applied,
        "urgent": request.urgent,
    }
    if request.successor and has_successor:
        cause["successor"] = request.successor
    return cause


def _with_silence(plan: Plan, silent: Mapping[str, str], world: World) -> Plan:
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


def _plan_view(row: Row) -> dict[str, Any]:
    return {
        "id": row["id"],
        "person_id": row["subject_id"],
        "person_name": row["display_name"],
        "user_name": row["user_name"],
        "employee_number": row["employee_number"],
        "verb": row["verb"],
        "due_at": row["due_at"],
        "digest": row["digest"],
        "stale": row["stale"],
        "changes": row["cause"].get("changes", {}),
        "steps": [
            {
                **{
                    k: s[k]
                    for k in (
                        "application_id",
                        "account_id",
                        "phase",
                        "action",
                        "item",
                        "before",
                        "after",
                        "reason",
                    )
                },
                "irreversible": ACTIONS[Action(s["action"])].irreversible,
            }
            for s in row["steps"]
        ],
        **row["document"],
    }
