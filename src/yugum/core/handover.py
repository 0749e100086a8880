"""Who takes over what: a choice for each kind of thing, of one application or of all."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from enum import StrEnum
from fnmatch import fnmatchcase
from zlib import crc32
from zoneinfo import ZoneInfo

from yugum.core.accounts import Account, AccountState, Asset
from yugum.core.applications import Application, Capability
from yugum.core.conditions import fold
from yugum.core.decisions import Decision, DecisionKind, in_force
from yugum.core.desired import Subject, Successor
from yugum.core.heirs import Unanswered
from yugum.core.invitations import invited_at
from yugum.core.people import full_name
from yugum.core.successors import unfit
from yugum.core.takeovers import SAID_NO, NewTakeover, TakeoverAnswer

GOES = "goes"
"""The value of a choice by which things go with the account instead of to somebody."""
KEEPS = "keeps"
"""The value of a choice by which the account is kept for the sake of things."""
COPIES = "copies"
"""The value of a choice by which somebody gets copies of things, and these go with the account."""
SHARE = "share"
"""How the value of a choice begins by which somebody takes a share: ``share 2/3``, the second of three."""
MEETING = "meeting"
"""What others take part in: it does not go with the account in silence."""
TO_ASK = "to-ask"
"""Why nobody takes something over yet: who is to has still to be asked."""


class Settled(StrEnum):
    """What becomes of one kind of thing that an account owns, as things stand."""

    TO = "to"
    GOES = "goes"
    KEPT = "kept"
    COPIED = "copied"
    OPEN = "open"


class Ground(StrEnum):
    """Why somebody takes something over: chosen for it, named for all, by the rules, the next up the chain."""

    CHOSEN = "chosen"
    NAMED = "named"
    RULES = "rules"
    CHAIN = "chain"
    CUSTODIAN = "custodian"


@dataclass(frozen=True, slots=True, kw_only=True)
class Choice:
    """What becomes of things: ``successor`` takes them or gets copies, they go with the account, or it is kept for them.

    ``decision`` settled it for this kind, application or name. Where nobody takes them ``code`` says why, and ``text``;
    ``roles`` would give whoever is to take them the account that they lack.
    """

    settled: Settled
    ground: Ground | None = None
    successor: Successor | None = None
    account: Account | None = None
    decision: Decision | None = None
    code: str = ""
    text: str = ""
    roles: tuple[str, ...] = ()


def choices(decisions: Iterable[Decision], at: datetime, *, narrow: bool) -> list[Decision]:
    """Choices for one application, kind of thing or name, or those for everything, in the order of their making."""
    return [
        d
        for d in in_force(decisions, at)
        if d.kind is DecisionKind.SUCCESSOR
        if bool(d.payload.application or d.payload.item or d.payload.matching) is narrow
    ]


def kept_by(subject: Subject, account: Account, at: datetime) -> list[Decision]:
    """The choices by which an account is kept for what it owns."""
    if not any(d.payload.value == KEEPS for d in subject.decisions):
        return []
    found = [part.choice for _, part in parts_of(subject, account, at)]
    return [c.decision for c in found if c.settled is Settled.KEPT and c.decision is not None]


def share_of(value: str) -> tuple[int, int] | None:
    """Which share of how many a choice is of, by its value; None where it is of everything."""
    word, _, said = value.partition(" ")
    if word != SHARE:
        return None
    which, _, of = said.partition("/")
    return int(which), int(of)


def falls_to(key: str, share: tuple[int, int]) -> bool:
    """Whether a thing is of a share: by its own id, so that it stays so whatever else comes or goes."""
    which, of = share
    return crc32(key.encode()) % of == which - 1


def to_copy(subject: Subject, account: Account, part: Part) -> list[Asset]:
    """What of a part that is copied for somebody they have no copy of yet."""
    target = part.choice.account
    if target is None:
        return []
    have = subject.copied
    return [a for a in part.things if (account.id, a.external_id, target.id) not in have]


def called_off(application: Application, kind: str) -> bool:
    """Whether what goes of a kind is called off, with notice, instead of going with the account."""
    return kind == MEETING and application.can(Capability.CALL_OFF)


def called(name: str, pattern: str) -> bool:
    """Whether a thing is called as a pattern says: ``*`` is any text, ``?`` any letter; case does not count."""
    return fnmatchcase(fold(name), fold(pattern).replace("[", "[[]"))


def chosen(
    decisions: Iterable[Decision], application_id: str, kind: str, at: datetime
) -> list[Decision]:
    """The choices that are made for a kind of thing in an application, or for some of it by name: the one that counts first.

    One about names goes before others, then one about an application, then one about a kind; of two that are as
    narrow the last.
    """
    fits = [
        d
        for d in reversed(choices(decisions, at, narrow=True))
        if d.payload.application in ("", application_id) and d.payload.item in ("", kind)
    ]
    return sorted(fits, key=_narrow, reverse=True)  # which leaves those alike in their order


def _narrow(choice: Decision) -> tuple[bool, bool, bool]:
    said = choice.payload
    return bool(said.matching), bool(said.application), bool(said.item)


@dataclass(frozen=True, slots=True, kw_only=True)
class Part:
    """Things of a kind that an account owns, and what becomes of them.

    ``matching`` is the pattern of names by which they were chosen; ``whole`` unless others of the kind go elsewhere.
    """

    things: Sequence[Asset]
    choice: Choice
    matching: str = ""
    whole: bool = True

    @property
    def only(self) -> tuple[str, ...] | None:
        """Which of the kind, by the application's ids; None for all of them, whatever there is by then."""
        return None if self.whole else tuple(sorted(a.external_id for a in self.things))


