"""Confirming a batch of plans: dockets in one transaction, due now, on their day, or once agreed to."""

from __future__ import annotations

import uuid
from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import datetime

from yugum.core.approvals import afterwards
from yugum.core.causes import AccountCause, LeaverCause, UndoCause, title_of_cause
from yugum.core.decisions import Decision, DecisionKind, Payload
from yugum.core.dockets import Docket, DocketState
from yugum.core.documents import Json
from yugum.core.precautions import PRECAUTION
from yugum.core.roles import NoticeAt, Rules
from yugum.core.verbs import Measure, Verb
from yugum.engine.approvals import Approvals
from yugum.engine.asked import Waiting
from yugum.engine.changes import Change, apply_changes, end_over, put_decisions, take_back
from yugum.engine.context import load_rules
from yugum.engine.events import make_event
from yugum.engine.keepers import tell_keepers
from yugum.engine.mails import Told, notify
from yugum.engine.own import must_be_for_others
from yugum.engine.plans.kept import DATED_ANEW, batch_digest, batch_of, held_up_by
from yugum.engine.plans.safeguards import Actor, must_be_typed, overridden
from yugum.engine.standing import look_again
from yugum.errors import Conflict, PlanStale
from yugum.ports.approvals import Approval
from yugum.ports.plans import ConfirmedDocket, KeptPlan
from yugum.ports.services import Vault
from yugum.ports.units import UnitOfWork

CLOSING = (DecisionKind.SUSPEND, DecisionKind.DENY)
"""Decisions that end when somebody opens an account again."""


