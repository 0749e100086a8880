"""People: who they are, what they hold and why, and their lifeline."""

from __future__ import annotations

import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, fields, replace
from datetime import datetime

from yugum.core.accounts import Account, AccountState, HoldingKind
from yugum.core.applications import Application
from yugum.core.birthdays import digest_of
from yugum.core.coming import Dated, Upcoming, coming, future
from yugum.core.decisions import Ledger, OriginKind
from yugum.core.desired import Subject, World, desired
from yugum.core.dockets import DocketLine, DocketState
from yugum.core.documents import Document
from yugum.core.entry import Doubted
from yugum.core.facts import Fact, Fields, with_fields
from yugum.core.lifeline import Bar, Change, HistoryEntry, past
from yugum.core.lists import KnownValue
from yugum.core.nesting import held_through
from yugum.core.obligations import dates
from yugum.core.people import (
    Person,
    PersonState,
    field_of,
    fields_of_both,
    folded,
    state_at,
    with_values,
)
from yugum.core.procedures import ready_steps
from yugum.core.requests import NewPerson
from yugum.core.roles import Role
from yugum.engine.changes import fact_of, store_changes
from yugum.engine.context import load_rules, load_subjects, load_world, zone_of
from yugum.engine.declared import own_changes, own_values
from yugum.engine.declined import must_be_new, must_not_be_declined
from yugum.engine.earlier import PersonThen, person_then
from yugum.engine.entry import Entered, must_be_right
from yugum.engine.events import make_event
from yugum.engine.linking import link_found
from yugum.engine.newcomers import made, managers_named
from yugum.engine.own import must_be_for_others
from yugum.engine.promises import condition_of
from yugum.engine.standing import look_again, stands
from yugum.engine.standings import shown_line
from yugum.errors import Conflict, InvalidInput, PlanStale
from yugum.ports.clock import Clock
from yugum.ports.decisions import DecisionLine
from yugum.ports.pages import ListPage
from yugum.ports.people import ChosenPeople, PersonLine
from yugum.ports.seats import SeatOf
from yugum.ports.services import Vault
from yugum.ports.standing import StandingLine
from yugum.ports.units import Database, UnitOfWork


@dataclass(frozen=True, slots=True)
class HeldThing:
    """Something an account holds, and because of what; ``nested`` is held through other groups."""

    kind: HoldingKind
    item: str
    because: str
    nested: bool = False


@dataclass(frozen=True, slots=True)
class ShownAccount:
    """An account on somebody's page; None where one is still to come."""

    account: Account | None
    locked: bool
    application: Application
    holdings: Sequence[HeldThing]
    bars: Sequence[Bar]


@dataclass(frozen=True, slots=True, kw_only=True)
class PersonShown:
    """One person over all applications: accounts, what is held and why, what comes next."""

    person: Person
    rev: int
    state: PersonState
    now: datetime
    manager: Person | None
    successor: Person | None
    roles: Sequence[Role]
    accounts: Sequence[ShownAccount]
    coming: Sequence[ShownAccount]
    next: Sequence[Upcoming]
    standing: Sequence[StandingLine]
    seats: Sequence[SeatOf]
    decisions: Sequence[DecisionLine]
    dockets: Sequence[DocketLine]
    facts: Sequence[Fact]