def parts_of(subject: Subject, account: Account, at: datetime) -> list[tuple[str, Part]]:
    """What becomes of what an account owns: each kind as a whole, or in parts where some were chosen for by name."""
    found: list[tuple[str, Part]] = []
    by_kind: dict[str, list[Asset]] = {}
    for asset in account.assets:
        by_kind.setdefault(asset.kind, []).append(asset)
    for kind, left in sorted(by_kind.items()):
        whole = True
        for decision in chosen(subject.decisions, account.application_id, kind, at):
            pattern, share = decision.payload.matching, share_of(decision.payload.value)
            if not pattern and share is None:
                break  # those about names come first; of the others the narrowest counts
            mine: list[Asset] = []
            rest: list[Asset] = []
            for thing in left:
                is_mine = (not pattern or called(thing.name, pattern)) and (
                    share is None or falls_to(thing.external_id, share)
                )
                (mine if is_mine else rest).append(thing)
            if mine:
                choice = _settled(subject, account.application_id, kind, at, decision)
                part = Part(things=mine, choice=choice, matching=pattern, whole=False)
                found.append((kind, part))
                left, whole = rest, False
        if left:
            choice = choice_of(subject, account.application_id, kind, at)
            found.append((kind, Part(things=left, choice=choice, whole=whole)))
    return found


def choice_of(
    subject: Subject, application_id: str, kind: str, at: datetime, *, receives: bool = True
) -> Choice:
    """What becomes of one kind of thing that somebody owns in an application, but for those chosen for by name or in shares.

    What is only said of somebody (``receives`` is False) needs no account of whoever comes after them.
    """
    made = chosen(subject.decisions, application_id, kind, at)
    plain = (d for d in made if not d.payload.matching and share_of(d.payload.value) is None)
    return _settled(subject, application_id, kind, at, next(plain, None), receives=receives)


def _settled(
    subject: Subject,
    application_id: str,
    kind: str,
    at: datetime,
    decision: Decision | None,
    *,
    receives: bool = True,
) -> Choice:
    """What becomes of things of a kind of which somebody has decided, or nobody; long after, the custodian has what is open."""
    found = _without_custodian(subject, application_id, kind, at, decision, receives=receives)
    since = subject.custodian_from()
    custodian = subject.fallback.custodian
    if found.settled is not Settled.OPEN or custodian is None or since is None:
        return found
    if at < since:
        there = since.astimezone(ZoneInfo(subject.person.time_zone))
        text = f"{found.text}, else {full_name(custodian.person)} takes it on {there:%-d %b %Y}"
        return replace(found, text=text)
    if custodian.person.id == subject.person.id:
        return found
    return _to(custodian, application_id, at, Ground.CUSTODIAN, subject, receives=receives)


def _without_custodian(
    subject: Subject,
    application_id: str,
    kind: str,
    at: datetime,
    decision: Decision | None,
    *,
    receives: bool,
) -> Choice:
    stays = {GOES: Settled.GOES, KEEPS: Settled.KEPT}
    if decision is not None and decision.payload.value in stays:
        settled = stays[decision.payload.value]
        return Choice(settled=settled, ground=Ground.CHOSEN, decision=decision)
    if decision is not None:
        ground, heir = Ground.CHOSEN, subject.heirs.get(decision.payload.person)
    elif subject.successor_named:
        ground, heir = Ground.NAMED, subject.successor
    elif (by_rule := subject.fallback.of(application_id, kind)) is not None:
        ground, heir = Ground.RULES, by_rule
    else:
        ground, heir = Ground.CHAIN, subject.successor
    if heir is None:
        text = "no successor is named and no manager is left in the chain. Name one"
        return Choice(settled=Settled.OPEN, decision=decision, code="no-successor", text=text)
    found = _to(heir, application_id, at, ground, subject, receives=receives)
    if found.settled is Settled.TO:
        found = _if_they_agree(found, heir, subject, application_id, kind, receives=receives)
    if found.settled is Settled.TO and decision is not None and decision.payload.value == COPIES:
        found = replace(found, settled=Settled.COPIED)
    return replace(found, decision=decision)