class Confirmation:
    """One confirmation of one batch, within one transaction."""

    def __init__(
        self,
        unit: UnitOfWork,
        approvals: Approvals,
        vault: Vault,
        actor: Actor,
        now: datetime,
        *,
        reference: str,
        reason: str,
    ) -> None:
        self._unit = unit
        self._approvals = approvals
        self._vault = vault
        self._actor = actor
        self._now = now
        self._reference = reference
        self._reason = reason

    async def confirm(
        self, batch_id: str, digest: str, *, typed: str, override: str
    ) -> Sequence[ConfirmedDocket]:
        """Make dockets of a batch; a second time the same ones are given again."""
        unit = self._unit
        await unit.plans.lock(batch_id)
        plans = await batch_of(unit, batch_id, self._actor, whole=False)
        if plans[0].confirmed is not None:
            return await unit.plans.confirmed(batch_id)
        _must_be_fresh(plans, digest)
        deciding = [p.subject_id for p in plans if p.verb is not Verb.RECHECK or p.cause.decisions]
        await must_be_for_others(unit, self._actor.login, deciding, "a confirmation", self._now)
        rules = await load_rules(unit)
        await must_be_typed(unit, plans, typed)
        passed = await overridden(unit, plans, override)
        held_up = _held_up(plans, rules)
        replaced = await self._replaced(plans)
        await self._apply([p for p in plans if p.id not in held_up or p.verb is Verb.LEAVER])
        dockets = await self._dockets(batch_id, plans[0])
        await self._of_file(plans)
        kept = {p.id: replaced[p.subject_id] for p in plans if p.subject_id in replaced}
        await unit.dockets.inherit({i: (d.reference, d.reason) for i, d in kept.items()})
        dockets = await self._wait_for(dockets, plans, held_up, rules)
        await self._tell(dockets, plans, held_up, rules)
        await self._secure(dockets, held_up)
        await self._look_at_shut(plans)
        await self._wake(dockets, plans[0])
        await self._note(plans, passed, override)
        return dockets

    async def _replaced(self, plans: Sequence[KeptPlan]) -> Mapping[str, Docket]:
        """The dockets of the same people that these take the place of, by person; they are cancelled.

        Who comes back, or stays on, does not leave any more.
        """
        unit, now, verb = self._unit, self._now, plans[0].verb
        ids = [p.subject_id for p in plans]
        replaced: Mapping[str, Docket] = {}
        if verb in DATED_ANEW:
            replaced = await unit.dockets.not_begun(ids, verb)
        gone = [d.id for d in replaced.values()]
        if verb in (Verb.RETURNER, Verb.EXTENSION):
            gone += [d.id for d in (await unit.dockets.not_begun(ids, Verb.LEAVER)).values()]
        if gone:
            await unit.dockets.drop(gone, now)
            for docket_id in gone:
                await take_back(unit, docket_id, now)
            await unit.approvals.withdraw(
                gone, self._actor.login, f"a later {verb.value} plan", now
            )
        return replaced

    async def _dockets(self, batch_id: str, first: KeptPlan) -> Sequence[ConfirmedDocket]:
        undoes = first.cause.undoes if isinstance(first.cause, UndoCause) else None
        dockets = await self._unit.plans.confirm(
            batch_id,
            now=self._now,
            reference=self._reference,
            reason=self._reason,
            undoes=undoes,
        )
        if undoes:
            await self._unit.decisions.end_of_docket(undoes, self._now)
        return dockets

    async def _apply(self, plans: Sequence[KeptPlan]) -> None:
        """Record the causes that take effect now, and the successors that were named."""
        unit, now = self._unit, self._now
        changes = {
            p.subject_id: Change(p.id, p.cause.changes, p.cause.came_true(p.due_at))
            for p in plans
            if p.cause.applied and p.cause.changes
        }
        await apply_changes(unit, changes, self._actor.login, self._reason, now)
        for plan in plans:
            await put_decisions(unit, plan.cause, plan.id, now)
            if isinstance(plan.cause, AccountCause):
                for application_id in plan.cause.ends:
                    await unit.decisions.end_of(plan.subject_id, application_id, CLOSING, now)
            await end_over(unit, plan.cause, now)
            if isinstance(plan.cause, LeaverCause) and plan.cause.successor:
                await self._name_successor(plan, plan.cause.successor, plan.cause.reason)

    async def _of_file(self, plans: Sequence[KeptPlan]) -> None:
        """The rows that say so are taken now, once and for all."""
        cause = plans[0].cause
        if isinstance(cause, LeaverCause) and cause.file:
            await self._unit.people_files.taken_for(cause.file, [p.subject_id for p in plans])

    async def _name_successor(self, plan: KeptPlan, who: str, reason: str) -> None:
        person = await self._unit.people.resolve(who)
        decision = Decision(
            id=str(uuid.uuid4()),
            subject_id=plan.subject_id,
            kind=DecisionKind.SUCCESSOR,
            payload=Payload(person=person.id),
            author=self._actor.login,
            reason=reason or self._reason,
        )
        await self._unit.decisions.put(decision, self._now, plan.id)

    async def _wait_for(
        self,
        dockets: Sequence[ConfirmedDocket],
        plans: Sequence[KeptPlan],
        held_up: Mapping[str, tuple[str, ...]],
        rules: Rules,
    ) -> Sequence[ConfirmedDocket]:
        """Ask for the approvals of new dockets; those wait, nothing of them has happened."""
        if not held_up:
            return dockets
        result = []
        for docket, waiting in await self._waiting(dockets, plans[0].batch_id):
            if names := held_up.get(docket.id):
                leaves = docket.verb is Verb.LEAVER
                await self._unit.dockets.put_off(docket.id, docket.verb, applied=leaves)
                asked = await self._approvals.ask(self._unit, waiting, names, rules, self._now)
                if not leaves:
                    _must_ask_somebody(asked)
                docket = replace(docket, state=DocketState.AWAITING)
            result.append(docket)
        return result

    async def _look_at_shut(self, plans: Sequence[KeptPlan]) -> None:
        """What is under way for who is suspended as a whole is left out, as a look does."""
        ids = [
            p.subject_id
            for p in plans
            if isinstance(p.cause, AccountCause) and p.cause.measure is Measure.SUSPEND
        ]
        if ids:
            author = self._actor.login
            await look_again(self._unit, ids, self._now, author, PRECAUTION, priority=1)

    async def _secure(
        self, dockets: Sequence[ConfirmedDocket], held_up: Mapping[str, tuple[str, ...]]
    ) -> None:
        """Who leaves is cut off at the moment it is due, whoever must agree to the rest."""
        now = self._now
        due = [
            d.subject_id
            for d in dockets
            if d.id in held_up and d.verb is Verb.LEAVER and d.due_at <= now
        ]
        if due:
            author = self._actor.login
            await look_again(self._unit, due, now, author, "access ends", priority=1)
            await self._unit.hint()

    async def _tell(
        self,
        dockets: Sequence[ConfirmedDocket],
        plans: Sequence[KeptPlan],
        held_up: Mapping[str, tuple[str, ...]],
        rules: Rules,
    ) -> None:
        """Notices, and whoever would have had to agree to what is urgent, which has begun."""
        quiet = {p.id for p in plans if p.cause.confidential}
        listed = [d for d in dockets if d.id not in held_up and d.id not in quiet]
        told = [Told.of(d) for d in listed]
        await notify(self._unit, told, NoticeAt.PLANNED, rules, self._vault, self._now)
        if plans[0].verb is Verb.LEAVER:
            people = await self._unit.people.many([d.subject_id for d in listed])
            named = await self._unit.mentions.of(list(people))
            leaving = {i: (one, named.get(i, ())) for i, (one, _) in people.items()}
            await tell_keepers(self._unit, leaving, self._now)
        names = afterwards(plans[0].verb, rules) if plans[0].cause.urgent else ()
        if names:
            for _, waiting in await self._waiting(listed, plans[0].batch_id):
                await self._approvals.ask(self._unit, waiting, names, rules, self._now, wait=False)

    async def _waiting(
        self, dockets: Sequence[ConfirmedDocket], batch_id: str
    ) -> list[tuple[ConfirmedDocket, Waiting]]:
        """What those who must agree are told of each docket."""
        people = await self._unit.people.many([d.subject_id for d in dockets])
        whole = {p.id: p for p in await self._unit.plans.batch(batch_id)}
        return [
            (
                d,
                Waiting(
                    docket_id=d.id,
                    verb=d.verb,
                    title=title_of_cause(d.verb, whole[d.id].cause),
                    person=people[d.subject_id][0],
                    author=self._actor.login,
                    reason=self._reason,
                    digest=whole[d.id].digest,
                    summary=" ".join(whole[d.id].notes.summary),
                    applications=frozenset(s.application_id for s in whole[d.id].steps),
                    about=whole[d.id].cause.about,
                ),
            )
            for d in dockets
        ]

    async def _wake(self, dockets: Sequence[ConfirmedDocket], first: KeptPlan) -> None:
        due = [
            d.subject_id
            for d in dockets
            if d.due_at <= self._now and d.state is DocketState.SCHEDULED
        ]
        leaving = first.verb is Verb.LEAVER
        priority = 0 if first.cause.urgent else 1 if leaving else 5
        await self._unit.leases.wake(due, priority=priority)
        if due:
            await self._unit.hint()

    async def _note(self, plans: Sequence[KeptPlan], passed: Sequence[str], override: str) -> None:
        events = []
        for plan in plans:
            payload: dict[str, Json] = {
                "verb": plan.verb.value,
                "digest": plan.digest,
                "reference": self._reference,
                "reason": self._reason,
                "due": plan.due_at.isoformat(),
            }
            if passed:
                payload |= {"overridden": list(passed), "because": override}
            events.append(
                make_event(
                    self._now,
                    self._actor.login,
                    "docket.confirmed",
                    plan.subject_id,
                    payload,
                    plan.id,
                )
            )
        await self._unit.audit.add(events)


def _must_ask_somebody(approvals: Sequence[Approval]) -> None:
    """A docket that waits for nobody would never begin."""
    for approval in approvals:
        if not approval.asked:
            raise Conflict(
                f"Nobody is there to agree to it ({approval.name}).",
                remedy="Add a second operator: yugum operators add LOGIN --role administrator.",
            )


def _must_be_fresh(plans: Sequence[KeptPlan], digest: str) -> None:
    if batch_digest(plans) != digest:
        raise PlanStale("The digest is not that of this plan.", remedy="Look at the plan again.")
    stale = [p.display_name for p in plans if p.stale]
    if stale:
        raise PlanStale(
            f"Since this plan was made, things have changed for {', '.join(stale[:5])}.",
            remedy="Make the plan again and look at it.",
        )


def _held_up(plans: Sequence[KeptPlan], rules: Rules) -> dict[str, tuple[str, ...]]:
    """The approvals that plans of a batch need, by plan."""
    found = {p.id: held_up_by(p.cause, rules) for p in plans}
    return {i: names for i, names in found.items() if names}
