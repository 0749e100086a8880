"""Dockets for operators: looking, cancelling, settling a stuck step."""

from __future__ import annotations

from dataclasses import asdict
from datetime import datetime
from typing import Any

from yugum.core.facts import difference, taken_back
from yugum.core.roles import Rules
from yugum.engine.approvals import Approvals, Waiting, afterwards
from yugum.engine.context import load_rules
from yugum.engine.events import make_event
from yugum.engine.mails import notify
from yugum.errors import InvalidInput
from yugum.ports import Clock, Database, DocketRow, ListPage, Row, UnitOfWork, Vault

WAYS = ("retry", "left_out", "by_hand")


class Dockets:
    def __init__(
        self, database: Database, clock: Clock, vault: Vault, approvals: Approvals
    ) -> None:
        self._database = database
        self._clock = clock
        self._vault = vault
        self._approvals = approvals

    async def page(self, **choices: Any) -> ListPage:
        async with self._database.unit() as unit:
            return await unit.dockets.page(**choices)

    async def show(self, name: str) -> Row:
        async with self._database.unit() as unit:
            found = await unit.dockets.by_name(name)
            now = await self._clock.now()
            row = await unit.dockets.one(found.id)
            begins = row["state"] == "scheduled" and row["due_at"] <= now
            return {**row, "begins_now": begins}

    async def tell(self, name: str, author: str) -> Row:
        """Send the notices of a docket that was prepared in confidence; a second time sends none."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            docket = await unit.dockets.by_name(name)
            if docket.cause.get("confidential"):
                rules = await load_rules(unit)
                for at in ("planned", "done"):
                    await notify(unit, [asdict(docket)], at, rules, self._vault, now)
                told = {**docket.cause, "confidential": False}
                await unit.dockets.note_cause(docket.id, told, docket.verb)
                await self._ask_afterwards(unit, docket, rules, now)
                await unit.audit.add(
                    [make_event(now, author, "docket.told", docket.subject_id, {}, docket.id)]
                )
            return await unit.dockets.one(docket.id)

    async def _ask_afterwards(
        self, unit: UnitOfWork, docket: DocketRow, rules: Rules, now: datetime
    ) -> None:
        """What was fired in confidence is agreed to, if it has to be, once it may be told."""
        names = afterwards(docket.verb, rules) if docket.cause.get("urgent") else ()
        if not names:
            return
        row = await unit.dockets.one(docket.id)
        people = await unit.people.many([docket.subject_id])
        steps = await unit.plans.steps_of(docket.id)
        waiting = Waiting(
            docket_id=docket.id,
            number=str(docket.number),
            verb=docket.verb,
            person=people[docket.subject_id][0],
            author=docket.author,
            reason=docket.reason,
            digest="",
            summary=" ".join((row["document"] or {}).get("summary", ())),
            applications=frozenset(str(s["application_id"]) for s in steps),
        )
        await self._approvals.ask(unit, waiting, names, rules, now, wait=False)

    async def cancel(self, name: str, author: str, reason: str) -> Row:
        """Take a docket back that has not begun, with the change of the person that caused it."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            docket = await unit.dockets.by_name(name)
            await unit.dockets.cancel(docket.id, now)
            person = (await unit.people.many([docket.subject_id]))[docket.subject_id][0]
            after = person
            for fact in await unit.dockets.facts(docket.id):
                after = taken_back(after, fact["before"], fact["after"])
            was, becomes = difference(person, after)
            if becomes:
                await unit.people.change([after])
            await unit.decisions.end_of_docket(docket.id, now)
            payload = {"reason": reason, "before": was, "after": becomes}
            await unit.audit.add(
                [make_event(now, author, "docket.cancelled", docket.subject_id, payload, docket.id)]
            )
            return await unit.dockets.one(docket.id)

    async def settle(self, step_id: str, how: str, note: str, author: str) -> Row:
        """Retry a stuck step, leave it out with a reason, or record that it was done by hand."""
        if how not in WAYS:
            raise InvalidInput(f"A step is settled by one of: {', '.join(WAYS)}.", place="how")
        if how != "retry" and not note.strip():
            raise InvalidInput(
                "Say why: leaving a step out or doing it by hand needs a note.", place="note"
            )
        now = await self._clock.now()
        async with self._database.unit() as unit:
            step = await unit.dockets.settle_step(step_id, how, note, now)
            await unit.leases.wake([step["subject_id"]], priority=1)
            await unit.audit.add(
                [
                    make_event(
                        now,
                        author,
                        f"step.{how}",
                        step["subject_id"],
                        {"step": step_id, "note": note},
                        step["docket_id"],
                    )
                ]
            )
            await unit.hint()
            return await unit.dockets.one(step["docket_id"])
