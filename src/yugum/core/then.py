"""Somebody as they were at a moment, worked out from what is written down of them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

Fields = Mapping[str, str | None]


@dataclass(frozen=True, slots=True)
class FieldsChanged:
    """A change of fields: when it came true, and when that was known."""

    effective_at: datetime
    known_at: datetime
    before: Fields
    after: Fields


@dataclass(frozen=True, slots=True)
class Held:
    """A state an account was in or something it held, from a moment until before another (None: still).

    ``kind`` is ``state``, ``entitlement`` or ``seat``.
    """

    account_id: str
    kind: str
    item: str
    from_at: datetime
    until_at: datetime | None


@dataclass(frozen=True, slots=True)
class AccountThen:
    """An account at a moment; ``state`` is what it was last seen in."""

    account_id: str
    state: str
    entitlements: Sequence[str]
    seats: Sequence[str]


def fields_then(now: Fields, changes: Sequence[FieldsChanged], at: datetime) -> dict[str, str]:
    """Fields that had a value at a moment, as far as it is known today what came true when.

    Of each field the change counts that came true last until then; where the first one came true later,
    what was before it; where there was none, what is now.
    """
    found = dict(now)
    ordered = sorted(changes, key=lambda c: (c.effective_at, c.known_at))
    for change in reversed(ordered):
        if change.effective_at > at:
            found.update(change.before)
    for change in ordered:
        if change.effective_at <= at:
            found.update(change.after)
    return {name: value for name, value in found.items() if value}


def accounts_then(history: Sequence[Held], at: datetime) -> list[AccountThen]:
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
