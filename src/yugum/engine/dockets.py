"""Dockets for operators: looking, cancelling, settling a stuck step."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime

from yugum.core.approvals import afterwards
from yugum.core.dockets import (
    Docket,
    DocketDetail,
    DocketLine,
    DocketState,
    Settlement,
)
from yugum.core.documents import Document
from yugum.core.roles import NoticeAt, Rules
from yugum.engine.approvals import Approvals
from yugum.engine.asked import waiting_of
from yugum.engine.changes import CANCELLED, take_back
from yugum.engine.context import load_rules
from yugum.engine.events import make_event
from yugum.engine.mails import Told, notify
from yugum.engine.own import must_be_for_others
from yugum.engine.standing import look_again
from yugum.errors import Conflict, InvalidInput
from yugum.ports.clock import Clock
from yugum.ports.dockets import ChosenDockets
from yugum.ports.pages import ListPage
from yugum.ports.services import Vault
from yugum.ports.units import Database, UnitOfWork


class Dockets:
    def __init__(
        self, database: Database, clock: Clock, vault: Vault, approvals: Approvals
    ) -> None:
        self._database = database
        self._clock = clock
        self._vault = vault
        self._approvals = approvals

    async def page(
        self, chosen: ChosenDockets, who: str, cursor: str | None, limit: int
    ) -> ListPage[DocketLine]:
        """Dockets as chosen, of ``who`` where somebody is named."""
        async with self._database.unit(alone=True) as unit:
            if who:
                chosen = replace(chosen, subject_id=(await unit.people.resolve(who)).id)
            return await unit.dockets.page(chosen, cursor, limit)

    async def show(self, name: str) -> tuple[DocketDetail, bool]:
        """A docket with its steps, and whether it is about to begin."""
        async with self._database.unit() as unit:
            found = await unit.dockets.by_name(name)
            now = await self._clock.now(unit)
            docket = await unit.dockets.one(found.id)
            return docket, docket.state is DocketState.SCHEDULED and docket.due_at <= now

    async def tell(self, name: str, author: str) -> DocketDetail:
        """Send the notices of a docket that was prepared in confidence; a second time sends none."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            docket = await unit.dockets.by_name(name)
            if docket.cause.confidential:
                rules = await load_rules(unit)
                for at in NoticeAt:
                    await notify(unit, [Told.of(docket)], at, rules, self._vault, now)
                told = replace(docket.cause, confidential=False)
                await unit.dockets.note_cause(docket.id, told, docket.verb)
                await self._ask_afterwards(unit, docket, rules, now)
                await unit.audit.add(
                    [make_event(now, author, "docket.told", docket.subject_id, {}, docket.id)]
                )
            return await unit.dockets.one(docket.id)

    async def _ask_afterwards(
        self, unit: UnitOfWork, docket: Docket, rules: Rules, now: datetime
    ) -> None:
        """What was fired in confidence is agreed to, if it has to be, once it may be told."""
        names = afterwards(docket.verb, rules) if docket.cause.urgent else ()
        if not names:
            return
        detail = await unit.dockets.one(docket.id)
        waiting = await waiting_of(unit, detail, "")
        await self._approvals.ask(unit, waiting, names, rules, now, wait=False)

    async def cancel(self, name: str, author: str, reason: str) -> DocketDetail:
        """Take a docket back that has not begun, with the change of the person that caused it."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            docket = await unit.dockets.by_name(name)
            await must_be_for_others(unit, author, [docket.subject_id], "taking back", now)
            awaited = docket.state is DocketState.AWAITING
            await unit.dockets.cancel(docket.id, now)
            await unit.approvals.withdraw([docket.id], author, reason, now)
            was, becomes = await take_back(unit, docket.id, now)
            if awaited and becomes and docket.due_at <= now:  # access has ended meanwhile
                await look_again(unit, [docket.subject_id], now, author, CANCELLED)
                await unit.hint()
            payload: Document = {"reason": reason, "before": dict(was), "after": dict(becomes)}
            await unit.audit.add(
                [make_event(now, author, "docket.cancelled", docket.subject_id, payload, docket.id)]
            )
            return await unit.dockets.one(docket.id)

    async def end(self, name: str, author: str, reason: str) -> DocketDetail:
        """End a running docket where it is: what is not begun is left out and stays a difference.

        Raises:
            InvalidInput: no reason is given.
            Conflict: it does not run.
        """
        if not reason.strip():
            raise InvalidInput("Say why.", place="reason")
        now = await self._clock.now()
        async with self._database.unit() as unit:
            docket = await unit.dockets.by_name(name)
            if docket.state is not DocketState.RUNNING:
                raise Conflict(
                    f"Docket {docket.number} is {docket.state.value}: only a running one is ended.",
                    remedy="One that has not begun is cancelled, one that is done can be undone.",
                )
            await must_be_for_others(unit, author, [docket.subject_id], "ending a docket", now)
            open_steps = await unit.dockets.begun([docket.subject_id])
            mine = [s.id for s in open_steps if s.docket_id == docket.id and not s.in_doubt]
            await unit.dockets.leave_out(mine, f"Ended by {author}: {reason}", now)
            await unit.leases.wake([docket.subject_id], priority=1)
            payload: Document = {"reason": reason, "left_out": len(mine)}
            await unit.audit.add(
                [make_event(now, author, "docket.ended", docket.subject_id, payload, docket.id)]
            )
            await unit.hint()
            return await unit.dockets.one(docket.id)

    async def settle(self, step_id: str, how: Settlement, note: str, author: str) -> DocketDetail:
        """Retry a stuck step, leave it out with a reason, or record that it was done by hand."""
        if how is not Settlement.RETRY and not note.strip():
            raise InvalidInput(
                "Say why: leaving a step out or doing it by hand needs a note.", place="note"
            )
        now = await self._clock.now()
        async with self._database.unit() as unit:
            step = await unit.dockets.settle_step(step_id, how, note, now)
            if how is not Settlement.RETRY:
                await must_be_for_others(unit, author, [step.subject_id], "settling a step", now)
            await unit.leases.wake([step.subject_id], priority=1)
            payload = {"step": step_id, "note": note}
            await unit.audit.add(
                [
                    make_event(
                        now,
                        author,
                        f"step.{how.value}",
                        step.subject_id,
                        payload,
                        step.docket_id,
                    )
                ]
            )
            await unit.hint()
            return await unit.dockets.one(step.docket_id)
