"""The lifeline: what an account was, is and will be, as bars on a time line.

The past comes from recorded history, the future from `core.coming`; both are the same shape, the
future marked as planned.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from yugum.core.accounts import AccountState


@dataclass(frozen=True, slots=True)
class Bar:
    """A state from a moment until another; ``until`` None means as far as can be seen.

    ``because`` is why one that is planned begins.
    """

    state: AccountState
    start: datetime
    until: datetime | None
    planned: bool = False
    because: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class HistoryEntry:
    """A state an account was in, or something it held, from when until when (None: still).

    ``kind`` is ``state``, ``entitlement`` or ``seat``; ``item`` the state or the name.
    """

    account_id: str
    kind: str
    item: str
    from_at: datetime
    until_at: datetime | None


@dataclass(frozen=True, slots=True)
class Change:
    """A recorded change of an account's state."""

    at: datetime
    state: AccountState


def past(changes: Sequence[Change], now: datetime) -> list[Bar]:
    """Solid bars from recorded changes up to now."""
    bars: list[Bar] = []
    ordered = sorted((c for c in changes if c.at <= now), key=lambda c: c.at)
    for index, change in enumerate(ordered):
        until = ordered[index + 1].at if index + 1 < len(ordered) else now
        if change.state is AccountState.PURGED:
            bars.append(Bar(change.state, change.at, None))
        elif until > change.at or index + 1 == len(ordered):
            bars.append(Bar(change.state, change.at, until))
    return bars
