"""Before the first day: who is ready, what somebody would get, and what makes two people the same."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from yugum.core.accounts import HoldingKind
from yugum.core.decisions import DecisionKind, OriginKind, Payload
from yugum.core.desired import Subject, World, desired
from yugum.core.lines import NOTHING
from yugum.core.people import Person, as_text, folded, full_name
from yugum.core.readiness import CredentialState, Ready, readiness
from yugum.core.requests import Somebody
from yugum.core.verbs import Verb
from yugum.core.wanted import Wanted
from yugum.engine.context import load_subjects, load_world
from yugum.ports.clock import Clock
from yugum.ports.pages import ListPage
from yugum.ports.people import Starter
from yugum.ports.units import Database

ALIKE = ("department", "title", "site", "user_type")
"""Fields that decide about roles and that a move can change."""


@dataclass(frozen=True, slots=True)
class Joiner:
    """Somebody who begins, a line for each application with its name, and whether all is there."""

    starter: Starter
    lines: Sequence[tuple[Ready, str]]

    @property
    def ready(self) -> bool:
        return bool(self.lines) and not any(line.lacks for line, _ in self.lines)


@dataclass(frozen=True, slots=True, kw_only=True)
class WouldGet:
    """One thing somebody would get, and because of what."""

    application_id: str
    application_name: str
    kind: HoldingKind
    item: str
    because: str
    note: str


@dataclass(frozen=True, slots=True)
class CopiedException:
    """A decision of somebody else, to be made anew with a reason of its own."""

    payload: Payload
    reason: str
    ends: datetime | None


@dataclass(frozen=True, slots=True)
class FoundThing:
    """Something that somebody merely was found with."""

    application_id: str
    kind: HoldingKind
    item: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SameAs:
    """What it takes to be as somebody else."""

    who: str
    like: str
    roles: Sequence[str]
    changes: Mapping[str, str]
    exceptions: Sequence[CopiedException]
    found: Sequence[FoundThing]


class Readiness:
    def __init__(self, database: Database, clock: Clock) -> None:
        self._database = database
        self._clock = clock

    async def page(
        self, before: int, ahead: int, ready: bool | None, cursor: str | None, limit: int
    ) -> ListPage[Joiner]:
        """Who begins from ``before`` days ago to ``ahead`` days on, each with what is missing.

        Only who is ``ready``, or is not: who is known for each of a page only, so pages are shorter then,
        and nobody counts them all.
        """
        now = await self._clock.now()
        day = timedelta(days=1)
        async with self._database.unit() as unit:
            page = await unit.people.starting(
                (now - before * day).date(), (now + ahead * day).date(), cursor, limit
            )
            known = await unit.accounts.known([starter.id for starter in page.items])
            world = await load_world(unit)
            subjects = await load_subjects(unit, dict(known.people), known, now, world.rules)
            accounts = [a.id for s in subjects.values() for a in s.accounts]
            credentials = {
                c.account_id: CredentialState(c.told_at, c.opened_at, bool(c.expired))
                for c in await unit.credentials.of(accounts)
            }
            used = await unit.accounts.last_used(accounts)
            hands = await unit.standing.hands(list(subjects), now)
            trials = await unit.dockets.trials(list(subjects))
        joiners = []
        for starter in page.items:
            hand = hands.get(starter.id, NOTHING)
            asked = any(d.verb is Verb.JOINER for d in hand.asked)
            lines = readiness(
                subjects[starter.id], world, now, credentials, used, trials, asked=asked
            )
            named = [(line, world.applications[line.application_id].name) for line in lines]
            joiners.append(Joiner(starter, named))
        if ready is not None:
            return ListPage([j for j in joiners if j.ready is ready], page.next)
        return ListPage(joiners, page.next, page.total)

    async def would_get(self, somebody: Somebody) -> list[WouldGet]:
        """What somebody with these fields would have, with reasons, before anything is stored."""
        now = await self._clock.now()
        person = Person(
            id="",
            user_name=somebody.user_name or "somebody",
            given_name=somebody.given_name,
            family_name=somebody.family_name,
            department=somebody.department,
            title=somebody.title,
            site=somebody.site,
            user_type=somebody.user_type,
            division=somebody.division,
            organization=somebody.organization,
            cost_center=somebody.cost_center,
            groups=somebody.groups,
            own=tuple(sorted((n, v) for n, v in somebody.own.items() if v)),
            mail=somebody.mail,
        )
        async with self._database.unit() as unit:
            world = await load_world(unit)
        wanted = desired(Subject(person=person), world.rules, now)
        return [
            line
            for application_id, want in sorted(wanted.items())
            for line in _would_get(application_id, want, world)
        ]

    async def same_as(self, who: str, like: str) -> SameAs:
        """What it takes for ``who`` to be as ``like``: fields that give roles apart from exceptions.

        What ``like`` merely was found with is named, and not proposed.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            one = await unit.people.resolve(who)
            other = await unit.people.resolve(like)
            known = await unit.accounts.known([one.id, other.id])
            world = await load_world(unit)
            subjects = await load_subjects(unit, dict(known.people), known, now, world.rules)
        mine, theirs = subjects[one.id], subjects[other.id]
        roles = world.rules.roles_of(folded(other))
        changes = {}
        if roles != world.rules.roles_of(folded(one)):
            changes = {
                name: as_text(getattr(other, name))
                for name in ALIKE
                if getattr(one, name) != getattr(other, name)
            }
        return SameAs(
            who=full_name(one),
            like=full_name(other),
            changes=changes,
            roles=[r.name for r in roles],
            exceptions=_exceptions(mine, theirs),
            found=_found(mine, theirs),
        )


