"""Who takes over from people: who was named or chosen, else by the rules, else up the managers' chain."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field
from datetime import datetime
from typing import TypedDict

from yugum.core.accounts import AccountState
from yugum.core.desired import NO_FALLBACK, Fallback, Successor
from yugum.core.handover import choices
from yugum.core.heirs import MANAGER, MANAGERS_MANAGER, NO_RULES, HandoverRules, nearest
from yugum.core.people import Person, PersonState, full_name, state_at
from yugum.core.roles import Rules
from yugum.core.successors import unfit
from yugum.engine.managers import CHAIN
from yugum.engine.whom import people_named, whom
from yugum.errors import InvalidInput
from yugum.ports.accounts import Known
from yugum.ports.units import UnitOfWork

MOST_HOLDERS = 500
"""Of those who have a role, so many are looked at: those in the departments of whoever leaves first."""
Moments = Mapping[str, datetime]
"""When somebody takes over from people, by the ids of these."""


class Taking(TypedDict):
    """What `Subject` says of who takes over."""

    successor: Successor | None
    successor_named: bool
    heirs: Mapping[str, Successor]
    fallback: Fallback


@dataclass(frozen=True, slots=True, kw_only=True)
class Heirs:
    """Who takes over from some people, by the id of each of these.

    ``whole`` are their successors, ``named`` those of whom that was settled; ``chosen`` everybody who was chosen
    for some of what they own, ``ruled`` whom the rules name by login, ``above`` who is left from the manager's
    manager on, ``by_role`` who of those with a role takes over from each.
    """

    rules: HandoverRules
    at: Moments
    whole: Mapping[str, Person]
    named: Collection[str] = ()
    chosen: Mapping[str, Person] = field(default_factory=dict)
    ruled: Mapping[str, Person] = field(default_factory=dict)
    above: Mapping[str, Person] = field(default_factory=dict)
    by_role: Mapping[str, Mapping[str, Person]] = field(default_factory=dict)

    def everybody(self) -> dict[str, Person]:
        """All who may take over, by id."""
        several = (self.whole, self.chosen, self.ruled, self.above, *self.by_role.values())
        return {p.id: p for some in several for p in some.values()}

    def of(self, person_id: str, known: Mapping[str, Successor]) -> Taking:
        """Who takes over from one of them; ``known`` has everybody's accounts."""
        heir = self.whole.get(person_id)
        return Taking(
            successor=_taking(known, heir) if heir else None,
            successor_named=person_id in self.named,
            heirs={i: _taking(known, one) for i, one in self.chosen.items()},
            fallback=self._fallback(person_id, known),
        )

    def _fallback(self, person_id: str, known: Mapping[str, Successor]) -> Fallback:
        if self.rules == NO_RULES:
            return NO_FALLBACK
        found = []
        up = {MANAGER: self.whole, MANAGERS_MANAGER: self.above}
        for default in self.rules.defaults:
            by = self.by_role.get(default.role, {}) if default.role else up.get(default.to)
            heir = by.get(person_id) if by is not None else self.ruled.get(default.to)
            if heir is not None and heir.id != person_id and not unfit(heir, self.at[person_id]):
                found.append((default, _taking(known, heir)))
        keeper = self.ruled.get(self.rules.custodian)
        return Fallback(
            defaults=tuple(found),
            custodian=_taking(known, keeper) if keeper else None,
            custodian_days=self.rules.custodian_days,
            ask=self.rules.ask,
        )


async def heirs_of(
    unit: UnitOfWork,
    people: Mapping[str, Person],
    known: Known,
    rules: Rules,
    at: Moments,
    named: Mapping[str, str],
) -> Heirs:
    """Who takes over from some people, of each at a moment, ``named`` by an operator or not.

    Raises:
        InvalidInput: a successor who is named has left or is among the people.
    """
    said = rules.handover
    whole, settled = await _successors(unit, people, known, at, named)
    logins = sorted(said.logins())
    ruled = (await whom(unit, logins, 0))[0] if logins else {}
    above: dict[str, Person] = {}
    if any(d.to == MANAGERS_MANAGER for d in said.defaults):
        above = await _above(unit, people, at)
    return Heirs(
        rules=said,
        at=at,
        whole=whole,
        named=settled,
        chosen=await _chosen(unit, people, known, at),
        ruled=ruled,
        above=above,
        by_role=await _by_role(unit, people, known, rules, at),
    )


async def _by_role(
    unit: UnitOfWork, people: Mapping[str, Person], known: Known, rules: Rules, at: Moments
) -> dict[str, dict[str, Person]]:
    """Who of those that have a role takes over from each, by the roles that the rules name."""
    found: dict[str, dict[str, Person]] = {}
    if not (named := rules.handover.roles()):
        return found
    owning = {i for i in people if any(a.assets for a in known.accounts.get(i, ()))}
    leaving = {i: p for i, p in people.items() if p.access_ends is not None or i in owning}
    if not leaving:
        return found
    near = sorted({p.department for p in leaving.values()})
    for role in rules.roles:
        if role.name not in named:
            continue
        holders = await unit.people.with_role(role, near, min(at[i] for i in leaving), MOST_HOLDERS)
        heirs = {i: nearest(p, holders, at[i]) for i, p in leaving.items()}
        found[role.name] = {i: heir for i, heir in heirs.items() if heir is not None}
    return found


