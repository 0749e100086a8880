"""Decisions: exceptions, successors and holds, made and ended."""

from __future__ import annotations

import uuid
from collections.abc import Mapping, Sequence
from datetime import datetime
from difflib import get_close_matches

from yugum.core.accounts import HoldingKind
from yugum.core.dates import parse_moment
from yugum.core.decisions import NO_PAYLOAD, Decision, DecisionKind, Payload
from yugum.core.desired import World
from yugum.core.documents import Document
from yugum.core.people import Person
from yugum.engine.context import load_rules, load_world, zone_of
from yugum.engine.events import make_event
from yugum.engine.heirs import must_take_over
from yugum.engine.own import must_be_for_others
from yugum.engine.standing import look_again
from yugum.errors import InvalidInput, NotFound
from yugum.ports.clock import Clock
from yugum.ports.decisions import DecisionLine, HoldLine, PrecautionLine
from yugum.ports.pages import ListPage
from yugum.ports.units import Database, UnitOfWork

SAYS: Mapping[DecisionKind, Sequence[str]] = {
    DecisionKind.GRANT: ("application", "kind", "item", "value"),
    DecisionKind.DENY: ("application", "kind", "item", "value"),
    DecisionKind.SUSPEND: ("application",),
    DecisionKind.ROLE: ("role",),
    DecisionKind.SUCCESSOR: ("person",),
    DecisionKind.HOLD: (),
}
"""What a decision that somebody makes says, by its kind."""
GIVING = (DecisionKind.GRANT, DecisionKind.ROLE)
"""Decisions by which somebody has something; it goes with them."""


