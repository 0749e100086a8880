"""Whose state changed, up to when it was looked at, and since when their accounts are given."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime, timedelta
from typing import Protocol

from yugum.core.decisions import Right
from yugum.core.lines import Acceptance, Hand, Key, Line, LineKind, LineStatus, Side
from yugum.core.rights import Said, Turn
from yugum.ports.pages import ListPage


@dataclass(frozen=True, slots=True, kw_only=True)
class Head:
    """Up to when a subject was looked at (None: never), and the person whose state it read.

    ``patrol`` says that nothing but the daily look at everybody asks for it.
    """

    subject_id: str
    upto: datetime | None = None
    shape: str = ""
    leans_on: str | None = None
    patrol: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Told:
    """What the facts recorded of somebody say: moments that changed something, known since.

    ``end_known_at`` is when the end of access, as it stands, was known; ``made_at`` when somebody never
    looked at was made known. ``said`` are the changes themselves, known since as well. ``upto`` is up to
    when each was looked at, but for those who never were.
    """

    upto: Mapping[str, datetime] = field(default_factory=dict)
    turns: Mapping[str, Sequence[Turn]] = field(default_factory=dict)
    said: Mapping[str, Sequence[Said]] = field(default_factory=dict)
    end_known_at: Mapping[str, datetime] = field(default_factory=dict)
    made_at: Mapping[str, datetime] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class Alike:
    """Somebody of whom nothing is to be done but what roles say of what they hold.

    Whoever has the same ``shape``, and began to the same rules, has the same lines. ``accounts`` stand in
    an order that is the same for all of a shape; ``seen`` is when each was last seen.
    """

    subject_id: str
    shape: str
    accounts: tuple[str, ...]
    seen: tuple[datetime, ...]
    starts: date | None
    time_zone: str
    leans_on: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Together:
    """Lines of the first of some people who are alike; each of them with since when."""

    lines: Sequence[Line]
    members: Sequence[tuple[Alike, datetime]]


@dataclass(frozen=True, slots=True, kw_only=True)
class Chosen:
    """Which lines are asked for; ``before`` those that stand since then at the latest."""

    status: LineStatus | None = None
    kind: LineKind | None = None
    side: Side | None = None
    application_id: str = ""
    subject_id: str = ""
    before: datetime | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class StandingLine:
    """A line in a list, with the names people read; ``contact`` is whom to ask about it."""

    subject_id: str
    display_name: str
    user_name: str
    application_id: str
    application_name: str
    contact: str
    account_id: str
    login: str
    kind: LineKind
    item: str
    side: Side
    want: str
    held: str
    reason: str
    status: LineStatus
    code: str
    number: int | None
    since: datetime
    waits_since: datetime | None
    accepted_by: str
    accepted_why: str
    accepted_until: datetime | None
    acceptance_id: str | None


class StandingStore(Protocol):
    async def mark(self, subject_ids: Iterable[str]) -> None:
        """Let subjects be looked at again, though nothing of theirs was written."""
        ...

    async def take(self, limit: int) -> Mapping[str, Head]:
        """Subjects that have a mark, locked for this transaction; their marks are gone with it."""
        ...

    async def hold(self, subject_ids: Collection[str]) -> None:
        """Let nobody look at some subjects until the end of this transaction.

        Whoever takes a subject out, or into another, does this before anything else: a look that is
        under way writes to it.
        """
        ...

    async def put_heads(self, heads: Iterable[Head]) -> None:
        """Say up to when subjects were looked at; who leans on one whose shape changed is marked."""
        ...

    async def forget(self, subject_ids: Collection[str]) -> None:
        """These are no subjects any more."""
        ...

    async def put_rights(self, rights: Iterable[Right]) -> None:
        """Store rights that are new or have ended; what has ended is never changed."""
        ...

    async def told(self, subject_ids: Collection[str]) -> Told:
        """What facts say of people, of each as far as it was known after the last look."""
        ...

    async def entitled(
        self, subject_ids: Collection[str], account_ids: Collection[str]
    ) -> tuple[Mapping[str, Right], Told]:
        """The last right to each of some accounts, and what is `told` of whose they are."""
        ...

    async def hands(self, subject_ids: Collection[str], now: datetime) -> Mapping[str, Hand]:
        """What is in hand about subjects beside their open steps."""
        ...

    async def stood(
        self, subject_ids: Collection[str], now: datetime
    ) -> tuple[Mapping[str, Hand], Mapping[str, Mapping[Key, Line]]]:
        """`hands`, and the lines of subjects as last worked out."""
        ...

    async def alike(
        self,
        subject_ids: Collection[str],
        attributes: Sequence[str],
        items: Collection[str],
        now: datetime,
    ) -> Sequence[Alike]:
        """Those of some people who have nothing but accounts and an origin of what they hold.

        ``attributes`` decide about their roles, ``items`` are the groups that rules name.
        """
        ...

    async def put_together(self, groups: Iterable[Together]) -> None:
        """Store the lines of people who had none; of subjects that this transaction has taken."""
        ...

    async def put_lines(
        self,
        new: Iterable[tuple[str, Line]],
        changed: Iterable[tuple[str, Line]],
        gone: Iterable[tuple[str, Key]],
    ) -> None:
        """Store lines that are new, and those that differ, which keep since when; drop others.

        Of subjects that this transaction has taken.
        """
        ...

    async def page(
        self,
        chosen: Chosen,
        cursor: str | None,
        limit: int,
    ) -> ListPage[StandingLine]:
        """Lines, the oldest first."""
        ...

    async def day(self, now: datetime, soon: datetime) -> Sequence[StandingLine]:
        """What the day sheet tells, the oldest first.

        Access of leavers after a quarter of an hour, what somebody lacks who begins by ``soon``,
        anything else after a day; nothing that is accepted or being done.
        """
        ...

    async def accept(self, acceptance: Acceptance) -> None:
        """Settle that a line may stay as it is."""
        ...

    async def end_acceptance(self, acceptance_id: str, at: datetime) -> Acceptance:
        """Settle that a line may not stay any longer.

        Raises:
            NotFound: none of that id is in force.
        """
        ...

    async def sweep(self, portion: int, most: int) -> bool:
        """Mark some more subjects of a change for many, while fewer than ``most`` marks wait.

        Returns whether there may be more to mark.
        """
        ...

    async def patrol(self, now: datetime, every: timedelta) -> bool:
        """Let everybody be looked at, if that was not begun for so long; whether it is begun."""
        ...

    async def count_faults(self, faults: int) -> None:
        """So many people differed though no mark said so."""
        ...

    async def last_patrol(self) -> tuple[datetime, int] | None:
        """When everybody was last looked at, and how many faults that found."""
        ...

    async def mark_ended(self, now: datetime) -> int:
        """Mark whose line is accepted no longer; how many it were."""
        ...

    async def sweeps(self) -> tuple[int, int]:
        """How many subjects the changes for many have still to reach, of how many."""
        ...
