"""The journal: intents and receipts of many steps in one transaction, with what follows from them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol

from yugum.core.accounts import Account, Asset
from yugum.core.actions import NOT_SHOWN, NOTHING_DONE, Done, Facet
from yugum.core.decisions import LedgerKey, Origin
from yugum.core.dockets import Outcome, Step, StepProblem, StepState
from yugum.ports.audit import Event


@dataclass(slots=True, kw_only=True)
class Entry:
    """One row of the journal: a step's intent, receipt, problem or wait, and what follows from it.

    It carries no time: the journal stamps a whole flush with one reading of business time.
    ``retry_seconds`` and ``took_ms`` are machine time; ``credential`` is encrypted.
    """

    step: Step
    epoch: int
    state: StepState
    attempts: int
    retry_seconds: float | None = None
    problem: StepProblem | None = None
    found: Facet | None = None
    moving: Sequence[Asset] = ()
    outcome: Outcome | None = None
    did: Done = NOTHING_DONE
    seen: Facet = NOT_SHOWN
    took_ms: float = 0.0
    account: Account | None = None
    origins: Sequence[tuple[LedgerKey, Origin | None]] = ()
    freed_licenses: Sequence[str] = ()
    credential: bytes | None = None


class JournalStore(Protocol):
    async def write(
        self, entries: Sequence[Entry], events: Sequence[Event], at: datetime
    ) -> set[str]:
        """Write entries (at most one a step); returns the ids of the steps that were taken.

        ``at`` is the business time of all of them; an event is kept when its step was taken (they go
        together by their place, or there are none). A step is not taken when another worker has
        claimed its subject since, or when it is finished already.
        """
        ...
