"""Rules as text: their mistakes, what a candidate changes, what somebody should have and why."""

from __future__ import annotations

from typing import Annotated

from pydantic import ConfigDict, Field

from yugum.core.accounts import HoldingKind
from yugum.core.names import NameKind
from yugum.core.people import PersonState
from yugum.wire.common import Line, Model, Moment, Money, Request, Seen
from yugum.wire.rules import Gives, RulesDocument
from yugum.wire.texts import written


class RulesView(Model):
    """The rules of a version, as written and as read."""

    version: int
    text: str
    document: RulesDocument


class RulesVersion(Model):
    version: int
    adopted_at: Moment
    adopted_by: str
    note: str


class RulesText(Request):
    """A rules file, kept to the last blank as its author wrote it."""

    model_config = ConfigDict(extra="forbid", str_strip_whitespace=False)

    text: Annotated[str, Field(max_length=1_000_000), written("rules-file")]


class RuleProblem(Model):
    """A mistake; ``line`` and ``column`` count from 1."""

    line: int
    column: int
    place: str
    message: str
    remedy: str


class TryRules(RulesText):
    """``who``: some people only, by login or number; everybody when it is empty."""

    who: Annotated[list[Line], Field(max_length=5000)] = []


class AdoptRules(RulesText):
    """``after``: the version this was written against. ``take_away``: how much may be lost by it.

    With ``carry_out`` everybody whose access differs is looked at again at once.
    """

    note: Line = ""
    after: Annotated[int, Field(ge=0, strict=True)] | None = None
    take_away: Annotated[int, Field(ge=0, strict=True)] | None = None
    carry_out: bool = False


class AdoptedRules(Model):
    version: int
    rechecked: int


class TrialSample(Model):
    id: str
    name: str
    user_name: str


class Shortage(Model):
    """A pool that a candidate needs more seats of than are free, and what these cost a month."""

    application_id: str
    license: str
    free: int
    wanted: int
    lacking: int
    cost: Money


class TrialLine(Model):
    application_id: str
    kind: Seen[HoldingKind]
    item: str
    gained: int
    lost: int
    roles: list[str]
    samples: list[TrialSample]


class TrialView(Model):
    """What a candidate would change. ``version`` is the one in force it was compared with."""

    version: int
    looked_at: int
    combinations: int
    people: int
    gained: int
    lost: int
    losing: int
    lines: list[TrialLine]
    short: list[Shortage]
    approvals: dict[str, int]
    tasks: dict[str, int]


class ShouldHave(Model):
    application_id: str
    kind: Seen[HoldingKind]
    item: str
    why: str
    held: bool
    wanted: bool


class Explanation(Model):
    """What somebody should have, has, and why."""

    id: str
    name: str
    state: Seen[PersonState]
    roles: list[str]
    lines: list[ShouldHave]


class CompareLine(Model):
    """One thing of two people or two roles: who has it; ``because`` of a role or an exception."""

    application_id: str
    kind: Seen[HoldingKind]
    item: str
    left: str
    right: str


class Comparison(Model):
    left: str
    right: str
    both: list[CompareLine]
    only_left: list[CompareLine]
    only_right: list[CompareLine]


class Tried(Model):
    name: str
    pattern: str
    problem: str


class Suggestion(Model):
    """A name and everything that was tried before it, each with why it was not taken."""

    kind: Seen[NameKind]
    name: str
    tried: list[Tried]


class SuggestNames(Request):
    given: Line = ""
    family: Line = ""
    number: Line = ""
    department: Line = ""
    site: Line = ""
    mail_domain: Line = ""


class SuggestedNames(Model):
    """``not_asked`` are applications that did not answer: a login may be taken there."""

    names: list[Suggestion]
    not_asked: list[str]


class RoleView(Model):
    """A role of the rules in force."""

    name: str
    when: str
    gives: list[Gives]
