"""Seats that could come back: listed with what they cost, and taken back by decisions that plans carry out."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from yugum.core.accounts import HoldingKind
from yugum.core.dates import parse_moment
from yugum.core.decisions import Decision, DecisionKind, Payload
from yugum.core.documents import Document
from yugum.core.reclaim import ReclaimReason, looked_at
from yugum.engine.context import load_rules
from yugum.engine.events import make_event
from yugum.engine.own import must_be_for_others
from yugum.engine.seats import shown_pool
from yugum.errors import Conflict, InvalidInput
from yugum.ports.clock import Clock
from yugum.ports.pages import ListPage
from yugum.ports.reclaim import SeatToReclaim
from yugum.ports.seats import PoolLine
from yugum.ports.units import Database

MOST = 500


@dataclass(frozen=True, slots=True, kw_only=True)
class Reclaimable:
    """Seats of a pool that could come back."""

    pool: PoolLine
    page: ListPage[SeatToReclaim]


class Reclaim:
    def __init__(self, database: Database, clock: Clock) -> None:
        self._database = database
        self._clock = clock

    async def page(
        self, pool_id: str, reason: ReclaimReason | None, cursor: str | None, limit: int
    ) -> Reclaimable:
        """Seats of a pool that could come back, and why."""
        now = await self._clock.now()
        async with self._database.unit(alone=True) as unit:
            pool = (await shown_pool(unit, pool_id)).pool
            rules = await load_rules(unit)
            license = rules.license(pool.application_id, pool.license)
            looked = looked_at(
                pool.id, pool.application_id, pool.license, rules.licenses, license, now
            )
            return Reclaimable(
                pool=pool, page=await unit.reclaim.page(looked, reason, cursor, limit)
            )

    async def decide(
        self, pool_id: str, people: Sequence[str], reason: str, ends: str, author: str
    ) -> None:
        """Some people are not to have a seat of a pool, for good or until a moment; the next plan frees it.

        Raises:
            Conflict: one of them holds none.
            InvalidInput: nobody is named, no reason is given, or the end is past.
        """
        if not reason.strip():
            raise InvalidInput("Taking a seat back needs a reason.", place="reason")
        now = await self._clock.now()
        async with self._database.unit() as unit:
            pool = (await shown_pool(unit, pool_id)).pool
            until = _until(ends, now)
            await must_be_for_others(unit, author, people, "taking a seat back", now)
            held = await unit.seats.claimed(pool_id, people)
            if strange := [i for i in people if i not in held]:
                raise Conflict(f"{strange[0][:60]} has no seat of {pool.license}.", place="people")
            payload = Payload(
                application=pool.application_id, kind=HoldingKind.SEAT, item=pool.license
            )
            made = [
                Decision(
                    id=str(uuid.uuid4()),
                    subject_id=person_id,
                    kind=DecisionKind.DENY,
                    payload=payload,
                    author=author,
                    reason=reason,
                    ends=until,
                )
                for person_id in people
            ]
            await unit.decisions.put_all(made, now)
            event: Document = {
                "kind": DecisionKind.DENY.value,
                "payload": dict(payload.document()),
                "reason": reason,
            }
            await unit.audit.add(
                [make_event(now, author, "decision.made", d.subject_id, event) for d in made]
            )


def _until(text: str, now: datetime) -> datetime | None:
    until = parse_moment(text, now, "UTC") if text else None
    if until is not None and until <= now:
        raise InvalidInput(f"{text} is past.", place="ends", remedy="Name a later moment, or none.")
    return until
