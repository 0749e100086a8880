"""The lifeline: what an account was, is and will be, as bars on a time line.

The past comes from recorded history, the future from dates on the person and obligations on the
account; both are the same shape, the future marked as planned.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from yugum.core.accounts import Account, AccountState
from yugum.core.applications import Application, Deletion, effective_deletion
from yugum.core.people import Person, start_moment
from yugum.core.windows import close_due, recoverable_until


@dataclass(frozen=True, slots=True)
class Bar:
    """A state from a moment until another; ``until`` None means as far as can be seen."""

    state: AccountState
    start: datetime
    until: datetime | None
    planned: bool = False


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


def future(
    account: Account | None, person: Person, application: Application, now: datetime
) -> list[Bar]:
    """Hatched bars after now, from the person's dates and the account's window."""
    state = account.state if account else None
    if state is AccountState.PURGED:
        return []
    if state is AccountState.DELETED:
        assert account is not None
        return _ends_in_purge(now, account.recoverable_until)
    leaves = person.access_ends
    begins = now
    bars: list[Bar] = []
    if state is None:
        starts = start_moment(person)
        if starts is None or starts <= now or (leaves is not None and starts >= leaves):
            return []
        begins, state = starts, AccountState.ACTIVE
    if leaves is None:
        return [Bar(state, begins, None, planned=True)]
    if leaves > begins:
        bars.append(Bar(state, begins, leaves, planned=True))
        begins = leaves
    closes = close_due(leaves, application)
    if closes > begins:
        bars.append(Bar(AccountState.SUSPENDED, begins, closes, planned=True))
    ends = recoverable_until(max(closes, begins), application)
    if effective_deletion(application) is Deletion.FINAL:
        bars.append(Bar(AccountState.PURGED, max(closes, begins), None, planned=True))
        return bars
    bars.append(Bar(AccountState.DELETED, max(closes, begins), ends, planned=True))
    bars.append(Bar(AccountState.PURGED, ends, None, planned=True))
    return bars


def _ends_in_purge(now: datetime, until: datetime | None) -> list[Bar]:
    if until is None:
        return [Bar(AccountState.DELETED, now, None, planned=True)]
    bars = [Bar(AccountState.PURGED, max(now, until), None, planned=True)]
    if until > now:
        bars.insert(0, Bar(AccountState.DELETED, now, until, planned=True))
    return bars


@dataclass(frozen=True, slots=True)
class Upcoming:
    """Something that will happen, in a sentence, and why."""

    at: datetime
    text: str
    because: str


def upcoming(lanes: Sequence[tuple[Application, Sequence[Bar]]], now: datetime) -> list[Upcoming]:
    """The future of several lanes as dated sentences; what happens together is one sentence."""
    grouped: dict[tuple[datetime, AccountState], list[Application]] = {}
    for application, bars in lanes:
        states = [b.state for b in bars]
        for index, bar in enumerate(bars):
            goes_on = index > 0 and states[index - 1] is bar.state
            if bar.start <= now or goes_on:
                continue
            grouped.setdefault((bar.start, bar.state), []).append(application)
    lines = []
    for (at, state), applications in sorted(grouped.items(), key=lambda g: g[0][0]):
        names = ", ".join(a.name for a in applications)
        days = sorted({a.profile.window_days for a in applications})
        close = sorted({a.profile.close_after_days for a in applications})
        match state:
            case AccountState.ACTIVE:
                lines.append(Upcoming(at, f"Account in {names}", "first day"))
            case AccountState.SUSPENDED:
                lines.append(Upcoming(at, f"Cut off in {names}", "access ends"))
            case AccountState.DELETED:
                because = f"{_days(close)} after the access ends"
                lines.append(Upcoming(at, f"Deleted in {names}, can come back", because))
            case AccountState.PURGED:
                text = f"{names} cannot come back after this moment"
                lines.append(Upcoming(at, text, f"window of {_days(days)}"))
            case AccountState.ARCHIVED:
                lines.append(Upcoming(at, f"Archived in {names}", "closing"))
    return lines


def _days(counts: Sequence[int]) -> str:
    return f"{' or '.join(str(c) for c in counts)} days"
