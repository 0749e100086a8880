"""Planning for operators: a preview that is kept, and its confirmation into dockets."""

from __future__ import annotations

import hashlib
import uuid
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from datetime import datetime, timedelta
from typing import Any

from yugum.core.actions import ACTIONS, Action
from yugum.core.decisions import Decision, DecisionKind, decision_document
from yugum.core.desired import Subject, World
from yugum.core.dockets import Verb
from yugum.core.facts import difference, taken_back
from yugum.core.guards import PREFIX, Surroundings, guard_leaver
from yugum.core.people import Person, PersonState, full_name, state_at
from yugum.core.plans import Caution, Plan, PlannedStep
from yugum.core.quick import KEPT, Quick, plan_quick
from yugum.core.renames import aliases
from yugum.core.roles import Rules
from yugum.core.undo import plan_undo
from yugum.core.veils import former_names
from yugum.engine.approvals import Approvals, Waiting, afterwards, needed
from yugum.engine.context import (
    Loaded,
    load_rules,
    load_subjects,
    load_world,
    observe_all,
    plan_document,
    step_documents,
    with_account_ids,
)
from yugum.engine.events import make_event
from yugum.engine.mails import notify
from yugum.engine.planning import (
    apply_changes,
    charge,
    effective_of,
    first_due,
    kept_by,
    last_leaving,
    make_plan,
    overlaps,
    put_decisions,
    told_of_later,
    without,
)
from yugum.engine.requests import Intent, PlanRequest, intend
from yugum.errors import Conflict, InvalidInput, NotFound, PlanStale
from yugum.ports import Clock, Connectors, Database, DocketRow, Draft, Row, UnitOfWork, Vault

LIMIT = 500
"""People in one request."""


@dataclass(frozen=True, slots=True)
class Actor:
    """Who asks: an operator's login, and the person the operator is, if one."""

    login: str
    person_id: str | None = None


PURGE = "purge"
"""The approval that every purge asked for needs: a second operator's."""