def _would_get(application_id: str, want: Wanted, world: World) -> list[WouldGet]:
    application = world.applications.get(application_id)
    approvals = {r.name: r.approval for r in world.rules.roles if r.approval}
    things = [(HoldingKind.ACCOUNT, "", want.account)] if want.account else []
    things += [(HoldingKind.ENTITLEMENT, i, w) for i, w in want.entitlements.items()]
    things += [(HoldingKind.SEAT, i, w) for i, w in want.seats.items()]
    things += [(HoldingKind.SETTING, f"{n}: {v}", (o, r)) for n, (v, o, r) in want.settings.items()]
    found = []
    for kind, item, (origin, reason) in things:
        pool = world.pools.get((application_id, item)) if kind is HoldingKind.SEAT else None
        note = ""
        if pool is not None and pool.free <= 0:
            note = f"no seat is free; {pool.waiting} wait"
        elif origin.name in approvals:
            note = f"after the approval {approvals[origin.name]}"
        found.append(
            WouldGet(
                application_id=application_id,
                application_name=application.name if application else application_id,
                kind=kind,
                item=item,
                because=reason,
                note=note,
            )
        )
    return found


def _exceptions(mine: Subject, theirs: Subject) -> list[CopiedException]:
    """The other's decisions that give something, each to be made anew with a reason of its own."""
    have = {d.payload for d in mine.decisions if d.kind is DecisionKind.GRANT}
    return [
        CopiedException(d.payload, d.reason, d.ends)
        for d in theirs.decisions
        if d.kind is DecisionKind.GRANT and d.payload not in have
    ]


def _found(mine: Subject, theirs: Subject) -> list[FoundThing]:
    held = {
        FoundThing(a.application_id, kind, item)
        for a in mine.accounts
        for kind, items in (
            (HoldingKind.ENTITLEMENT, a.entitlements),
            (HoldingKind.SEAT, a.seats),
        )
        for item in items
    }
    found = []
    for account in theirs.accounts:
        for kind, items in (
            (HoldingKind.ENTITLEMENT, account.entitlements),
            (HoldingKind.SEAT, account.seats),
        ):
            for item in sorted(items):
                origin = theirs.ledger.get((account.id, kind, item))
                thing = FoundThing(account.application_id, kind, item)
                if (origin is None or origin.kind is OriginKind.FOUND) and thing not in held:
                    found.append(thing)
    return found
