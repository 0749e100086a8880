"""Disconnecting an application: what follows from it, and the digest one agrees to."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field

from yugum.core.accounts import AccountState
from yugum.core.documents import Document, Json, full
from yugum.core.merkle import canonical
from yugum.core.wording import plural


@dataclass(frozen=True, slots=True, kw_only=True)
class Tied:
    """What hangs on an application.

    ``accounts`` counts them by state, ``left_open`` those of people whose access has ended and which
    are open still, ``owed`` what falls due there, ``open_steps`` what dockets have to do there still,
    ``in_doubt`` those of them of which nobody knows whether they were done, ``through`` names the
    applications that are reached through its sign-on, ``archived`` counts
    the accounts that are kept of when it was connected, ``holds`` are the reasons of holds on it or on
    whoever has an account there.
    """

    accounts: Mapping[AccountState, int] = field(default_factory=dict)
    left_open: int = 0
    owed: int = 0
    open_steps: int = 0
    open_dockets: int = 0
    in_doubt: int = 0
    tasks: int = 0
    seats: int = 0
    waiting: int = 0
    archived: int = 0
    through: Sequence[str] = ()
    holds: Sequence[str] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Disconnection:
    """What disconnecting an application would do; ``erase`` keeps nothing of its accounts here."""

    application_id: str
    name: str
    connected: bool
    erase: bool
    roles: Sequence[str]
    tied: Tied

    @property
    def digest(self) -> str:
        """Over what kind of things follow, and who stays open.

        Counts move all day while Yugum works: that there are steps is agreed to, not that there are 5.
        """
        tied: dict[str, Json] = {
            name: bool(value) if isinstance(value, int) else value
            for name, value in full(self.tied).items()
        }
        tied |= {"left_open": self.tied.left_open, "accounts": [*sorted(self.tied.accounts)]}
        document: Document = {**full(self), "tied": tied}
        return hashlib.sha256(canonical(document)).hexdigest()

    def follows(self) -> Iterator[str]:
        """What follows from it, the gravest first; one sentence each."""
        tied = self.tied
        if tied.left_open:
            yield (
                f"{plural(tied.left_open, 'account')} of people who have left "
                f"{_is(tied.left_open)} open there still: nobody will close "
                f"{'it' if tied.left_open == 1 else 'them'}."
            )
        if count := sum(tied.accounts.values()):
            states = ", ".join(f"{n} {s.value}" for s, n in sorted(tied.accounts.items()))
            yield (
                f"{plural(count, 'account')} {_is(count)} not read, planned for or cut off "
                f"any more ({states})."
            )
        if tied.owed:
            yield (
                f"{plural(tied.owed, 'suspension or deletion', 'suspensions or deletions')} owed there "
                f"{_is(tied.owed)} not done."
            )
        if tied.open_steps:
            yield (
                f"{plural(tied.open_steps, 'step')} of {plural(tied.open_dockets, 'docket')} "
                f"{_is(tied.open_steps)} left out."
            )
        if tied.tasks:
            yield f"{plural(tied.tasks, 'task')} there {_is(tied.tasks)} withdrawn."
        if tied.seats or tied.waiting:
            yield (
                f"{plural(tied.seats, 'seat')} and {plural(tied.waiting, 'place')} in line "
                "are not counted any more."
            )
        if self.roles:
            yield f"Roles that give something there give it to nobody: {', '.join(self.roles)}."
        if tied.through:
            yield f"No longer cut off with its sign-on: {', '.join(tied.through)}."
        if self.connected:
            yield "What Yugum signs in with is erased here; end it in the application, too."
        kept = sum(tied.accounts.values()) + tied.archived
        if self.erase:
            yield (
                f"{plural(kept, 'account')}, with what they held and when, {_is(kept)} erased here. "
                "Dockets and the audit log keep what was done."
            )
        else:
            yield (
                f"{plural(kept, 'account')}, with what they held and when, {_is(kept)} kept: "
                "connected again under the same id, they go on from there."
            )


def _is(count: int) -> str:
    return "is" if count == 1 else "are"
