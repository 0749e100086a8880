"""Deviations: what an application shows that is not as Yugum left it."""

from __future__ import annotations

from collections.abc import Iterator, Set
from dataclasses import dataclass
from enum import StrEnum

from yugum.core.accounts import AccountState, Observed

HELD, NOT_HELD = "held", "not held"
THERE, NOT_THERE, GONE = "there", "not there", "gone"


class DeviationKind(StrEnum):
    """What of an account was changed outside."""

    STATE = "state"
    ENTITLEMENT = "entitlement"
    SEAT = "seat"
    ACCOUNT = "account"
    ATTRIBUTE = "attribute"


class DeviationState(StrEnum):
    """What was decided about it."""

    OPEN = "open"
    KEPT = "kept"
    REVERTED = "reverted"


class Meaning(StrEnum):
    """What a suspension made outside may mean for all other applications."""

    LEAVER = "leaver"
    ABSENCE = "absence"
    PRECAUTION = "precaution"


@dataclass(frozen=True, slots=True)
class Deviation:
    """One change made outside: ``was`` and ``now_is`` are states, held or not, there or gone."""

    kind: DeviationKind
    item: str
    was: str
    now_is: str


def may_mean(change: DeviationKind, was: str, now_is: str) -> tuple[Meaning, ...]:
    """What a change may mean elsewhere: a suspended account is somebody gone, away or in doubt."""
    suspended = (was, now_is) == (AccountState.ACTIVE, AccountState.SUSPENDED)
    return tuple(Meaning) if change is DeviationKind.STATE and suspended else ()


def deviations(
    state: AccountState, entitlements: Set[str], seats: Set[str], seen: Observed
) -> Iterator[Deviation]:
    """What an account shows that differs from what was last known of it."""
    if seen.state is not state:
        yield Deviation(DeviationKind.STATE, "", state.value, seen.state.value)
    yield from _held(DeviationKind.ENTITLEMENT, entitlements, seen.entitlements)
    if seen.seats is not None:
        yield from _held(DeviationKind.SEAT, seats, seen.seats)


def _held(kind: DeviationKind, before: Set[str], now: Set[str]) -> Iterator[Deviation]:
    for item in sorted(now - before):
        yield Deviation(kind, item, NOT_HELD, HELD)
    for item in sorted(before - now):
        yield Deviation(kind, item, HELD, NOT_HELD)