class Decisions:
    def __init__(self, database: Database, clock: Clock) -> None:
        self._database = database
        self._clock = clock

    async def page(self, who: str, cursor: str | None, limit: int) -> ListPage[DecisionLine]:
        async with self._database.unit() as unit:
            person = await unit.people.resolve(who)
            return await unit.decisions.page(person.id, cursor, limit)

    async def holds(self, cursor: str | None, limit: int) -> ListPage[HoldLine]:
        now = await self._clock.now()
        async with self._database.unit() as unit:
            return await unit.decisions.holds(now, cursor, limit)

    async def precautions(self, cursor: str | None, limit: int) -> ListPage[PrecautionLine]:
        now = await self._clock.now()
        async with self._database.unit() as unit:
            return await unit.decisions.precautions(now, cursor, limit)

    async def make(
        self,
        who: str,
        kind: DecisionKind,
        said: Payload,
        reason: str,
        ends: str,
        author: str,
        *,
        new: bool = False,
    ) -> Decision:
        """A decision for one person; the next plan reads it.

        With ``new`` it may name what nobody holds and no role gives yet.
        """
        if not reason.strip():
            raise InvalidInput("A decision needs a reason.", place="reason")
        now = await self._clock.now()
        async with self._database.unit() as unit:
            person = await unit.people.resolve(who)
            until = end_of(ends, now, person.time_zone)
            await must_be_for_others(unit, author, [person.id], f"a decision: {kind.value}", now)
            payload = await _checked(unit, kind, said, person, now, new=new)
            decision = Decision(
                id=str(uuid.uuid4()),
                subject_id=person.id,
                kind=kind,
                payload=payload,
                author=author,
                reason=reason,
                ends=until,
            )
            await unit.decisions.put(decision, now, None)
            event: Document = {
                "kind": kind.value,
                "payload": dict(payload.document()),
                "reason": reason,
            }
            await unit.audit.add([make_event(now, author, "decision.made", person.id, event)])
            return decision

    async def names(
        self, application_id: str, kind: HoldingKind, part: str, limit: int
    ) -> Sequence[str]:
        """What an exception can name in an application without being new there, by any ``part`` of it.

        Raises:
            NotFound: there is no such application.
        """
        async with self._database.unit(alone=True) as unit:
            await unit.applications.connection_of(application_id)
            known = await _known(unit, await load_world(unit), application_id, kind)
        return sorted(n for n in known if part.casefold() in n.casefold())[:limit]

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
            zone = await zone_of(unit)
            decision = Decision(
                id=str(uuid.uuid4()),
                subject_id=application_id,
                kind=DecisionKind.HOLD,
                author=author,
                reason=reason,
                ends=end_of(ends, now, zone),
            )
            await unit.decisions.put(decision, now, None)
            event = {"kind": "hold", "reason": reason}
            await unit.audit.add([make_event(now, author, "decision.made", application_id, event)])
            return decision

    async def end(self, decision_id: str, author: str) -> DecisionLine:
        """End a decision. What came by it goes at once, anything else follows with the next plan."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            ended = await unit.decisions.end(decision_id, now)
            await must_be_for_others(unit, author, [ended.subject_id], "ending a decision", now)
            if ended.kind in GIVING:
                basis = "an exception has ended"
                await look_again(unit, [ended.subject_id], now, author, basis)
                await unit.hint()
            await unit.audit.add(
                [make_event(now, author, "decision.ended", ended.subject_id, {"id": decision_id})]
            )
            return ended


def end_of(text: str, now: datetime, zone: str, place: str = "ends") -> datetime | None:
    """When a decision ends; one that is over already decides nothing.

    Raises:
        InvalidInput: the words, which stood in ``place``, are unclear, or of a moment that is past.
    """
    try:
        until = parse_moment(text, now, zone) if text else None
    except InvalidInput as error:
        raise InvalidInput(error.message, place=place, remedy=error.remedy) from error
    if until is not None and until <= now:
        raise InvalidInput(
            f"{text} is past; nothing would be decided.",
            place=place,
            remedy="Name a later moment, or none.",
        )
    return until


async def _checked(
    unit: UnitOfWork,
    kind: DecisionKind,
    said: Payload,
    person: Person,
    now: datetime,
    *,
    new: bool,
) -> Payload:
    """What of ``said`` a decision of this kind keeps, once it is known to make sense."""
    for name in said.document():
        if name not in SAYS[kind] and getattr(said, name):
            raise InvalidInput(
                f"A decision of kind {kind.value} says nothing of this.",
                place=f"payload.{name}",
                remedy=f"It says: {', '.join(SAYS[kind]) or 'nothing but its reason'}.",
            )
    match kind:
        case DecisionKind.SUCCESSOR:
            heir = await unit.people.resolve(said.person)
            await must_take_over(unit, heir, {person.id: person}, now)
            return Payload(person=heir.id)
        case DecisionKind.ROLE:
            names = [r.name for r in (await load_rules(unit)).roles]
            if said.role not in names:
                raise InvalidInput(
                    f"There is no role {said.role}.",
                    place="payload.role",
                    remedy=f"Known are: {', '.join(names) or 'none'}.",
                )
            return Payload(role=said.role)
        case DecisionKind.GRANT | DecisionKind.DENY:
            return await _holding(unit, said, new=new)
        case DecisionKind.SUSPEND:
            await _application(unit, said.application)
            return Payload(application=said.application)
    return NO_PAYLOAD


async def _application(unit: UnitOfWork, application: str) -> None:
    if application not in await unit.applications.all():
        raise InvalidInput(f"There is no application {application}.", place="payload.application")


async def _holding(unit: UnitOfWork, said: Payload, *, new: bool) -> Payload:
    kind, world = said.kind or HoldingKind.ENTITLEMENT, await load_world(unit)
    await _application(unit, said.application)
    if kind is not HoldingKind.ACCOUNT and not said.item:
        raise InvalidInput(
            "An exception names an account, an entitlement, a seat or a setting.",
            place="payload.kind",
        )
    if kind is not HoldingKind.ACCOUNT and not new:
        await _must_be_known(unit, world, said.application, kind, said.item)
    if said.value and kind is not HoldingKind.SETTING:
        raise InvalidInput("Only a setting has a value.", place="payload.value")
    mapped = world.rules.mapped(said.application)
    if kind is HoldingKind.SETTING and (strange := mapped.unknown(said.item, said.value)):
        raise InvalidInput(
            f"{said.application} offers no {said.item} '{strange}'.",
            place="payload.value",
            remedy=f"Use: {', '.join(mapped.offered(said.item))}.",
        )
    return Payload(application=said.application, kind=kind, item=said.item, value=said.value)


async def _known(
    unit: UnitOfWork, world: World, application_id: str, kind: HoldingKind
) -> set[str]:
    """What somebody holds there, a role gives, or there are seats of."""
    application, rules = world.applications[application_id], world.rules
    known = set(await unit.applications.names_held(application.id, kind))
    match kind:
        case HoldingKind.SEAT:
            known |= {name for owner, name in world.pools if owner == application.id}
        case HoldingKind.ENTITLEMENT:
            known |= {
                *application.nested,
                *(g for inner in application.nested.values() for g in inner),
            }
        case HoldingKind.SETTING:
            profile = application.profile
            known |= {*profile.standard_settings, *profile.leaver_settings}
            known |= {profile.alias_setting, profile.unseen_setting} - {""}
            mapped = rules.mapped(application.id)
            known |= {*application.attributes, *mapped.levels, *mapped.units}
    return known | {
        given.item
        for role in rules.roles
        for given in role.gives
        if given.application_id == application.id and given.kind is kind
    }


async def _must_be_known(
    unit: UnitOfWork, world: World, application_id: str, kind: HoldingKind, item: str
) -> None:
    """Somebody holds it there, a role gives it, or there are seats of it.

    Raises:
        InvalidInput: nobody has heard of it.
    """
    known = await _known(unit, world, application_id, kind)
    if item not in known:
        near = get_close_matches(item, known, 3, 0.5)
        raise InvalidInput(
            f"{world.applications[application_id].name} has no {kind.value} {item} that anybody holds or a role gives.",
            place="payload.item",
            remedy=(f"Perhaps {' or '.join(near)} is meant. " if near else "")
            + "If it is new there, say so.",
        )
