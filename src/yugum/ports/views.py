"""Read models that no use case decides on: the installation, the day sheet, windows, handovers."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Protocol

from yugum.core.actions import Action
from yugum.core.dockets import DocketLine, DocketState, StepProblem, StepState
from yugum.core.facts import Fact, Fields
from yugum.core.lifeline import HistoryEntry
from yugum.core.people import PersonState
from yugum.core.verbs import Verb
from yugum.core.views import Noun
from yugum.ports.decisions import DecisionLine
from yugum.ports.pages import ListPage
from yugum.ports.seats import SeatOf


@dataclass(frozen=True, slots=True, kw_only=True)
class Installation:
    """Whose installation this is; ``prefix`` leads docket numbers, ``zone`` is its time zone."""

    organisation: str
    prefix: str
    zone: str
    demo: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class DayDocket:
    """A docket on the day sheet; ``problem`` is of its first open step that has one."""

    id: str
    number: int
    verb: Verb
    state: DocketState
    due_at: datetime
    reason: str
    changes: Fields
    summary: Sequence[str]
    person_id: str
    display_name: str
    title: str
    department: str
    site: str
    time_zone: str
    steps_total: int
    steps_done: int
    problem: StepProblem | None


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenLate:
    """An account that is open past its person's time, and what keeps its cut-off."""

    person_id: str
    display_name: str
    application_name: str
    contact: str
    login: str
    access_ends: datetime
    problem: StepProblem | None


@dataclass(frozen=True, slots=True, kw_only=True)
class StuckStep:
    """A step that is stuck."""

    step_id: str
    docket_id: str
    number: int
    verb: Verb
    person_id: str
    display_name: str
    application_name: str
    contact: str
    action: Action
    item: str
    state: StepState
    problem: StepProblem | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Window:
    """A deleted account that can come back until a moment; ``held`` when a hold protects it."""

    account_id: str
    login: str
    recoverable_until: datetime
    application_name: str
    person_id: str | None
    display_name: str | None
    held: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class HandoverLine:
    """A thing and its new home, or a copy of it; ``from_name`` is None where it came back from a successor."""

    kind: str
    name: str
    copied: bool
    at: datetime
    number: int
    application_name: str
    person_id: str
    from_name: str | None
    from_login: str | None
    to_person_id: str | None
    to_name: str | None
    to_login: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Figures:
    """Numbers for navigation; ``rules`` is the version in force.

    Counted to 10,000: of those in ``over`` there are more. ``dockets`` have not ended; ``findings`` are
    what the list of findings has, ``failed_mails`` have been tried in vain, and who is ``asked`` whether
    they take something over has not answered.
    """

    people: int
    dockets: int
    waiting_seats: int
    tasks: int
    late_tasks: int
    approvals: int
    failed_mails: int
    asked: int
    applications: int
    rules: int
    accounts: int
    findings: int = 0
    over: Sequence[str] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Counts:
    """Numbers for health: the figures, and people by state."""

    figures: Figures
    states: Mapping[PersonState, int]


@dataclass(frozen=True, slots=True)
class Turns:
    """How far each noun's sequence is, and the numbers of the transactions that are changing something."""

    last: Mapping[Noun, int]
    running: frozenset[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class DayRows:
    """What is due on a day and ``later`` in its week, what is late, stuck, or about to be lost."""

    dockets: Sequence[DayDocket]
    later: Sequence[DayDocket]
    open_late: Sequence[OpenLate]
    stuck: Sequence[StuckStep]
    last_call: Sequence[Window]


@dataclass(frozen=True, slots=True, kw_only=True)
class PersonRows:
    """What a person's page tells beside what plans are made of: the latest of each.

    ``dockets_more`` says that there are more than these. ``history`` is of accounts they have.
    """

    history: Sequence[HistoryEntry]
    decisions: Sequence[DecisionLine]
    dockets: Sequence[DocketLine]
    dockets_more: bool
    seats: Sequence[SeatOf]
    facts: Sequence[Fact]


class ViewStore(Protocol):
    async def of_person(self, person_id: str) -> PersonRows: ...

    async def installation(self) -> Installation | None:
        """Whose installation this is; None in a database that is nobody's yet."""
        ...

    async def found(self, installation: Installation) -> None:
        """Write down whose installation this is, once.

        Raises:
            Conflict: it belongs to an organisation already.
        """
        ...

    async def day(self, begin: datetime, now: datetime, end: datetime, week: timedelta) -> DayRows:
        """Of a day from ``begin`` to ``end``, and of a ``week`` after it; a few hundred of each at the most."""
        ...

    async def windows(
        self, now: datetime, until: datetime, application_id: str, cursor: str | None, limit: int
    ) -> ListPage[Window]:
        """Deleted accounts that can come back, the one lost first at the top."""
        ...

    async def handovers(
        self, docket_id: str, person_id: str, cursor: str | None, limit: int
    ) -> ListPage[HandoverLine]:
        """Every thing that got a new home, the newest first: of a docket, of a person, or all."""
        ...

    async def figures(self, *, whole: bool = False) -> Figures:
        """What there is, findings apart; counted to the end only where ``whole`` asks for it."""
        ...

    async def counts(self, now: datetime, *, whole: bool = False) -> Counts:
        """Numbers for the console's navigation and for ``yugum status``."""
        ...

    async def turns(self) -> Turns:
        """What was changed up to now, in one statement."""
        ...

    async def gather(self) -> None:
        """Add up how many accounts there are, which is written down change by change."""
        ...

    async def ping(self) -> float:
        """Milliseconds a trivial statement takes."""
        ...
