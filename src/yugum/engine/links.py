"""Whose account is whose, and what to do about changes made outside: keep or revert."""

from __future__ import annotations

import uuid
from datetime import datetime

from yugum.core.accounts import AccountKind
from yugum.core.decisions import Decision, DecisionKind, OriginKind
from yugum.core.desired import Subject, World
from yugum.core.dockets import Verb
from yugum.core.drafts import Draft as PlanDraft
from yugum.core.plans import Plan
from yugum.core.reverts import plan_revert
from yugum.engine.at_once import Asked, start_at_once
from yugum.engine.events import make_event
from yugum.engine.obligations import renew_obligations
from yugum.errors import Conflict
from yugum.ports import Clock, Database, ListPage, Row, UnitOfWork


def revert_of(subject: Subject, world: World, at: datetime, row: Row) -> Plan:
    """The plan that puts back one change made outside (``row`` as kept of it)."""
    draft = PlanDraft(subject, world, at)
    account = next((a for a in subject.accounts if a.id == row["account_id"]), None)
    if account is None:
        raise Conflict("The account is somebody else's by now.", remedy="Read it again.")
    application = world.applications[row["application_id"]]
    plan_revert(draft, application, account, row["kind"], row["item"], row["was"], row["now_is"])
    return draft.finish(Verb.REVERT.value)


class Links:
    def __init__(self, database: Database, clock: Clock) -> None:
        self._database = database
        self._clock = clock

    async def proposals(self, cursor: str | None, limit: int) -> ListPage:
        async with self._database.unit() as unit:
            return await unit.readings.proposals(cursor, limit)

    async def deviations(
        self, application_id: str, state: str, cursor: str | None, limit: int
    ) -> ListPage:
        async with self._database.unit() as unit:
            return await unit.readings.deviations(application_id, state, cursor, limit)

    async def link(self, account_id: str, who: str, kind: str, author: str) -> Row:
        """Say who is behind an account (nobody, when ``who`` is empty) and of what kind it is."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            account = await unit.accounts.get(account_id)
            person = await unit.people.resolve(who) if who else None
            person_id = person.id if person else None
            await unit.readings.decide(account_id, person_id, author)
            if kind:
                await unit.accounts.be_of_kind(account_id, AccountKind(kind))
            touched = [i for i in (account.person_id, person_id) if i]
            await renew_obligations(unit, touched, now)
            await unit.seats.reconcile(account.application_id, now)
            payload = {"account": account_id, "from": account.person_id, "to": person_id}
            await unit.audit.add(
                [make_event(now, author, "account.linked", person_id or account_id, payload)]
            )
            return {"account_id": account_id, "person_id": person_id}

    async def keep(self, deviation_id: str, author: str) -> Row:
        """Take a change made outside as right: no rule and no reading takes it back."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            row = await unit.readings.deviation(deviation_id)
            await unit.readings.settle_deviation(deviation_id, "kept", author, None)
            account = await unit.accounts.get(row["account_id"])
            if row["now_is"] == "not held" and account.person_id:
                origins = (await unit.accounts.known([account.person_id])).ledger
                origin = origins.get((account.id, row["kind"], row["item"]))
                if origin is not None and origin.kind is OriginKind.ROLE:
                    await self._except(unit, row, account.person_id, author, now)
            await unit.audit.add(
                [make_event(now, author, "deviation.kept", account.id, _told(row))]
            )
            return {"id": deviation_id, "state": "kept", "docket": None}

    async def _except(
        self, unit: UnitOfWork, row: Row, person_id: str, author: str, now: datetime
    ) -> None:
        """A role would give it again: an exception says that it stays away."""
        payload = {
            "application": row["application_id"],
            "kind": row["kind"],
            "item": row["item"],
        }
        decision = Decision(
            id=str(uuid.uuid4()),
            subject_id=person_id,
            kind=DecisionKind.DENY,
            payload=payload,
            author=author,
            reason="taken away outside Yugum, and kept so",
        )
        await unit.decisions.put(decision, now, None)

    async def revert(self, deviation_id: str, author: str, reference: str) -> Row:
        """Put a change made outside back, as a docket of its own that starts at once.

        Raises:
            Conflict: there is no way back, or Yugum may not change this application.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            row = await unit.readings.deviation(deviation_id)
            asked = Asked(
                verb=Verb.REVERT,
                cause={"deviation": deviation_id},
                author=author,
                reason="changed outside",
                reference=reference,
                priority=5,
                nothing="Nothing is to be put back.",
                remedy="Trust the application further: yugum apps trust ID full.",
            )
            docket = await start_at_once(
                unit,
                row["account_id"],
                asked,
                lambda subject, world, _: revert_of(subject, world, now, row),
                now,
            )
            await unit.readings.settle_deviation(deviation_id, "reverted", author, docket["id"])
            event = make_event(
                now, author, "deviation.reverted", docket["subject_id"], _told(row), docket["id"]
            )
            await unit.audit.add([event])
            return {"id": deviation_id, "state": "reverted", "docket": docket["number"]}


def _told(row: Row) -> dict[str, str]:
    """What the audit log says of a change made outside."""
    return {k: str(row[k]) for k in ("application_id", "kind", "item", "was", "now_is")}
