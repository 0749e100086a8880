"""Beginning dockets: those whose inputs are unchanged start as planned, the others are planned anew."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import datetime

from yugum.core.approvals import PURGE, all_asked, needing, there_are
from yugum.core.causes import (
    AccountCause,
    Cause,
    CloseCause,
    CredentialCause,
    GroupCause,
    KeysCause,
    PurgeCause,
    RenameCause,
    RevertCause,
    UndoCause,
    UpdateCause,
    title_of_cause,
)
from yugum.core.closing import plan_close, plan_credential, plan_purge
from yugum.core.desired import Subject, World
from yugum.core.dockets import Docket
from yugum.core.groups import plan_group
from yugum.core.keys import plan_keys
from yugum.core.lines import NOTHING
from yugum.core.outlived import outlived
from yugum.core.people import Person, PersonState, state_at
from yugum.core.planning import plan_in_step
from yugum.core.plans import Caution, Plan
from yugum.core.precautions import plan_precaution
from yugum.core.quick import plan_quick
from yugum.core.roles import Rules
from yugum.core.standing import as_agreed, less
from yugum.core.successors import unfit
from yugum.core.undo import plan_undo
from yugum.core.verbs import Verb
from yugum.engine.approvals import Approvals
from yugum.engine.asked import Waiting
from yugum.engine.changes import TAKEN_BACK, Change, apply_changes, end_over, put_decisions
from yugum.engine.context import (
    Loaded,
    load_rules,
    load_subjects,
    load_world,
    observe_all,
    with_account_ids,
)
from yugum.engine.events import make_event
from yugum.engine.givers import givers_of
from yugum.engine.lapses import let_lapse
from yugum.engine.links import revert_of
from yugum.engine.mentions import look_for
from yugum.engine.operators import disable
from yugum.engine.plans.logins import restorable
from yugum.engine.plans.making import last_leaving, make_plan, without
from yugum.engine.plans.undo import as_before_undo, become, done_by, received
from yugum.engine.reports import hand_reports, reports_back
from yugum.engine.standing import look_again
from yugum.errors import Conflict
from yugum.ports.accounts import Known
from yugum.ports.clock import Clock
from yugum.ports.connectors import Connectors
from yugum.ports.units import Database, UnitOfWork

RETURNING = ("absence ends", *TAKEN_BACK)
JOINING = ("first day", "accounts are prepared")
QUIET = frozenset({Verb.RECHECK, Verb.CLOSE, Verb.PURGE, Verb.UPDATE})
"""Dockets nobody asked for: with nothing to do they are dropped."""


async def _cannot_take(unit: UnitOfWork, docket_ids: Sequence[str], now: datetime) -> set[str]:
    """The dockets that would hand over to somebody who cannot take over any more, though they could when it was planned."""
    found = await unit.dockets.receivers(docket_ids)
    people = await unit.people.many({person_id for _, person_id, _ in found})
    return {
        docket_id
        for docket_id, person_id, is_open in found
        if not is_open or person_id not in people or unfit(people[person_id][0], now)
    }


class Beginner:
    """Brings the due dockets of leased subjects to running."""

    def __init__(
        self,
        database: Database,
        connectors: Connectors,
        clock: Clock,
        actor: str,
        approvals: Approvals,
    ) -> None:
        self._approvals = approvals
        self._database = database
        self._connectors = connectors
        self._clock = clock
        self._actor = actor

    async def begin(self, unit: UnitOfWork, subject_ids: Sequence[str]) -> Sequence[Docket]:
        """Begin at most one due docket a subject; returns those that must be planned again first.

        Whatever waited for an approval is among these: it has no steps until then.
        """
        now = await self._clock.now(unit)
        due = await unit.dockets.due(subject_ids, now)
        # A look yields to what has begun since it was planned: it is always planned again.
        ready = [d.docket for d in due if not d.stale and d.docket.verb is not Verb.RECHECK]
        giving = [d.id for d in ready if d.verb in (Verb.LEAVER, Verb.CLOSE)]
        if giving and (over := await _cannot_take(unit, giving, now)):
            ready = [d for d in ready if d.id not in over]
        if ready:
            await self._start(unit, ready, now)
        begun = {d.id for d in ready}
        return [d.docket for d in due if d.docket.id not in begun]

    async def _start(self, unit: UnitOfWork, dockets: Sequence[Docket], now: datetime) -> None:
        ids = [d.id for d in dockets]
        if await unit.dockets.earlier(ids):
            asked = [d.id for d in dockets if d.verb is not Verb.RECHECK]
            lost = await unit.dockets.take_over(asked, now)
            if lost:  # the account that was to come back is gone: they should have another one
                await look_again(unit, sorted(lost), now, self._actor, "its window is over")
            # What others have left to do may not be due any more once this one is taken back.
            back = {d.subject_id for d in dockets if d.verb is Verb.UNDO} - set(lost)
            if back:
                await look_again(unit, sorted(back), now, self._actor, "an undo")
            if lost or back:
                await unit.hint()
            await unit.dockets.let_wait([d.subject_id for d in dockets], now)
        await unit.dockets.begin(ids, now)
        if leaving := [d for d in dockets if d.verb is Verb.LEAVER]:
            await self._end_operators(unit, [d.subject_id for d in leaving], now)
            await hand_reports(unit, leaving, self._actor, now)
        undone = {d.id: d.cause.undoes for d in dockets if isinstance(d.cause, UndoCause)}
        await reports_back(unit, undone, self._actor, now)
        await unit.audit.add(
            [
                make_event(
                    now, self._actor, "docket.begun", d.subject_id, {"verb": d.verb.value}, d.id
                )
                for d in dockets
            ]
        )

    async def _end_operators(
        self, unit: UnitOfWork, subject_ids: Sequence[str], now: datetime
    ) -> None:
        """Who leaves does not work with Yugum any more: every session and token ends.

        For their integrations the successor answers, or an administrator.
        """
        ended = await unit.operators.of_people(subject_ids)
        if not ended:
            return
        known = await unit.accounts.known([str(o.person_id) for o in ended])
        subjects = await load_subjects(unit, dict(known.people), known, now, await load_rules(unit))
        for one in ended:
            heir = subjects[str(one.person_id)].successor
            heirs = await unit.operators.of_people([heir.person.id] if heir else [])
            await disable(unit, [one], self._actor, self._approvals.vault, now, heirs)
        await unit.audit.add(
            [
                make_event(now, self._actor, "operator.ended", str(o.person_id), {"login": o.login})
                for o in ended
            ]
        )

    async def plan_again(self, dockets: Sequence[Docket]) -> None:
        """Plan from what is seen now, under the rules, decisions and holds of this day, and begin."""
        now = await self._clock.now()
        ids = [d.subject_id for d in dockets]
        async with self._database.unit() as unit:
            dockets = await self._applied(unit, dockets, now)
            known = await unit.accounts.known(ids)
        silent, _ = await observe_all(self._database, self._connectors, known, now)
        leaving = {i: p for i, p in known.people.items() if p.access_ends is not None}
        silent |= await look_for(
            self._database, self._connectors, replace(known, people=leaving), now
        )
        async with self._database.unit() as unit:
            world = await load_world(unit)
            known = await unit.accounts.known(ids)
            subjects = await load_subjects(unit, dict(known.people), known, now, world.rules)
            started, dropped = [], []
            looked = [d.subject_id for d in dockets if d.verb is Verb.RECHECK]
            if await let_lapse(unit, [subjects[i] for i in looked], silent, world, now):
                known = await unit.accounts.known(ids)
                subjects = await load_subjects(unit, dict(known.people), known, now, world.rules)
            hands = await unit.standing.hands(looked, now) if looked else {}
            for docket in dockets:
                subject = subjects[docket.subject_id]
                plan = await self._plan(unit, docket, subject, world, now)
                plan = await restorable(unit, plan, world)
                plan = without(plan, docket.cause.left_out, world)
                if docket.verb is Verb.RECHECK:
                    state = state_at(subject.person, now)
                    hand = hands.get(docket.subject_id, NOTHING)
                    plan = as_agreed(plan, hand, state, world)
                    over = outlived(subject, world, hand.steps, now)
                    plan, gone = less(plan, hand.steps, over, world)
                    if gone:
                        await unit.dockets.leave_out(gone, "It is not due any more.", now)
                if not plan.steps and docket.verb in QUIET:
                    dropped.append(docket)
                elif not await self._must_ask(unit, docket, plan, world.rules, known, now):
                    await self._made_anew(unit, docket, plan, Loaded(known, world.rules.version))
                    if docket.verb is Verb.RECHECK and docket.cause.basis:  # nobody asked for it
                        verb = _verb_of(subject.person, docket.cause, now)
                        await unit.dockets.note_cause(docket.id, docket.cause, verb)
                    started.append(docket)
            if dropped:
                await unit.dockets.drop([d.id for d in dropped], now)
            if started:
                await self._start(unit, started, now)

    async def _applied(
        self, unit: UnitOfWork, dockets: Sequence[Docket], now: datetime
    ) -> Sequence[Docket]:
        """The dockets with the changes and decisions that come with them stored."""
        late = [d for d in dockets if d.cause.changes and not d.cause.applied]
        together: dict[tuple[str, str], dict[str, Change]] = {}
        for docket in late:
            moment = docket.cause.came_true(docket.due_at)
            change = Change(docket.id, docket.cause.changes, moment)
            said = together.setdefault((docket.author, docket.reason), {})
            said[docket.subject_id] = change
        for (author, reason), changes in together.items():
            await apply_changes(unit, changes, author, reason, now)
        for docket in dockets:
            await put_decisions(unit, docket.cause, docket.id, now)
            await end_over(unit, docket.cause, now)
        applied = {d.id: replace(d, cause=replace(d.cause, applied=True)) for d in late}
        for docket in applied.values():
            await unit.dockets.note_cause(docket.id, docket.cause, docket.verb)
        return [applied.get(d.id, d) for d in dockets]

    async def _made_anew(
        self, unit: UnitOfWork, docket: Docket, plan: Plan, loaded: Loaded
    ) -> None:
        inputs = loaded.inputs(docket.subject_id)
        await unit.dockets.replace_steps(docket.id, plan.steps, plan.notes, inputs, plan.digest)

    async def _must_ask(
        self,
        unit: UnitOfWork,
        docket: Docket,
        plan: Plan,
        rules: Rules,
        known: Known,
        now: datetime,
    ) -> bool:
        """Whether somebody must agree first; then they are asked.

        An approved plan that now gives more is asked about again; a docket that nobody asked for
        (a date has come, rules have changed) needs what was not agreed to for this person before, or
        was and has been taken away since.
        """
        begins = docket.verb is Verb.RECHECK and docket.cause.basis in JOINING
        about = needing(Verb.JOINER if begins else docket.verb, plan.steps, rules)
        names = there_are(about, rules)
        if not names:
            return False
        lead = "Nobody has agreed to this yet."
        if docket.cause.approval:
            agreed = all_asked(await unit.plans.steps_of(docket.id), rules)
            if agreed >= all_asked(plan.steps, rules):
                return False
            await unit.plans.keep_steps(docket.id, plan.steps, plan.digest)
            lead = "It has grown since it was approved."
        elif docket.verb is Verb.RECHECK:
            given = await unit.approvals.given_for(docket.subject_id)
            names = tuple(n for n in names if not given.get(n, frozenset()).issuperset(about[n]))
            if not names:
                return False
        elif PURGE in names:  # its application deletes for good by now
            names = (PURGE,)
            await unit.plans.keep_steps(docket.id, plan.steps, plan.digest)
            cause = replace(docket.cause, approval=True, needs=names)
            await unit.dockets.note_cause(docket.id, cause, docket.verb)
            lead = "Since it was confirmed it has become final."
        else:
            return False
        waiting = Waiting(
            docket_id=docket.id,
            verb=docket.verb,
            title=title_of_cause(docket.verb, docket.cause),
            person=known.people[docket.subject_id],
            author=docket.author,
            reason=docket.reason,
            digest=plan.digest,
            summary=" ".join((lead, *plan.summary)),
            applications=frozenset(s.application_id for s in plan.steps),
            about=about,
        )
        await self._approvals.ask(unit, waiting, names, rules, now)
        return True

    async def _plan(
        self, unit: UnitOfWork, docket: Docket, subject: Subject, world: World, now: datetime
    ) -> Plan:
        accounts = {a.id: a for a in subject.accounts}
        givers = await givers_of(unit, world, subject.accounts, now)
        match docket.cause:
            case PurgeCause(account=id_) if id_ in accounts:
                return plan_purge(subject, world, accounts[id_], now)
            case CloseCause(account=id_) if id_ in accounts:
                return plan_close(subject, world, accounts[id_], now)
            case GroupCause(account=id_, settings=settings, name=name) if id_ in accounts:
                return plan_group(subject, world, accounts[id_], settings, now, givers, name)
            case UpdateCause():
                return plan_in_step(subject, world, now)
            case RevertCause(deviation=deviation):
                return revert_of(subject, world, now, await unit.deviations.one(deviation))
            case AccountCause(measure=measure) if measure is not None:
                return plan_precaution(subject, world, measure, now)
            case AccountCause(action=action, accounts=ids, duties=duties):
                chosen = [a for a in subject.accounts if a.id in ids]
                try:
                    return plan_quick(subject, world, chosen, action, now, givers, duties)
                except Conflict as error:  # things have changed since it was asked for
                    caution = Caution(error.code, error.message, action.value)
                    return Plan(
                        subject_id=docket.subject_id,
                        verb=docket.verb,
                        steps=(),
                        cautions=(caution,),
                    )
            case CredentialCause(account=id_, sealed=sealed, typed=typed) if id_ in accounts:
                return plan_credential(subject, world, accounts[id_], now, sealed, typed=typed)
            case KeysCause(account=id_, until=until, places=places) if id_ in accounts:
                return plan_keys(subject, world, accounts[id_], now, until, places)
            case UndoCause(undoes=undone):
                done = await done_by(unit, await unit.dockets.by_name(undone), docket.id)
                as_now = await as_before_undo(unit, docket, undone, subject)
                still = await received(unit, done)
                since = await become(unit, docket.subject_id, undone)
                plan = plan_undo(subject, world, now, done, as_now, still, since)
                return with_account_ids(plan)
        done = await last_leaving(unit, docket.verb, docket.subject_id, docket.id)
        before = docket.cause.renamed_from if isinstance(docket.cause, RenameCause) else ""
        still = await received(unit, done)
        return make_plan(subject, world, now, docket.verb, done, renamed_from=before, still=still)


def _verb_of(person: Person, cause: Cause, now: datetime) -> Verb:
    """What a look turned out to be: a date of somebody's has come, or a second look and nothing else."""
    state = state_at(person, now)
    if cause.basis in JOINING and state is not PersonState.LEFT:
        return Verb.JOINER
    if state is PersonState.LEFT and cause.basis == "access ends":
        return Verb.LEAVER
    if state is PersonState.ABSENT and cause.basis == "absence begins":
        return Verb.ABSENCE
    if state is PersonState.ACTIVE and cause.basis in RETURNING:
        return Verb.RETURNER
    return Verb.RECHECK
