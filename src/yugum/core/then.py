"""Somebody as they were at a moment, worked out from what is written down of them."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime

from yugum.core.facts import Fact, Fields
from yugum.core.lifeline import HistoryEntry
from yugum.core.people import MOMENTS


@dataclass(frozen=True, slots=True)
class AccountThen:
    """An account at a moment; ``state`` is what it was last seen in."""

    account_id: str
    state: str
    entitlements: Sequence[str]
    seats: Sequence[str]


def fields_then(now: Fields, facts: Sequence[Fact], at: datetime) -> dict[str, str]:
    """Fields that had a value at a moment, as far as it is known today what came true when.

    Of each field the change counts that came true last until then; where the first one came true later,
    what was before it; where there was none, what is now.
    """
    found = {}
    for name, value in now.items():
        mine = sorted(_leading_to(name, value, facts), key=lambda f: (f.effective_at, f.known_at))
        past = [f for f in mine if f.effective_at <= at]
        if past:
            value = past[-1].after[name]
        elif mine:
            value = mine[0].before[name]
        if value:
            found[name] = value
    return found


def _leading_to(name: str, value: str | None, facts: Sequence[Fact]) -> Iterator[Fact]:
    """The changes of a field that led to its value, the last one known first.

    Others are those of somebody who was merged with this person.
    """
    for fact in sorted(facts, key=lambda f: f.known_at, reverse=True):
        if name in fact.after and _same(name, fact.after[name], value):
            value = fact.before[name]
            yield fact


def _same(name: str, one: str | None, other: str | None) -> bool:
    if one and other and name in MOMENTS:
        return datetime.fromisoformat(one) == datetime.fromisoformat(other)
    return (one or "") == (other or "")


def accounts_then(history: Sequence[HistoryEntry], at: datetime) -> list[AccountThen]:
    """What was held at a moment; accounts that were not known yet are none of them."""
    held: dict[str, dict[str, list[str]]] = {}
    for one in history:
        if one.from_at <= at and (one.until_at is None or at < one.until_at):
            held.setdefault(one.account_id, {}).setdefault(one.kind, []).append(one.item)
    return [
        AccountThen(
            account_id,
            kinds["state"][-1],
            sorted(kinds.get("entitlement", ())),
            sorted(kinds.get("seat", ())),
        )
        for account_id, kinds in held.items()
        if "state" in kinds
    ]
