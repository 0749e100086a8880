"""Lines of the standing difference, and what is in hand about somebody."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from enum import StrEnum

from yugum.core.dockets import OpenStep
from yugum.core.verbs import Verb


class LineKind(StrEnum):
    """What a line is about: a holding, something owned, a step asked for, or a docket as a whole."""

    ACCOUNT = "account"
    ENTITLEMENT = "entitlement"
    SEAT = "seat"
    SETTING = "setting"
    ATTRIBUTE = "attribute"
    ASSET = "asset"
    MENTION = "mention"
    STEP = "step"
    DOCKET = "docket"


class Side(StrEnum):
    """Which way it differs; ``both`` of a pair that excludes itself, ``asked`` for by somebody."""

    MISSING = "missing"
    TOO_MUCH = "too_much"
    DIFFERS = "differs"
    BOTH = "both"
    ASKED = "asked"


class LineStatus(StrEnum):
    RUNNING = "running"
    WAITING = "waiting"
    ACCEPTED = "accepted"
    FINDING = "finding"


CLOSING = "closing"
"""What of an account a line is about that should be deleted, parked or purged."""

Key = tuple[str, str, str, str, str]
KEY = ("application_id", "account_id", "kind", "item", "side")
"""What a line is told apart by, in its order."""


@dataclass(slots=True, kw_only=True)
class Line:
    """One thing that is not as it should be; whoever works it out fills it in.

    ``account_id`` is "" until an account exists or is being made. ``code`` is what it waits for, ``ref``
    the docket, or the decision, that has to do with it. ``since`` is None until it is known;
    ``waits_since`` is the wait's own moment, where that is another.
    """

    application_id: str
    account_id: str
    kind: LineKind
    item: str
    side: Side
    want: str
    held: str
    reason: str
    status: LineStatus = LineStatus.FINDING
    code: str = ""
    ref: str = ""
    step_id: str | None = None
    since: datetime | None = None
    waits_since: datetime | None = field(default=None, compare=False)

    @property
    def key(self) -> Key:
        return (
            self.application_id,
            self.account_id,
            self.kind.value,
            self.item,
            self.side.value,
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class Acceptance:
    """That somebody settled for a line to stay as it is, until ``ends`` or for good."""

    id: str
    subject_id: str
    application_id: str
    kind: LineKind
    item: str
    side: Side
    author: str
    reason: str
    made: datetime
    ends: datetime | None = None

    def covers(self, line: Line, at: datetime) -> bool:
        """Whether a line is what was accepted, at a moment at which that is in force."""
        mine = (self.application_id, self.kind, self.item, self.side)
        theirs = (line.application_id, line.kind, line.item, line.side)
        return mine == theirs and self.made <= at and (self.ends is None or at < self.ends)


@dataclass(frozen=True, slots=True, kw_only=True)
class AskedDocket:
    """A docket that awaits its approval, or whose approval ended without a yes (``expired``)."""

    id: str
    number: int
    subject_id: str
    verb: Verb
    expired: bool
    made: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class Hand:
    """What is in hand about one subject: open steps, dockets that ask somebody, what was accepted.

    ``due`` says that a docket is about to begin.
    """

    steps: Sequence[OpenStep] = ()
    asked: Sequence[AskedDocket] = ()
    accepted: Sequence[Acceptance] = ()
    due: bool = False

    @property
    def leaving_asked(self) -> bool:
        """Whether nobody has agreed, yet or in time, to a leaver docket."""
        return any(d.verb is Verb.LEAVER for d in self.asked)


NOTHING = Hand()

WORDS: Mapping[str, str] = {
    "seat": "a free seat",
    "approval": "an approval",
    "expired": "nobody agreed in time",
    "needs": "a step before it",
    "pair": "the other of its pair to be gone",
    "task": "the owner of the application",
    "hold": "the end of a hold",
    "stop": "the end of a stop",
    "ceiling": "the next hour",
    "not-seen": "being seen there",
    "no-answer": "the application to answer",
    "attention": "somebody to look at it",
    "trust": "more trust in the application",
    "cannot": "somebody's hands: the application cannot",
    "cannot-grant": "somebody's hands: the application offers no groups",
    "cannot-suspend": "somebody's hands: the application cannot suspend",
    "no-pool": "a pool of seats",
    "base": "a seat of the license that it requires",
    "no-base": "a seat of the license that it requires",
    "no-seat-left": "a free seat: nobody waits for this license",
    "not-for-them": "another license: this one is not for them",
    "does-not-fit": "another value: the application does not take this one",
    "no-address": "a mail address to invite to",
    "arrives": "the application that brings it",
    "disputed": "somebody to say which value is right",
    "no-successor": "a successor",
    "successor-without-account": "an account of the successor",
    "successor-unfit": "another successor",
    "to-ask": "whoever takes it over to be asked",
    "not-accepted": "whoever takes it over to agree",
    "declined": "another successor: who was asked declined",
    "unanswered": "another successor: who was asked did not answer",
    "by-hand": "somebody's hands: it is changed in the application itself",
    "no-own-step": "the web hook or script that is named",
}


def waits_for(code: str) -> str:
    """What a line waits for, in words."""
    return WORDS.get(code, code.replace("-", " "))