class People:
    def __init__(self, database: Database, clock: Clock, vault: Vault) -> None:
        self._database = database
        self._clock = clock
        self._vault = vault

    async def page(
        self,
        chosen: ChosenPeople,
        *,
        filter_text: str,
        manager: str,
        cursor: str | None,
        limit: int,
    ) -> ListPage[PersonLine]:
        """People as chosen, also by a filter (RFC 7644 3.4.2.2) and by whom they report to."""
        now = await self._clock.now()
        # How long a filter may take is said to its transaction.
        async with self._database.unit(alone=not filter_text) as unit:
            if filter_text:
                condition = condition_of(filter_text, await load_rules(unit))
                chosen = replace(chosen, condition=condition)
            if manager:
                chosen = replace(chosen, manager_id=(await unit.people.resolve(manager)).id)
            return await unit.people.page(now, chosen, cursor, limit)

    async def values(self, field: KnownValue, query: str, limit: int) -> Sequence[str]:
        """What people have in a field, to be picked from."""
        async with self._database.unit(alone=True) as unit:
            return await unit.people.values(field, query, limit)

    async def create(self, new: Sequence[NewPerson], author: str) -> list[Person]:
        """New people; all are checked before any is stored."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            ids = {n.user_name: str(uuid.uuid4()) for n in new}
            if len(ids) < len(new):
                raise InvalidInput("A login is named twice.", place="user_name")
            bosses = await managers_named(unit, new, ids)
            zone = await zone_of(unit)
            checked = [replace(n, own=await own_values(unit, n.own)) for n in new]
            people = [made(n, ids[n.user_name], bosses.get(n.manager), zone, now) for n in checked]
            await must_be_right(
                unit, [_entered(n, p) for n, p in zip(new, people, strict=True)], now
            )
            if taken := await unit.people.logins_taken([p.user_name for p in people]):
                raise Conflict(
                    f"The login {min(taken)} is taken.",
                    place="user_name",
                    remedy="Choose another one, for example with a number.",
                )
            named = {ids[n.user_name] for n in new if n.another}
            born = {ids[n.user_name]: self._born(n.birthday, now) for n in new if n.birthday}
            await must_be_new(unit, [p for p in people if p.id not in named], born, now)
            again = {ids[n.user_name] for n in new if n.again}
            await must_not_be_declined(unit, people, again)
            await unit.people.insert(people, now)
            await unit.birthdays.put(born)
            await link_found(unit, people, now)
            await unit.audit.add(
                [
                    make_event(now, author, "person.created", p.id, {"user_name": p.user_name})
                    for p in people
                ]
            )
            return people

    def _born(self, day: str, now: datetime) -> str:
        return digest_of(day, now.date(), self._vault.digest)

    async def change(
        self,
        who: str,
        changes: Fields,
        rev: int | None,
        author: str,
        reason: str,
        right: Sequence[Doubted] = (),
    ) -> tuple[Person, int]:
        """Correct fields without a move; access follows with the next plan.

        Raises:
            PlanStale: ``rev`` is not the person's revision any more.
            Doubtful: a field looks like a slip, and is not among those that are ``right``.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            before = await unit.people.resolve(who)
            _, current = (await unit.people.many([before.id]))[before.id]
            if rev is not None and rev != current:
                raise PlanStale(
                    "The person was changed by somebody else meanwhile.",
                    remedy="Load the person again and repeat the change.",
                )
            if "access_ends" in changes:
                raise InvalidInput(
                    "The end of access is set by a leaver plan.",
                    place="access_ends",
                    remedy=f"Use: yugum leaver {before.user_name} --at DATE.",
                )
            after = with_fields(before, await own_changes(unit, changes))
            fact = fact_of(before, after, author, reason, now)
            if fact.after:
                entered = Entered(before=before, after=after, said=[*changes], right=right)
                await must_be_right(unit, [entered], now)
                await must_be_for_others(unit, author, [before.id], "a correction", now)
                await self._store(unit, after, fact)
            return after, current + bool(fact.after)

    async def _store(self, unit: UnitOfWork, after: Person, fact: Fact) -> None:
        now = fact.known_at
        await store_changes(unit, [after], [fact], now)
        await link_found(unit, [after], now)
        world = await load_world(unit)
        known = await unit.accounts.known([after.id])
        subjects = await load_subjects(unit, {after.id: after}, known, now, world.rules)
        if ready_steps(subjects[after.id], world, now):
            basis = "a step need not wait any longer"
            await look_again(unit, [after.id], now, fact.author, basis)

    async def merge(self, keep: str, gone: str, author: str, reason: str) -> Person:
        """Make one person of two who are the same: everything of ``gone`` becomes ``keep``'s.

        Fields that are empty are filled from the other, among them the number a source knows. A
        second account in an application stays, and is the person's like the first.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            person = await unit.people.resolve(keep)
            other = await unit.people.resolve(gone)
            if person.id == other.id:
                raise InvalidInput("These are one person already.", place="other")
            filled = [
                name
                for name in fields_of_both(person, other)
                if name != "user_name" and not field_of(person, name) and field_of(other, name)
            ]
            if other.manager_id == person.id and "manager_id" in filled:
                filled.remove("manager_id")
            await unit.standing.hold([person.id, other.id])
            moved = await unit.people.merge(person.id, other.id)
            merged = with_values(person, ((name, field_of(other, name)) for name in filled))
            await unit.people.change([merged])
            payload: Document = {
                "gone": other.user_name,
                "number": other.employee_number,
                "accounts": moved,
                "filled": [*sorted(filled)],
                "reason": reason,
            }
            await unit.audit.add([make_event(now, author, "person.merged", person.id, payload)])
            return merged

    async def then(self, who: str, at: datetime) -> PersonThen:
        """One person as they were at a moment: their fields, their accounts and what these held.

        Raises:
            InvalidInput: the moment has not come yet.
        """
        now = await self._clock.now()
        if at > now:
            raise InvalidInput(
                "That has not come yet.", place="at", remedy="Name a moment of the past."
            )
        async with self._database.unit(alone=True) as unit:
            return await person_then(unit, await unit.people.resolve(who), at)

    async def show(self, who: str) -> PersonShown:
        """One person over all applications."""
        now = await self._clock.now()
        async with self._database.unit(alone=True) as unit:
            person = await unit.people.resolve(who)
            world = await load_world(unit)
            known = await unit.accounts.known([person.id])
            subject, stand = await stands(unit, person, known, world, now)
            rows = await unit.views.of_person(person.id)
            # Who has not more of them than are told has no others ahead.
            ahead = await unit.dockets.ahead(person.id) if rows.dockets_more else rows.dockets
            refs = {line.ref for line in stand.lines if line.ref}
            numbers = await unit.dockets.numbers(refs)
        reasons = {d.id: d.reason for d in rows.decisions}
        settled = {a.id: a for a in stand.hand.accepted}
        changes = _changes(rows.history)
        lives = {
            a.id: future(subject, world, world.applications[a.application_id], a, now)
            for a in subject.accounts
        }
        later = _coming(subject, world, now)
        lanes: list[tuple[Application, Sequence[Bar]]] = [
            (world.applications[a.application_id], lives[a.id]) for a in subject.accounts
        ]
        lanes += [(c.application, c.bars) for c in later]
        return PersonShown(
            person=person,
            rev=known.revisions[person.id],
            state=state_at(person, now),
            now=now,
            manager=subject.manager.person if subject.manager else None,
            successor=subject.successor.person if subject.successor else None,
            roles=world.rules.roles_of(folded(person)),
            accounts=[
                ShownAccount(
                    a,
                    subject.locked(a),
                    world.applications[a.application_id],
                    _holdings(a, subject.ledger, reasons, world),
                    past(changes.get(a.id, ()), now) + lives[a.id],
                )
                for a in subject.accounts
            ],
            coming=later,
            standing=[shown_line(line, subject, world, numbers, settled) for line in stand.lines],
            next=coming(subject, world, lanes, _dated(ahead, now), now),
            seats=rows.seats,
            decisions=rows.decisions,
            dockets=rows.dockets,
            facts=rows.facts,
        )


def _entered(new: NewPerson, person: Person) -> Entered:
    said = [f.name for f in fields(NewPerson) if getattr(new, f.name)]
    return Entered(before=None, after=person, said=said, right=new.right)


def _changes(history: Sequence[HistoryEntry]) -> dict[str, list[Change]]:
    states: dict[str, list[Change]] = {}
    for entry in history:
        if entry.kind == "state":
            change = Change(entry.from_at, AccountState(entry.item))
            states.setdefault(entry.account_id, []).append(change)
    return states


def _holdings(
    account: Account, ledger: Ledger, reasons: Mapping[str, str], world: World
) -> list[HeldThing]:
    """Everything the account holds, each with where it comes from.

    What is held through other groups tells the path and where it is cut.
    """
    found = []
    held = [(HoldingKind.ENTITLEMENT, e) for e in sorted(account.entitlements)]
    held += [(HoldingKind.SEAT, s) for s in sorted(account.seats)]
    for kind, item in held:
        origin = ledger.get((account.id, kind, item))
        because = "found there, no rule gave it"
        if origin is not None and origin.kind is OriginKind.ROLE:
            because = f"role {origin.name}"
        elif origin is not None and origin.kind is OriginKind.DECISION:
            because = f"exception: {reasons.get(origin.name, origin.name)}"
        found.append(HeldThing(kind, item, because))
    nested = world.applications[account.application_id].nested
    for item, ways in sorted(held_through(account.entitlements, nested).items()):
        paths = ", ".join(" → ".join(way) for way in ways)
        first = " and ".join(way[0] for way in ways)
        because = f"{paths}; ends when {first} {'is' if len(ways) == 1 else 'are'} taken away"
        found.append(HeldThing(HoldingKind.ENTITLEMENT, item, because, nested=True))
    return found


def _coming(subject: Subject, world: World, now: datetime) -> list[ShownAccount]:
    """Applications in which the person will get an account, with hatched bars."""
    have = {a.application_id for a in subject.accounts}
    moments = [at for at, _ in dates(subject, world.applications.values()) if at > now]
    given = {i for at in moments for i in desired(subject, world.rules, at)} - have
    found = []
    for application_id in sorted(given & world.applications.keys()):
        application = world.applications[application_id]
        if bars := future(subject, world, application, None, now):
            found.append(
                ShownAccount(None, locked=False, application=application, holdings=(), bars=bars)
            )
    return found


def _dated(dockets: Sequence[DocketLine], now: datetime) -> list[Dated]:
    """The dockets of somebody that wait for their day."""
    return [
        Dated(
            d.due_at,
            d.number,
            f"{d.verb.value.capitalize()} docket begins"
            + (", if it is approved by then" if d.state is DocketState.AWAITING else ""),
            d.reason,
        )
        for d in dockets
        if d.state in (DocketState.SCHEDULED, DocketState.AWAITING) and d.due_at > now
    ]
