"""Whose account is whose, and what to do about changes made outside: keep or revert."""

from __future__ import annotations

import uuid
from dataclasses import dataclass
from datetime import datetime

from yugum.core.accounts import AccountKind, HoldingKind
from yugum.core.causes import RevertCause
from yugum.core.decisions import Decision, DecisionKind, OriginKind, Payload
from yugum.core.desired import Subject, World
from yugum.core.deviations import NOT_HELD, DeviationKind, DeviationState
from yugum.core.documents import Document
from yugum.core.drafts import Draft
from yugum.core.plans import Plan
from yugum.core.reverts import plan_revert
from yugum.core.verbs import Verb
from yugum.engine.at_once import Asked, start_at_once
from yugum.engine.events import make_event
from yugum.engine.linking import adopt_linked
from yugum.engine.own import must_be_for_others
from yugum.engine.standing import look_again
from yugum.errors import Conflict
from yugum.ports.clock import Clock
from yugum.ports.deviations import DeviationLine, SeenDeviation
from yugum.ports.pages import ListPage
from yugum.ports.proposals import ProposalLine
from yugum.ports.units import Database, UnitOfWork


@dataclass(frozen=True, slots=True)
class Linked:
    """Whose an account is now; nobody's without a person."""

    account_id: str
    person_id: str | None


@dataclass(frozen=True, slots=True)
class DeviationDecision:
    """What was decided about a change made outside; ``docket`` is the number of its revert."""

    id: str
    state: DeviationState
    docket: int | None


def revert_of(subject: Subject, world: World, at: datetime, found: SeenDeviation) -> Plan:
    """The plan that puts back one change made outside."""
    draft = Draft(subject, world, at)
    account = next((a for a in subject.accounts if a.id == found.account_id), None)
    if account is None:
        raise Conflict("The account is somebody else's by now.", remedy="Read it again.")
    plan_revert(draft, world.applications[found.application_id], account, found.change)
    return draft.finish(Verb.REVERT)


class Links:
    def __init__(self, database: Database, clock: Clock) -> None:
        self._database = database
        self._clock = clock

    async def proposals(self, cursor: str | None, limit: int) -> ListPage[ProposalLine]:
        async with self._database.unit(alone=True) as unit:
            return await unit.proposals.page(cursor, limit)

    async def deviations(
        self, application_id: str, state: DeviationState | None, cursor: str | None, limit: int
    ) -> ListPage[DeviationLine]:
        async with self._database.unit(alone=True) as unit:
            return await unit.deviations.page(application_id, state, cursor, limit)

    async def link(
        self, account_id: str, who: str, kind: AccountKind | None, author: str
    ) -> Linked:
        """Say who is behind an account (nobody, when ``who`` is empty) and of what kind it is."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            account = await unit.accounts.get(account_id)
            if AccountKind.GROUP in (kind, account.kind):
                raise Conflict(
                    "A group is nobody's account, and no account becomes one.",
                    place="kind",
                    remedy="Its owner is changed by: yugum groups change.",
                )
            person = await unit.people.resolve(who) if who else None
            person_id = person.id if person else None
            concerned = {i for i in (account.person_id, person_id) if i}
            await must_be_for_others(unit, author, concerned, "whose an account is", now)
            await unit.proposals.decide(account_id, person_id, author)
            if kind is not None:
                await unit.accounts.be_of_kind(account_id, kind)
            await adopt_linked(unit, [account_id], now)
            await unit.seats.reconcile(account.application_id, now)
            begun = await unit.dockets.begun([person_id]) if person_id else ()
            if any(s.application_id == account.application_id for s in begun):
                # What was stuck for want of this account goes on.
                await look_again(unit, [str(person_id)], now, author, "an account was linked")
                await unit.hint()
            payload: Document = {"account": account_id, "from": account.person_id, "to": person_id}
            await unit.audit.add(
                [make_event(now, author, "account.linked", person_id or account_id, payload)]
            )
            return Linked(account_id, person_id)

    async def keep(self, deviation_id: str, author: str) -> DeviationDecision:
        """Take a change made outside as right: no rule and no reading takes it back."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            found = await unit.deviations.one(deviation_id)
            await unit.deviations.settle(deviation_id, DeviationState.KEPT, author, None)
            account = await unit.accounts.get(found.account_id)
            concerned = [account.person_id] if account.person_id else []
            await must_be_for_others(unit, author, concerned, "a change made outside", now)
            if found.change.kind is DeviationKind.ATTRIBUTE and account.person_id:
                payload = Payload(
                    application=found.application_id,
                    kind=HoldingKind.SETTING,
                    item=found.change.item,
                    value=found.change.now_is,
                )
                how = DecisionKind.GRANT
                await self._except(unit, how, payload, account.person_id, author, now)
            elif found.change.now_is == NOT_HELD and account.person_id:
                kind = HoldingKind(found.change.kind.value)
                origins = (await unit.accounts.known([account.person_id])).ledger
                origin = origins.get((account.id, kind, found.change.item))
                if origin is not None and origin.kind is OriginKind.ROLE:
                    payload = Payload(
                        application=found.application_id, kind=kind, item=found.change.item
                    )
                    how = DecisionKind.DENY
                    await self._except(unit, how, payload, account.person_id, author, now)
            await unit.audit.add(
                [make_event(now, author, "deviation.kept", account.id, _told(found))]
            )
            return DeviationDecision(deviation_id, DeviationState.KEPT, None)

    async def _except(
        self,
        unit: UnitOfWork,
        kind: DecisionKind,
        payload: Payload,
        person_id: str,
        author: str,
        now: datetime,
    ) -> None:
        """The rules would have it otherwise: an exception says that it stays so."""
        decision = Decision(
            id=str(uuid.uuid4()),
            subject_id=person_id,
            kind=kind,
            payload=payload,
            author=author,
            reason="changed outside Yugum, and kept so",
        )
        await unit.decisions.put(decision, now, None)

    async def revert(self, deviation_id: str, author: str, reference: str) -> DeviationDecision:
        """Put a change made outside back, as a docket of its own that starts at once.

        Raises:
            Conflict: there is no way back, or Yugum may not change this application.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            found = await unit.deviations.one(deviation_id)
            asked = Asked(
                verb=Verb.REVERT,
                cause=RevertCause(deviation=deviation_id),
                author=author,
                reason="changed outside",
                reference=reference,
                priority=5,
                nothing="Nothing is to be put back.",
                remedy="Trust the application further: yugum apps trust ID full.",
            )
            docket = await start_at_once(
                unit,
                found.account_id,
                asked,
                lambda subject, world, _: revert_of(subject, world, now, found),
                now,
            )
            await unit.deviations.settle(deviation_id, DeviationState.REVERTED, author, docket.id)
            event = make_event(
                now, author, "deviation.reverted", docket.subject_id, _told(found), docket.id
            )
            await unit.audit.add([event])
            return DeviationDecision(deviation_id, DeviationState.REVERTED, docket.number)


def _told(found: SeenDeviation) -> Document:
    """What the audit log says of a change made outside."""
    change = found.change
    return {
        "application_id": found.application_id,
        "kind": change.kind.value,
        "item": change.item,
        "was": change.was,
        "now_is": change.now_is,
    }
