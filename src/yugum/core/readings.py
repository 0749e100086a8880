"""What a reading makes of an account: unchanged, new, or changed outside Yugum."""

from __future__ import annotations

from collections.abc import Iterator, Set
from dataclasses import dataclass

from yugum.core.accounts import AccountState, Observed

FALL = 0.7
"""A reading that finds less than this share of the accounts in use is not believed at once."""
FEW = 10
"""With fewer accounts than this, a fall says nothing."""


@dataclass(frozen=True, slots=True)
class Deviation:
    """One thing that is not as Yugum left it: ``kind`` is state, entitlement, seat or account."""

    kind: str
    item: str
    was: str
    now_is: str


def deviations(
    state: AccountState, entitlements: Set[str], seats: Set[str], seen: Observed
) -> Iterator[Deviation]:
    """What an account shows that differs from what was last known of it."""
    if seen.state is not state:
        yield Deviation("state", "", state.value, seen.state.value)
    for item in sorted(seen.entitlements - entitlements):
        yield Deviation("entitlement", item, "not held", "held")
    for item in sorted(entitlements - seen.entitlements):
        yield Deviation("entitlement", item, "held", "not held")
    if seen.seats is None:
        return
    for item in sorted(seen.seats - seats):
        yield Deviation("seat", item, "not held", "held")
    for item in sorted(seats - seen.seats):
        yield Deviation("seat", item, "held", "not held")


def is_fall(seen: int, before: int) -> bool:
    """Whether so few accounts were found that something is probably wrong with the application."""
    return before >= FEW and seen < before * FALL
