"""Linking accounts that were there before their people, and what a link makes of what is held."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from datetime import datetime

from yugum.core.accounts import AccountKind, AccountState, HoldingKind, Observed
from yugum.core.applications import Application, Capability
from yugum.core.decisions import LedgerKey, Origin, OriginKind
from yugum.core.matching import CERTAIN, Candidates, as_seen
from yugum.core.people import Person, folded, start_moment
from yugum.core.roles import Rules
from yugum.engine.context import load_applications, load_rules
from yugum.ports.proposals import Proposal
from yugum.ports.units import UnitOfWork

HOLDING = (AccountState.ACTIVE, AccountState.SUSPENDED)
AUTHOR = "Yugum"


async def link_found(unit: UnitOfWork, people: Sequence[Person], now: datetime) -> int:
    """Link accounts that are nobody's yet to people who are new, or known by more now; how many.

    Whom an account belongs to is told by the same rules as when it is read; what is not certain is
    proposed.
    """
    found = await unit.readings.unlinked(people)
    if not found:
        return 0
    candidates = Candidates(await unit.readings.candidates([seen for _, seen in found]))
    proposals, linked = [], {}
    for account, seen in found:
        match = candidates.match(seen)
        if match is None:
            continue
        if match.confidence >= CERTAIN:
            linked[account.id] = match.person_id
            await unit.proposals.decide(account.id, match.person_id, AUTHOR)
        else:
            proposals.append(
                Proposal(
                    account_id=account.id,
                    person_id=match.person_id,
                    rule=match.rule,
                    confidence=match.confidence,
                    made_at=now,
                )
            )
    await unit.proposals.add(proposals)
    await adopt_linked(unit, list(linked), now)
    return len(linked)


async def adopt_linked(unit: UnitOfWork, account_ids: Sequence[str], now: datetime) -> None:
    """What a role would give of newly linked accounts is the role's; the rest was found there."""
    accounts = (await unit.accounts.some(account_ids)).values()
    rules = await load_rules(unit)
    applications = await load_applications(unit)
    by_application: dict[str, list[tuple[str, str, Observed]]] = {}
    for a in accounts:
        if a.person_id and a.kind is AccountKind.PERSON:
            held = by_application.setdefault(a.application_id, [])
            held.append((a.id, a.person_id, as_seen(a)))
    for application_id, held in by_application.items():
        await adopt_given(unit, applications[application_id], rules, held, now)
        await unit.seats.reconcile(application_id, now)


async def adopt_given(
    unit: UnitOfWork,
    application: Application,
    rules: Rules,
    held: Sequence[tuple[str, str, Observed]],
    now: datetime,
) -> None:
    """What a role would give anyway is the role's; ``held`` are accounts with person and sight.

    Where an application knows no seats, whoever has what a role gives holds its seat.
    """
    if not held or not rules.roles:
        return
    people = await unit.people.many({person_id for _, person_id, _ in held})
    books = not application.can(Capability.SEATS)
    seats: dict[str, set[str]] = {}
    origins: list[tuple[LedgerKey, Origin]] = []
    for account_id, person_id, seen in held:
        for role in rules.roles_of(folded(people[person_id][0])):
            origin = Origin(OriginKind.ROLE, role.name)
            for given in role.gives_to(start_moment(people[person_id][0])):
                if given.application_id != application.id:
                    continue
                there = _held(seen, given.kind)
                if books and given.kind is HoldingKind.SEAT and seen.state in HOLDING:
                    seats.setdefault(account_id, set(seen.seats or ())).add(given.item)
                    there = {given.item}
                if given.item in there:
                    origins.append(((account_id, given.kind, given.item), origin))
    await unit.accounts.adopt(origins, now)
    if seats:
        await unit.accounts.set_seats(seats)


def _held(seen: Observed, kind: HoldingKind) -> Collection[str]:
    """What of a kind an account holds, as far as a role can have given it."""
    match kind:
        case HoldingKind.ACCOUNT:
            return ("",)
        case HoldingKind.ENTITLEMENT:
            return seen.entitlements
        case HoldingKind.SEAT:
            return seen.seats or ()
        case HoldingKind.SETTING:
            return ()
