"""What comes: the one reading of the future that pages, lifelines, calendars and reminders share.

From now on through every moment at which something about somebody changes: what rules and decisions
give from then on, what becomes of each account, when it is closed and when it is gone for good.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime

from yugum.core.accounts import Account, AccountState, HoldingKind
from yugum.core.applications import Application, Deletion, effective_deletion
from yugum.core.decisions import DecisionKind, Origin, OriginKind, Right, in_force
from yugum.core.desired import Subject, World, desired, prepared_from
from yugum.core.invitations import INVITED, lapses
from yugum.core.lifeline import Bar
from yugum.core.obligations import AND, REVIEWED, ObligationKind, brought_back, closing, dates, owed
from yugum.core.people import PersonState, state_at
from yugum.core.precautions import suspended_whole
from yugum.core.wanted import Wanted
from yugum.core.windows import recoverable_until

S = AccountState
USED = (S.ACTIVE, S.SUSPENDED, S.ARCHIVED)


@dataclass(frozen=True, slots=True)
class Dated:
    """A docket that waits for its day; ``number`` as it is shown."""

    at: datetime
    number: int
    text: str
    because: str


@dataclass(frozen=True, slots=True)
class Upcoming:
    """Something that will happen, in a sentence, and why; of a docket with its number."""

    at: datetime
    text: str
    because: str
    docket: int | None = None


@dataclass(slots=True)
class _Life:
    """One account on its way through what comes; it begins as it is now."""

    subject: Subject
    world: World
    application: Application
    account: Account
    state: AccountState | None
    until: datetime | None
    changes: list[tuple[datetime, AccountState | None, str]] = field(default_factory=list)

    def become(self, at: datetime, state: AccountState | None, because: str) -> None:
        if state is not self.state:
            self.changes.append((at, state, because))
            self.state = state

    def given(self, at: datetime) -> tuple[bool, AccountState | None]:
        """Whether the account is given at a moment, and what it should be then; None is no account."""
        want = desired(self.subject, self.world.rules, at).get(self.application.id)
        who = state_at(self.subject.person, at)
        if want is None or want.account is None:
            closed = who is PersonState.LEFT or self.subject.gave(self.account)
            return False, S.SUSPENDED if closed else S.ACTIVE
        kept = suspended_whole(self.subject.decisions, at) is not None or any(
            d.kind is DecisionKind.SUSPEND and d.payload.application == self.application.id
            for d in in_force(self.subject.decisions, at)
        )
        if who is PersonState.EXPECTED:
            begins = prepared_from(self.subject.person, self.application)
            made = self.application.profile.prepare_days and begins is not None and begins <= at
            return True, S.SUSPENDED if made else None
        return True, S.SUSPENDED if who is PersonState.ABSENT or kept else S.ACTIVE

    def turn(self, at: datetime, basis: str, given: tuple[bool, AccountState | None]) -> None:
        """What becomes of the account at a moment from which on it is given otherwise."""
        wanted, state = given
        if not wanted:
            self._ends(at)
            if self.state is S.ACTIVE and state is S.SUSPENDED:
                self.become(at, S.SUSPENDED, basis)
        elif state is S.ACTIVE or (state is S.SUSPENDED and self.state in (None, S.ACTIVE)):
            self.become(at, state, basis)

    def _ends(self, at: datetime) -> None:
        """Nothing gives the account from a moment on."""
        right = Right(account_id=self.account.id, since=at, until=at)
        self.subject = replace(self.subject, rights={**self.subject.rights, self.account.id: right})

    def falls_due(self, at: datetime, *, given: bool) -> tuple[datetime, AccountState, str] | None:
        """What happens to the account next if nothing changes after a moment."""
        if self.state is S.DELETED and self.until is not None:
            if (hold := brought_back(self.subject, self.world, self.account, at)) is not None:
                return hold, S.SUSPENDED, "on hold"
            return self.until, S.PURGED, f"window of {self.application.profile.window_days} days"
        if self.state not in USED or given:
            return None
        close = closing(self.subject, self.world, self.account, self.application, at)
        if close is None:
            return None
        final = effective_deletion(self.application) is Deletion.FINAL
        days = self.application.profile.close_after_days
        left = state_at(self.subject.person, at) is PersonState.LEFT
        after = "the access ends" if left else "nothing gives it any more"
        return close.due, S.PURGED if final else S.DELETED, f"{days} days after {after}"


def future(
    subject: Subject,
    world: World,
    application: Application,
    account: Account | None,
    now: datetime,
) -> list[Bar]:
    """Planned bars after now of one account, or of the one that is to come in an application."""
    life = _Life(
        subject=subject,
        world=world,
        application=application,
        account=account or Account(id="", application_id=application.id, person_id=None),
        state=account.state if account else None,
        until=account.recoverable_until if account else None,
    )
    if account is None:
        ledger = {**subject.ledger, ("", HoldingKind.ACCOUNT, ""): Origin(OriginKind.ROLE)}
        life.subject = replace(subject, ledger=ledger)
    if life.state is S.PURGED:
        return []
    began = life.state
    ahead = [m for m in dates(subject, [application]) if m[0] > now]
    given = life.given(now)
    for index, (at, basis) in enumerate([(now, ""), *ahead]):
        following = ahead[index][0] if index < len(ahead) else None
        before, given = given, life.given(at)
        if given != before:
            life.turn(at, basis, given)
        while (due := life.falls_due(at, given=given[0])) is not None:
            moment = max(due[0], at)
            if following is not None and moment >= following:
                break
            if due[1] is S.DELETED:
                life.until = recoverable_until(moment, application)
            life.become(moment, due[1], due[2])
    return _bars(now, began, life.changes)


def _bars(
    now: datetime,
    began: AccountState | None,
    changes: Sequence[tuple[datetime, AccountState | None, str]],
) -> list[Bar]:
    points = [(now, began, ""), *changes]
    bars = []
    for index, (at, state, because) in enumerate(points):
        until = points[index + 1][0] if index + 1 < len(points) else None
        if state is not None and until != at:
            bars.append(Bar(state, at, until, planned=True, because=because))
    return bars


def coming(
    subject: Subject,
    world: World,
    lanes: Sequence[tuple[Application, Sequence[Bar]]],
    dockets: Sequence[Dated],
    now: datetime,
) -> list[Upcoming]:
    """Everything that will happen about somebody, as dated sentences in their order."""
    lines = [*_told(lanes, now), *_held(subject, world, now)]
    lines += [
        Upcoming(o.due, _reminded(basis), basis)
        for o in owed(subject, world, now)
        if o.kind is ObligationKind.REMIND and o.due > now
        for basis in o.basis.split(AND)
    ]
    lines += [
        Upcoming(
            ends, f"Cut off in {one.application.name} unless accepted", "the invitation lapses"
        )
        for ends, one in lapses(subject, world, now)
        if ends > now
    ]
    lines += [Upcoming(d.at, d.text, d.because, d.number) for d in dockets]
    return sorted(lines, key=lambda line: (line.at, line.docket is not None, line.text))


def _reminded(basis: str) -> str:
    if basis.startswith(INVITED):
        return "They and the manager are reminded"
    return "Its author is reminded" if basis == REVIEWED else "The manager is reminded"


def _told(lanes: Sequence[tuple[Application, Sequence[Bar]]], now: datetime) -> Iterator[Upcoming]:
    """What becomes of accounts; what happens to several together is one sentence."""
    grouped: dict[tuple[datetime, str, str], list[str]] = {}
    for application, bars in lanes:
        before: AccountState | None = None
        for bar in bars:
            if bar.start > now:
                words = WORDS.get((before, bar.state)) or WORDS[None, bar.state]
                grouped.setdefault((bar.start, words, bar.because), []).append(application.name)
            before = bar.state
    for (at, words, because), names in grouped.items():
        yield Upcoming(at, words.format(", ".join(names)), because)


WORDS: Mapping[tuple[AccountState | None, AccountState], str] = {
    (None, S.ACTIVE): "Account in {}",
    (S.SUSPENDED, S.ACTIVE): "Opened in {}",
    (S.ARCHIVED, S.ACTIVE): "Opened in {}",
    (S.DELETED, S.ACTIVE): "Brought back in {}",
    (None, S.SUSPENDED): "Account made in {}, closed until the first day",
    (S.ACTIVE, S.SUSPENDED): "Cut off in {}",
    (S.DELETED, S.SUSPENDED): "Brought back in {}, suspended",
    (None, S.DELETED): "Deleted in {}, can come back",
    (None, S.PURGED): "{} cannot come back after this moment",
    (None, S.ARCHIVED): "Archived in {}",
}


def _held(subject: Subject, world: World, now: datetime) -> Iterator[Upcoming]:
    """What is given or taken away on a day in accounts that stay."""
    ahead = [m for m in dates(subject, world.applications.values()) if m[0] > now]
    before = desired(subject, world.rules, now)
    for at, basis in ahead:
        after = desired(subject, world.rules, at)
        for application_id in sorted(before.keys() & after.keys()):
            application = world.applications.get(application_id)
            if application is None:
                continue
            had, has = _items(before[application_id]), _items(after[application_id])
            if gained := sorted(has - had):
                text = f"{', '.join(gained)} given in {application.name}"
                yield Upcoming(at, text, basis)
            if lost := sorted(had - has):
                text = f"{', '.join(lost)} taken away in {application.name}"
                yield Upcoming(at, text, basis)
        before = after


def _items(want: Wanted) -> set[str]:
    return {*want.entitlements, *want.seats}