class Plans:
    """Prepares and confirms plans."""

    def __init__(
        self,
        database: Database,
        connectors: Connectors,
        clock: Clock,
        vault: Vault,
        approvals: Approvals,
    ) -> None:
        self._vault = vault
        self._approvals = approvals
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
        if request.verb is Verb.ACCOUNT:
            return await self._prepare_accounts(request, actor, now)
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
            coming: dict[str, tuple[PlannedStep, ...]] = {}
            intents = {
                i: self._settled(request, people[i], intent, subjects[i], world, actor, now)
                for i, intent in intents.items()
            }
            around = await _around(unit, request, subjects, world, now)
            for person_id in people:
                intent = intents[person_id]
                done = await last_leaving(unit, request.verb, person_id)
                subject = subjects[person_id]
                subject = replace(subject, decisions=(*subject.decisions, *intent.decisions))
                plan = make_plan(
                    subject,
                    world,
                    max(intent.due, now),
                    request.verb,
                    done,
                    renamed_from=intent.renamed_from,
                )
                plan, later = told_of_later(plan, subject, world, intent.due)
                plan = without(_guarded(plan, subject, world, around), request.left_out)
                coming[person_id] = later
                _guard_done(request, people[person_id], plan, now)
                world = charge(world, plan)
                plans[person_id] = _with_silence(plan, silent, world)
            causes = {
                i: {
                    **_cause(request, intents[i], subjects[i].successor is not None),
                    "needs": needed(request.verb, (*plans[i].steps, *coming[i]), world.rules),
                }
                for i in people
            }
            return await self._keep(unit, plans, causes, intents, loaded, actor, now)

    def _settled(
        self,
        request: PlanRequest,
        before: Person,
        intent: Intent,
        subject: Subject,
        world: World,
        actor: Actor,
        now: datetime,
    ) -> Intent:
        """The intent with what the rules make of it: its day, and decisions that come with it."""
        rules, person = world.rules, intent.after
        match request.verb:
            case Verb.JOINER:
                return replace(intent, due=first_due(subject, world, intent.due, now))
            case Verb.MOVER:
                made = overlaps(
                    before, person, rules, intent.due, request.overlap_days, actor.login
                )
                return replace(intent, decisions=tuple(made))
            case Verb.RENAME:
                veil = _veil(before, person, actor.login) if request.sensitive else ()
                if intent.renamed_from == person.user_name:
                    return replace(intent, decisions=veil)
                mine = {a.application_id: str(uuid.uuid4()) for a in subject.accounts}
                days = rules.procedure(Verb.RENAME).alias_days
                made = aliases(
                    person.id,
                    mine,
                    world.applications,
                    before.user_name,
                    days,
                    intent.due,
                    actor.login,
                )
                return replace(intent, decisions=(*veil, *made))
            case Verb.EXTENSION:
                longest = rules.procedure(Verb.EXTENSION).longest_days
                if longest and person.access_ends and person.access_ends > now + timedelta(longest):
                    raise InvalidInput(
                        f"A term goes on for at most {longest} days from today.",
                        place="until",
                        remedy="Name an earlier day, or change the rules.",
                    )
        return intent

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
        return await self._view(unit, batch, actor)

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

    async def _prepare_accounts(self, request: PlanRequest, actor: Actor, now: datetime) -> Row:
        """One action on some accounts, a plan for each person (or account that is nobody's)."""
        if not request.accounts or not request.action:
            raise InvalidInput("Name accounts and an action.", place="accounts")
        what = Quick(request.action)
        async with self._database.unit() as unit:
            chosen = await unit.accounts.some(request.accounts)
            missing = sorted(set(request.accounts) - set(chosen))
            if missing:
                raise NotFound(f"There is no account {missing[0]}.", place="accounts")
            subject_ids = sorted({a.person_id or a.id for a in chosen.values()})
            await unit.leases.make_subjects(subject_ids)
            known = await unit.accounts.known(subject_ids)
        silent, _ = await observe_all(self._database, self._connectors, known, now)
        async with self._database.unit() as unit:
            world = await load_world(unit)
            known = await unit.accounts.known(subject_ids)
            subjects = await load_subjects(unit, dict(known.people), known, now, request.successor)
            plans, causes, intents = {}, {}, {}
            for subject_id in subject_ids:
                subject = subjects[subject_id]
                mine = [a for a in subject.accounts if a.id in chosen]
                plan = without(plan_quick(subject, world, mine, what, now), request.left_out)
                world = charge(world, plan)
                plans[subject_id] = _with_silence(plan, silent, world)
                causes[subject_id] = {
                    "changes": {},
                    "applied": True,
                    "action": what.value,
                    "accounts": [a.id for a in mine],
                    "left_out": dict(request.left_out),
                    "decisions": [
                        decision_document(d) for d in kept_by(what, subject, mine, actor.login)
                    ],
                    "ends": [] if what in KEPT else [a.application_id for a in mine],
                    "needs": [PURGE] if what is Quick.PURGE else [],
                }
                intents[subject_id] = Intent(subject.person, now, {}, True)
            loaded = Loaded(known, world.rules.version)
            return await self._keep(unit, plans, causes, intents, loaded, actor, now)

    async def prepared(self, actor: Actor) -> Sequence[Row]:
        """What an operator keeps in confidence and has not carried out."""
        async with self._database.unit() as unit:
            return await unit.plans.prepared(actor.login)

    async def fire(
        self, batch_id: str, actor: Actor, *, reference: str, reason: str
    ) -> Sequence[Row]:
        """Carry out at once what was prepared in confidence, planned again from what is now."""
        async with self._database.unit() as unit:
            rows = await self._batch(unit, batch_id, actor)
            if rows[0]["confirmed"] is not None:
                return [await unit.dockets.one(r["id"]) for r in rows[:50]]
            asked = dict(rows[0]["cause"].get("request") or {})
        if not asked:
            raise Conflict("Only what was prepared in confidence is fired.", remedy="Confirm it.")
        request = PlanRequest(**{**asked, "verb": Verb(asked["verb"])})
        view = await self.prepare(request, actor)
        made = await self.confirm(
            view["id"], view["digest"], actor, reference=reference, reason=reason, override=reason
        )
        async with self._database.unit() as unit:
            await unit.plans.forget(batch_id)
        return made

    async def show(self, batch_id: str, actor: Actor) -> Row:
        async with self._database.unit() as unit:
            return await self._view(unit, batch_id, actor)

    async def _batch(
        self, unit: UnitOfWork, batch_id: str, actor: Actor, *, whole: bool = True
    ) -> Sequence[Row]:
        """A batch's plans; one kept in confidence is not there for anybody but its author."""
        rows = await unit.plans.batch(batch_id, whole=whole)
        hidden = rows and rows[0]["cause"].get("confidential") and rows[0]["confirmed"] is None
        if not rows or (hidden and rows[0]["author"] != actor.login):
            raise NotFound(f"There is no plan {batch_id}.", remedy="Make a new one.")
        return rows

    async def _view(self, unit: UnitOfWork, batch_id: str, actor: Actor) -> Row:
        rows = await self._batch(unit, batch_id, actor)
        return {
            "id": batch_id,
            "digest": batch_digest(rows),
            "verb": rows[0]["verb"],
            "confirmed": rows[0]["confirmed"] is not None,
            "applications": {a.id: a.name for a in (await unit.applications.all()).values()},
            "plans": [_plan_view(r) for r in rows],
        }

    async def confirm(
        self,
        batch_id: str,
        digest: str,
        actor: Actor,
        *,
        reference: str,
        reason: str,
        typed: str = "",
        override: str = "",
    ) -> Sequence[Row]:
        """Make dockets of a batch whose digest is ``digest``, in one transaction.

        Confirming a second time returns the same dockets. A purge is confirmed by typing what is
        purged, a guard that can be overridden by saying why.

        Raises:
            PlanStale: what the plan was made from has changed; make it again.
            Conflict: a guard forbids it, or the purge was not confirmed by typing.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            await unit.plans.lock(batch_id)
            rows = await self._batch(unit, batch_id, actor, whole=False)
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
            ids = [r["subject_id"] for r in rows]
            rules = await load_rules(unit)
            _must_be_typed(rows, typed)
            overridden = await _overridden(unit, rows, override)
            held_up = self._approvals_of(rows, rules)
            free = [r for r in rows if r["id"] not in held_up]
            await self._apply(unit, free, actor.login, reason, now)
            if rows[0]["verb"] in (Verb.LEAVER, Verb.JOINER):
                await unit.dockets.cancel_scheduled(ids, rows[0]["verb"], now)
            undoes = rows[0]["cause"].get("undoes")
            dockets = await unit.plans.confirm(
                batch_id, now=now, reference=reference, reason=reason, undoes=undoes
            )
            if undoes:
                await unit.decisions.end_of_docket(undoes, now)
            urgent = bool(rows[0]["cause"].get("urgent"))
            leaving = rows[0]["verb"] == Verb.LEAVER
            dockets = await self._wait_for(unit, dockets, rows, held_up, rules, actor, reason, now)
            due = [
                d["subject_id"] for d in dockets if d["due_at"] <= now and d["state"] == "scheduled"
            ]
            quiet = {r["id"] for r in rows if r["cause"].get("confidential")}
            listed = [d for d in dockets if d["id"] not in held_up and d["id"] not in quiet]
            await notify(unit, listed, "planned", rules, self._vault, now)
            if urgent and (names := afterwards(rows[0]["verb"], rules)):
                await self._ask_afterwards(unit, listed, rows, names, rules, actor, reason, now)
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
                            **(
                                {"overridden": overridden, "because": override}
                                if overridden
                                else {}
                            ),
                        },
                        r["id"],
                    )
                    for r in rows
                ]
            )
            if due:
                await unit.hint()
            return dockets

    def _approvals_of(self, rows: Sequence[Row], rules: Rules) -> dict[str, tuple[str, ...]]:
        """The approvals that plans of a batch need, by plan. An urgent leaver waits for nobody."""
        if rows[0]["cause"].get("urgent"):
            return {}
        known = {*rules.approvals, PURGE}
        found = {r["id"]: tuple(n for n in r["cause"].get("needs", ()) if n in known) for r in rows}
        return {i: names for i, names in found.items() if names}

    async def _ask_afterwards(
        self,
        unit: UnitOfWork,
        dockets: Sequence[Row],
        rows: Sequence[Row],
        names: Sequence[str],
        rules: Rules,
        actor: Actor,
        reason: str,
        now: datetime,
    ) -> None:
        """Urgent dockets have begun; who would have had to agree is asked now."""
        people = await unit.people.many([d["subject_id"] for d in dockets])
        whole = {r["id"]: r for r in await unit.plans.batch(rows[0]["batch_id"])}
        for docket in dockets:
            person = people[docket["subject_id"]][0]
            waiting = _waiting(docket, whole[docket["id"]], person, actor.login, reason)
            await self._approvals.ask(unit, waiting, names, rules, now, wait=False)

    async def _wait_for(
        self,
        unit: UnitOfWork,
        dockets: Sequence[Row],
        rows: Sequence[Row],
        held_up: Mapping[str, tuple[str, ...]],
        rules: Rules,
        actor: Actor,
        reason: str,
        now: datetime,
    ) -> Sequence[Row]:
        """Ask for the approvals of new dockets; those wait, nothing of them has happened."""
        if not held_up:
            return dockets
        people = await unit.people.many([r["subject_id"] for r in rows])
        whole = {r["id"]: r for r in await unit.plans.batch(rows[0]["batch_id"])}
        result = []
        for docket in dockets:
            if names := held_up.get(docket["id"]):
                await unit.dockets.put_off(docket["id"], docket["verb"])
                person = people[docket["subject_id"]][0]
                waiting = _waiting(docket, whole[docket["id"]], person, actor.login, reason)
                await self._approvals.ask(unit, waiting, names, rules, now)
                docket = {**docket, "state": "awaiting"}
            result.append(docket)
        return result

    async def _apply(
        self, unit: UnitOfWork, rows: Sequence[Row], author: str, reason: str, now: datetime
    ) -> None:
        """Record the causes that take effect now, and the successors that were named."""
        applied = [r for r in rows if r["cause"].get("applied") and r["cause"].get("changes")]
        await apply_changes(
            unit,
            {
                r["subject_id"]: (
                    r["id"],
                    r["cause"]["changes"],
                    effective_of(r["cause"], r["due_at"]),
                )
                for r in applied
            },
            author,
            reason,
            now,
        )
        for row in rows:
            await put_decisions(unit, row["cause"], row["id"], now)
            for application_id in row["cause"].get("ends", ()):
                await unit.decisions.end_of(
                    row["subject_id"], application_id, ("suspend", "deny"), now
                )
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


async def _resolve_all(unit: UnitOfWork, who: Sequence[str]) -> dict[str, Person]:
    found: dict[str, Person] = {}
    by_id = await unit.people.many(who)
    for name in who:
        person = by_id[name][0] if name in by_id else await unit.people.resolve(name)
        if person.id in found:
            raise InvalidInput(f"{full_name(person)} is named twice.", place="who")
        found[person.id] = person
    return found


async def _taken_back(unit: UnitOfWork, docket: DocketRow, person: Person) -> Person:
    for fact in await unit.dockets.facts(docket.id):
        person = taken_back(person, fact["before"], fact["after"])
    return person


def _guard_done(request: PlanRequest, person: Person, plan: Plan, now: datetime) -> None:
    """A leaver of whom nothing is open any more needs no second docket.

    Something is open when a caution holds a step back; what is merely told is not.
    """
    left = state_at(person, now) is PersonState.LEFT
    held_back = any(c.blocks for c in plan.cautions)
    if request.verb is Verb.LEAVER and left and not plan.steps and not held_back:
        raise Conflict(
            f"{full_name(person)} has left already.",
            remedy=f"Look at what was done: yugum people show {person.user_name}.",
        )


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
            payload={"names": names},
            author=author,
            reason="the former name is nobody's business",
        ),
    )


def _cause(request: PlanRequest, intent: Intent, has_successor: bool) -> dict[str, Any]:
    cause: dict[str, Any] = {
        "changes": dict(intent.changes),
        "applied": intent.applied,
        "urgent": request.urgent,
    }
    if intent.effective:
        cause["effective"] = intent.effective.isoformat()
    if intent.renamed_from:
        cause["renamed_from"] = intent.renamed_from
    if intent.decisions:
        cause["decisions"] = [decision_document(d) for d in intent.decisions]
    if request.left_out:
        cause["left_out"] = dict(request.left_out)
    if request.confidential:
        cause["confidential"] = True
        cause["request"] = {k: v for k, v in asdict(request).items() if v}
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


def batch_digest(rows: Sequence[Row]) -> str:
    """What a confirmation of a whole batch binds to."""
    text = "".join(sorted(f"{r['subject_id']}{r['digest']}{r['due_at'].isoformat()}" for r in rows))
    return hashlib.sha256(text.encode()).hexdigest()


def _waiting(docket: Row, plan: Row, person: Person, author: str, reason: str) -> Waiting:
    """What those who must agree are told of a docket."""
    return Waiting(
        docket_id=docket["id"],
        number=str(docket["number"]),
        verb=docket["verb"],
        person=person,
        author=author,
        reason=reason,
        digest=plan["digest"],
        summary=" ".join(plan["document"].get("summary", ())),
        applications=frozenset(s["application_id"] for s in plan["steps"]),
    )


async def _around(
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
    return Surroundings(reports=reports, alike=alike, others=others, knows=knows)


def _guarded(plan: Plan, subject: Subject, world: World, around: Surroundings | None) -> Plan:
    if around is None:
        return plan
    return replace(plan, cautions=(*guard_leaver(subject, world, around), *plan.cautions))


def _must_be_typed(rows: Sequence[Row], typed: str) -> None:
    """A purge cannot be put back: whoever confirms it types what goes."""
    if rows[0]["cause"].get("action") != Quick.PURGE:
        return
    count = sum(len(r["cause"]["accounts"]) for r in rows)
    wanted = {f"purge {count}"} | ({str(rows[0]["user_name"])} if count == 1 else set())
    if typed.strip() not in wanted:
        raise Conflict(
            "A purge cannot be put back.",
            place="typed",
            remedy=f"Type '{max(wanted, key=len)}' to confirm it.",
        )


async def _overridden(unit: UnitOfWork, rows: Sequence[Row], override: str) -> list[str]:
    """The guards that are overridden with a reason; refused where that is not allowed."""
    if rows[0]["verb"] != Verb.LEAVER:
        return []
    passed = []
    for caution in await unit.plans.blocked_by(rows[0]["batch_id"]):
        if caution["blocks"] == "block" or not override.strip():
            how = "The rules let nobody override this."
            if caution["blocks"] == "override":
                how = "Say why it is right all the same: --override REASON."
            raise Conflict(caution["text"], place="override", remedy=how)
        passed.append(caution["code"].removeprefix(PREFIX))
    return passed