def _taking(known: Mapping[str, Successor], heir: Person) -> Successor:
    """Somebody who takes over, with the accounts that can receive something."""
    accounts = known[heir.id].accounts
    active = {i: a for i, a in accounts.items() if a.state is AccountState.ACTIVE}
    return Successor(person=heir, accounts=active)


async def _chosen(
    unit: UnitOfWork, people: Mapping[str, Person], known: Known, at: Moments
) -> dict[str, Person]:
    """Those who were chosen for some of what people own."""
    ids = {
        d.payload.person
        for person_id in people
        for d in choices(known.decisions.get(person_id, ()), at[person_id], narrow=True)
        if d.payload.person
    }
    if not ids:
        return {}
    return {i: person for i, (person, _) in (await unit.people.many(sorted(ids))).items()}


async def _above(unit: UnitOfWork, people: Mapping[str, Person], at: Moments) -> dict[str, Person]:
    """Who is the first from the manager's manager on who can take over."""
    managers = await unit.people.many({p.manager_id for p in people.values() if p.manager_id})
    starts = {
        i: managers[p.manager_id][0].manager_id
        for i, p in people.items()
        if p.manager_id in managers
    }
    return await _up(unit, {i: start for i, start in starts.items() if start}, {}, at)


async def _successors(
    unit: UnitOfWork,
    people: Mapping[str, Person],
    known: Known,
    at: Moments,
    named: Mapping[str, str],
) -> tuple[dict[str, Person], set[str]]:
    """Who takes over from each: the one named, the one decided, else up the managers' chain; and of whom it is settled.

    From one decided it goes up only where they have left: whoever cannot for another reason takes nothing, and
    nobody else does it instead of them unasked.
    """
    heirs = await people_named(unit, sorted({*named.values()})) if named else {}
    found = {i: heirs[who] for i, who in named.items()}
    for heir in heirs.values():
        await must_take_over(unit, heir, people, max(at.values()))
    wanted: dict[str, str] = {}
    decided: dict[str, str] = {}
    for person_id, person in people.items():
        if person_id in found:
            continue
        made = choices(known.decisions.get(person_id, ()), at[person_id], narrow=False)
        if made:
            wanted[person_id] = decided[person_id] = made[-1].payload.person
        elif person.manager_id:
            wanted[person_id] = person.manager_id
    found |= await _up(unit, wanted, decided, at)
    settled = {i for i, heir_id in decided.items() if i in found and found[i].id == heir_id}
    return found, {*named, *settled}


async def _up(
    unit: UnitOfWork, wanted: Mapping[str, str], decided: Mapping[str, str], at: Moments
) -> dict[str, Person]:
    """The first from somebody on, up the managers' chain, who can take over; one ``decided`` while they are there."""
    found: dict[str, Person] = {}
    for _ in range(CHAIN):
        if not wanted:
            break
        loaded = await unit.people.many(set(wanted.values()))
        following: dict[str, str] = {}
        for person_id, heir_id in wanted.items():
            entry = loaded.get(heir_id)
            if entry is None:
                continue
            heir, moment = entry[0], at[person_id]
            named = heir.id == decided.get(person_id)
            stays = named and state_at(heir, moment) is not PersonState.LEFT
            if heir.id != person_id and (stays or not unfit(heir, moment)):
                found[person_id] = heir
            elif heir.manager_id and heir.manager_id != heir_id:
                following[person_id] = heir.manager_id
        wanted = following
    return found


def check_successor(
    heir: Person, people: Mapping[str, Person], at: datetime, instead: Person | None = None
) -> None:
    """Whether somebody can take over from others at a moment; ``instead`` is who could.

    Raises:
        InvalidInput: they are one of them, have left or are about to, have not begun, or are away.
    """
    if heir.id in people:
        raise InvalidInput(
            f"{full_name(heir)} cannot take over from themselves.",
            place="successor",
            remedy="Name somebody else.",
        )
    if why := unfit(heir, at):
        other = f"for example {full_name(instead)} ({instead.user_name}), " if instead else ""
        raise InvalidInput(
            f"{full_name(heir)} (no. {heir.employee_number}) {why} and cannot take over.",
            place="successor",
            remedy=f"Name somebody who stays, {other}or leave the successor out to use the manager.",
        )


async def must_take_over(
    unit: UnitOfWork, heir: Person, people: Mapping[str, Person], at: datetime
) -> None:
    """`check_successor`, with the next living person up the managers' chain said."""
    instead = None
    if unfit(heir, at):
        above = heir.manager_id
        for _ in range(CHAIN):
            entry = (await unit.people.many([above])).get(above) if above else None
            if entry is None:
                break
            if entry[0].id not in people and not unfit(entry[0], at):
                instead = entry[0]
                break
            above = entry[0].manager_id
    check_successor(heir, people, at, instead)
