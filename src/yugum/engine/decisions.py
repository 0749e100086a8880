"""Decisions: exceptions, successors and holds, made and ended."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from datetime import datetime
from typing import Any

from yugum.core.dates import parse_moment
from yugum.core.decisions import Decision, DecisionKind
from yugum.engine.context import check_successor, load_rules
from yugum.engine.events import make_event
from yugum.engine.obligations import renew_obligations
from yugum.errors import InvalidInput, NotFound
from yugum.ports import Clock, Database, ListPage, Row


class Decisions:
    def __init__(self, database: Database, clock: Clock) -> None:
        self._database = database
        self._clock = clock

    async def page(self, who: str, cursor: str | None, limit: int) -> ListPage:
        async with self._database.unit() as unit:
            person = await unit.people.resolve(who)
            return await unit.decisions.page(person.id, cursor, limit)

    async def make(
        self, who: str, kind: str, payload: Mapping[str, Any], reason: str, ends: str, author: str
    ) -> Decision:
        """A decision for one person; the next plan reads it."""
        if not reason.strip():
            raise InvalidInput("A decision needs a reason.", place="reason")
        now = await self._clock.now()
        async with self._database.unit() as unit:
            person = await unit.people.resolve(who)
            until: datetime | None = parse_moment(ends, now, person.time_zone) if ends else None
            cleaned = dict(payload)
            decision_kind = DecisionKind(kind)
            if decision_kind is DecisionKind.SUCCESSOR:
                heir = await unit.people.resolve(str(payload.get("person", "")))
                check_successor(heir, {person.id: person}, now)
                cleaned = {"person": heir.id}
            elif decision_kind is DecisionKind.ROLE:
                names = [r.name for r in (await load_rules(unit)).roles]
                if payload.get("role") not in names:
                    raise InvalidInput(
                        f"There is no role {payload.get('role', '')}.",
                        place="payload.role",
                        remedy=f"Known are: {', '.join(names) or 'none'}.",
                    )
                cleaned = {"role": str(payload["role"])}
            elif decision_kind in (DecisionKind.GRANT, DecisionKind.DENY):
                cleaned = await _holding(unit, payload)
            else:
                cleaned = {}
            decision = Decision(
                id=str(uuid.uuid4()),
                subject_id=person.id,
                kind=decision_kind,
                payload=cleaned,
                author=author,
                reason=reason,
                ends=until,
            )
            await unit.decisions.put(decision, now, None)
            await renew_obligations(unit, [person.id], now)
            event = {"kind": kind, "payload": cleaned, "reason": reason}
            await unit.audit.add([make_event(now, author, "decision.made", person.id, event)])
            return decision

    async def hold_application(
        self, application_id: str, reason: str, ends: str, author: str
    ) -> Decision:
        """Nothing of an application is deleted or purged while this lasts."""
        if not reason.strip():
            raise InvalidInput("A hold needs a reason.", place="reason")
        now = await self._clock.now()
        async with self._database.unit() as unit:
            if application_id not in await unit.applications.all():
                raise NotFound(f"There is no application {application_id}.", place="application")
            installation = await unit.views.installation()
            zone = installation["zone"] if installation else "UTC"
            decision = Decision(
                id=str(uuid.uuid4()),
                subject_id=application_id,
                kind=DecisionKind.HOLD,
                author=author,
                reason=reason,
                ends=parse_moment(ends, now, zone) if ends else None,
            )
            await unit.decisions.put(decision, now, None)
            await unit.rules.renew_all()
            event = {"kind": "hold", "reason": reason}
            await unit.audit.add([make_event(now, author, "decision.made", application_id, event)])
            return decision

    async def end(self, decision_id: str, author: str) -> Row:
        now = await self._clock.now()
        async with self._database.unit() as unit:
            row = await unit.decisions.end(decision_id, now)
            if row["subject_id"] in await unit.applications.all():
                await unit.rules.renew_all()
            else:
                await renew_obligations(unit, [row["subject_id"]], now)
            await unit.audit.add(
                [make_event(now, author, "decision.ended", row["subject_id"], {"id": decision_id})]
            )
            return row


async def _holding(unit: Any, payload: Mapping[str, Any]) -> dict[str, Any]:
    application = str(payload.get("application", ""))
    kind = str(payload.get("kind", "entitlement"))
    item = str(payload.get("item", ""))
    if application not in await unit.applications.all():
        raise InvalidInput(f"There is no application {application}.", place="payload.application")
    known = ("account", "entitlement", "seat", "setting")
    if kind not in known or (kind != "account" and not item):
        raise InvalidInput(
            "An exception names an account, an entitlement, a seat or a setting.",
            place="payload.kind",
        )
    holding = {"application": application, "kind": kind, "item": item}
    return holding | ({"value": str(payload.get("value", ""))} if kind == "setting" else {})
