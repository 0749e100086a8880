"""Comparing two people or two roles line by line, and what it takes to be the same as somebody."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime

from yugum.core.accounts import HoldingKind
from yugum.core.actions import GONE
from yugum.core.decisions import OriginKind
from yugum.core.people import full_name
from yugum.core.roles import Rules
from yugum.engine.context import load_rules
from yugum.engine.trials import Thing, things_of
from yugum.errors import NotFound
from yugum.ports.units import Database, UnitOfWork


@dataclass(frozen=True, slots=True, kw_only=True)
class ComparedLine:
    """One thing, and where each side has it from; "" where it has not."""

    application_id: str
    kind: HoldingKind
    item: str
    left: str
    right: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Comparison:
    """Two people or roles side by side."""

    left: str
    right: str
    both: Sequence[ComparedLine]
    only_left: Sequence[ComparedLine]
    only_right: Sequence[ComparedLine]


NEWCOMER = datetime.max.replace(tzinfo=UTC)
"""What a role gives is told as somebody gets it who is yet to begin."""


class Comparing:
    def __init__(self, database: Database) -> None:
        self._database = database

    async def people(self, left: str, right: str) -> Comparison:
        """What two people hold, each line with where it comes from: a role, or an exception."""
        async with self._database.unit() as unit:
            left_name, one = await _held(unit, left)
            right_name, other = await _held(unit, right)
        return _compared(left_name, right_name, one, other)

    async def roles(self, left: str, right: str) -> Comparison:
        """What two roles give."""
        async with self._database.unit() as unit:
            rules = await load_rules(unit)
        return _compared(left, right, _given(rules, left), _given(rules, right))


def _given(rules: Rules, name: str) -> dict[Thing, str]:
    role = next((r for r in rules.roles if r.name == name), None)
    if role is None:
        raise NotFound(
            f"There is no role {name}.",
            remedy=f"Known are: {', '.join(r.name for r in rules.roles)}.",
            place="role",
        )
    return dict.fromkeys(things_of([role], rules, NEWCOMER), f"role {name}")


async def _held(unit: UnitOfWork, who: str) -> tuple[str, dict[Thing, str]]:
    person = await unit.people.resolve(who)
    known = await unit.accounts.known([person.id])
    decisions = {d.id: d.reason for d in known.decisions.get(person.id, ())}
    held: dict[Thing, str] = {}
    for account in known.accounts.get(person.id, ()):
        if account.state in GONE:
            continue
        things = [(HoldingKind.ACCOUNT, "")]
        things += [(HoldingKind.ENTITLEMENT, e) for e in sorted(account.entitlements)]
        things += [(HoldingKind.SEAT, s) for s in sorted(account.seats)]
        for kind, item in things:
            origin = known.ledger.get((account.id, kind, item))
            because = "found there"
            if origin is not None and origin.kind is OriginKind.ROLE:
                because = f"role {origin.name}"
            elif origin is not None and origin.kind is OriginKind.DECISION:
                because = f"exception: {decisions.get(origin.name, '')}"
            held[(account.application_id, kind, item)] = because
    return full_name(person), held


def _compared(
    left: str, right: str, one: Mapping[Thing, str], other: Mapping[Thing, str]
) -> Comparison:
    def line(thing: Thing) -> ComparedLine:
        return ComparedLine(
            application_id=thing[0],
            kind=thing[1],
            item=thing[2],
            left=one.get(thing, ""),
            right=other.get(thing, ""),
        )

    things = sorted(one.keys() | other.keys())
    return Comparison(
        left=left,
        right=right,
        both=[line(t) for t in things if t in one and t in other],
        only_left=[line(t) for t in things if t not in other],
        only_right=[line(t) for t in things if t not in one],
    )
