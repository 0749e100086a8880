"""The journal as lanes use it: an entry is handed in and is durable when the call returns."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from datetime import datetime

from yugum.core.actions import NOT_SHOWN, Done, describe
from yugum.core.dockets import StepState
from yugum.core.documents import Json
from yugum.engine.events import make_event
from yugum.engine.work.batching import Batcher
from yugum.errors import LeaseLost
from yugum.ports.audit import Event
from yugum.ports.clock import Clock
from yugum.ports.journal import Entry
from yugum.ports.units import Database

TOLD = 20
"""Of what a step did with more things the audit log tells so many."""


class Journal:
    """Group-committed entries; an entry under a lease that is lost is refused.

    Intents are written as they come, since an action waits for each, or gathered for as long as
    ``brief`` says; receipts for as long as ``linger`` says: nothing waits for them but what comes
    after in the same lane.
    """

    def __init__(
        self,
        database: Database,
        clock: Clock,
        actor: str,
        linger: Callable[[], float],
        brief: Callable[[], float] = lambda: 0.0,
    ) -> None:
        self._database = database
        self._clock = clock
        self._actor = actor
        self._intents: Batcher[Entry, bool] = Batcher(self._flush, linger=brief)
        self._others: Batcher[Entry, bool] = Batcher(self._flush, linger=linger)

    async def write(self, entry: Entry) -> None:
        """Durably write one entry.

        Raises:
            LeaseLost: another worker has taken the subject over; nothing was written.
        """
        batcher = self._intents if entry.state is StepState.INTENT else self._others
        if not await batcher.submit(entry):
            raise LeaseLost(f"The lease on {entry.step.subject_id} is lost.")

    async def _flush(self, entries: Sequence[Entry]) -> Sequence[bool]:
        async with self._database.unit() as unit:
            now = await self._clock.now(unit)
            events = [self._event(e, now) for e in entries if e.state is StepState.DONE]
            taken = await unit.journal.write(entries, events, now)
        return [e.step.id in taken for e in entries]

    def _event(self, entry: Entry, now: datetime) -> Event:
        step = entry.step
        payload: dict[str, Json] = {
            "step": step.id,
            "application": step.application_id,
            "account": step.account_id,
            "item": step.item,
            "outcome": entry.outcome.value if entry.outcome else None,
            "effect": describe(entry.found or NOT_SHOWN, entry.seen),
            "did": _told(entry.did),
        }
        return make_event(
            now,
            self._actor,
            f"step.{step.action.value}",
            step.subject_id,
            payload,
            step.docket_id,
        )


def _told(did: Done) -> dict[str, Json]:
    """What was done, for the audit log: of many things the first and how many; each has its own line in the handovers."""
    if len(did.assets) <= TOLD:
        return dict(did.document())
    some = replace(did, assets=did.assets[:TOLD], copied=did.copied[:TOLD])
    return {**some.document(), "of": len(did.assets)}