def _if_they_agree(
    choice: Choice,
    heir: Successor,
    subject: Subject,
    application_id: str,
    kind: str,
    *,
    receives: bool,
) -> Choice:
    """The choice, where the rules ask nobody or whoever is to take over has agreed.

    Where they are only named, nobody waits for them; who has declined the kind is not named either.
    """
    ask, name = subject.fallback.ask, full_name(heir.person)
    if ask is None or heir.person.id == subject.person.id:
        return choice
    said = subject.takeovers.get((application_id, kind, heir.person.id))
    if said is not None and said.answer in SAID_NO:
        what = "declined it" if said.answer is TakeoverAnswer.DECLINED else "passed it on"
        note = f": {said.note}" if said.note else ""
        return _open(heir, "declined", f"{name} {what}{note}. Name somebody else")
    if not receives:
        return choice
    if said is None or said.asked_at is None:
        return _open(heir, TO_ASK, f"{name} is asked first whether they take it over")
    if said.answer is TakeoverAnswer.OPEN and said.answer_by is not None:
        there = said.answer_by.astimezone(ZoneInfo(heir.person.time_zone))
        text = f"{name} was asked whether they take it over and has until {there:%-d %b %Y %H:%M}"
        return _open(heir, "not-accepted", text)
    if said.answer is TakeoverAnswer.UNANSWERED and ask.unanswered is Unanswered.OPEN:
        text = f"{name} was asked and has not answered in time. Name somebody else"
        return _open(heir, "unanswered", text)
    return choice


def _open(heir: Successor, code: str, text: str) -> Choice:
    return Choice(settled=Settled.OPEN, successor=heir, code=code, text=text)


def to_agree(subject: Subject, at: datetime) -> list[NewTakeover]:
    """Who is to be asked about what an account owns, or was: everything that goes to somebody by a moment, but to the custodian."""
    counts: dict[tuple[str, str, str], int] = {}
    for account in subject.accounts:
        for kind, part in parts_of(subject, account, at):
            choice, heir = part.choice, part.choice.successor
            asked = (
                choice.settled in (Settled.TO, Settled.COPIED)
                and choice.ground is not Ground.CUSTODIAN
            )
            if heir is not None and (asked or choice.code in (TO_ASK, "not-accepted")):
                key = (account.application_id, kind, heir.person.id)
                counts[key] = counts.get(key, 0) + len(part.things)
    return [
        NewTakeover(
            person_id=subject.person.id,
            heir_id=heir_id,
            application_id=application_id,
            thing=kind,
            count=count,
        )
        for (application_id, kind, heir_id), count in counts.items()
    ]


def receiving(account: Account | None) -> bool:
    """Whether an account is there, open, and its owner has come: only then something can be given to it."""
    return account is not None and account.state is AccountState.ACTIVE and not invited_at(account)


def _to(
    heir: Successor,
    application_id: str,
    at: datetime,
    ground: Ground,
    subject: Subject,
    *,
    receives: bool,
) -> Choice:
    """What somebody takes over, if they can by then and have an account to take it with."""
    if why := unfit(heir.person, at):
        others = [o.person for o in (subject.successor, subject.manager) if o is not None]
        could = next((o for o in others if not unfit(o, at)), None)
        next_one = f"; {full_name(could)} could" if could else ""
        text = f"{full_name(heir.person)}, who was named, {why}{next_one}. Name somebody else"
        return Choice(settled=Settled.OPEN, successor=heir, code="successor-unfit", text=text)
    target = heir.accounts.get(application_id)
    if not receives:
        return Choice(settled=Settled.TO, ground=ground, successor=heir, account=target)
    if not receiving(target):
        roles = subject.giving.get(application_id, ()) if target is None else ()
        by = f" (role {' or '.join(roles[:3])})" if roles else ""
        return Choice(
            settled=Settled.OPEN,
            successor=heir,
            code="successor-without-account",
            text=f"{full_name(heir.person)} has no open account there. Give one{by}, or name another",
            roles=roles,
        )
    return Choice(settled=Settled.TO, ground=ground, successor=heir, account=target)
