"""What somebody owns, over all applications, and what is to become of it."""

from __future__ import annotations

import uuid
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime

from yugum.core.actions import GONE
from yugum.core.decisions import Decision, DecisionKind, Payload
from yugum.core.desired import Subject
from yugum.core.documents import Document
from yugum.core.handover import (
    COPIES,
    GOES,
    KEEPS,
    SHARE,
    Choice,
    Part,
    Settled,
    called,
    choices,
    parts_of,
    share_of,
)
from yugum.core.mentions import Mention
from yugum.core.people import Person, PersonState, state_at
from yugum.engine.context import load_applications, load_rules, load_subjects
from yugum.engine.decisions import end_of
from yugum.engine.events import make_event
from yugum.engine.heirs import must_take_over
from yugum.engine.mentions import looked_at
from yugum.engine.own import must_be_for_others
from yugum.engine.standing import look_again
from yugum.errors import Conflict, InvalidInput, NotFound
from yugum.ports.clock import Clock
from yugum.ports.connectors import Connectors
from yugum.ports.handover import Given, OwnedLine
from yugum.ports.pages import ListPage
from yugum.ports.units import Database, UnitOfWork

SAMPLES = 5
"""How many of their names are told."""
MOST_GIVEN = 500
"""How many lines say who has what now."""


@dataclass(frozen=True, slots=True, kw_only=True)
class NewChoice:
    """What is to become of some things: ``to`` somebody, who gets copies where it ``copies`` or takes them in equal shares
    with others (``share``), they go with the account, or it ``keeps`` them ``until`` a moment.

    Without an ``application`` in all of them, without a ``thing`` of all kinds; of these all, or those with a name
    ``matching`` a pattern. What goes is ``typed``: the login.
    """

    reason: str
    application: str = ""
    thing: str = ""
    to: str = ""
    share: Sequence[str] = ()
    copies: bool = False
    goes: bool = False
    keeps: bool = False
    until: str = ""
    matching: str = ""
    typed: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Owned:
    """Things of one kind that an account owns, or those ``matching`` a name, and what becomes of them."""

    application_id: str
    application_name: str
    account_id: str
    login: str
    thing: str
    matching: str
    count: int
    names: Sequence[str]
    choice: Choice


@dataclass(frozen=True, slots=True, kw_only=True)
class HandoverShown:
    """What somebody owns, as it would be handed over at a moment; ``silent`` applications did not answer."""

    person: Person
    at: datetime
    rows: Sequence[Owned]
    silent: Sequence[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class GivenShown:
    """What somebody had and others were given, and who has it now; ``over`` says that there is more than is shown."""

    person: Person
    rows: Sequence[Given]
    over: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class OnBoard:
    """What somebody who leaves or has left still owns of one kind, and what becomes of it."""

    line: OwnedLine
    application_name: str
    subject: Subject
    part: Part


class Handover:
    def __init__(self, database: Database, connectors: Connectors, clock: Clock) -> None:
        self._database = database
        self._connectors = connectors
        self._clock = clock

    async def show(self, who: str) -> HandoverShown:
        """What somebody owns, looked at now in every application, and what becomes of it when they leave.

        Raises:
            NotFound: nobody is called so.
        """
        now = await self._clock.now()
        person_id, silent = await looked_at(
            self._database, self._connectors, who, now, places=False
        )
        async with self._database.unit(alone=True) as unit:
            return await _shown(unit, person_id, now, silent)

    async def given(self, who: str) -> GivenShown:
        """What somebody had and others were given, and who has it now, as last seen.

        Raises:
            NotFound: nobody is called so.
        """
        async with self._database.unit(alone=True) as unit:
            person = await unit.people.resolve(who)
            rows = await unit.handover.given(person.id, MOST_GIVEN + 1)
        return GivenShown(person=person, rows=rows[:MOST_GIVEN], over=len(rows) > MOST_GIVEN)

    async def board(
        self, application_id: str, settled: Settled | None, cursor: str | None, limit: int
    ) -> ListPage[OnBoard]:
        """What everybody who leaves or has left still owns, as last seen, and what becomes of it.

        With ``settled`` only what stands so: a page has fewer rows then.

        Raises:
            NotFound: there is no such application.
        """
        now = await self._clock.now()
        async with self._database.unit(alone=True) as unit:
            applications = await load_applications(unit)
            if application_id and application_id not in applications:
                raise NotFound(f"There is no application {application_id}.", place="application")
            page = await unit.handover.owned(application_id, cursor, limit)
            known = await unit.accounts.known(sorted({line.person_id for line in page.items}))
            ends = {i: max(now, p.access_ends or now) for i, p in known.people.items()}
            subjects = await load_subjects(
                unit, dict(known.people), known, ends, await load_rules(unit)
            )
        parts = {
            account.id: parts_of(subject, account, ends[i])
            for i, subject in subjects.items()
            for account in subject.accounts
        }
        rows = [
            OnBoard(
                line=line,
                application_name=applications[line.application_id].name,
                subject=subjects[line.person_id],
                part=part,
            )
            for line in page.items
            for kind, part in parts.get(line.account_id, ())
            if kind == line.thing and settled in (None, part.choice.settled)
        ]
        return ListPage(rows, page.next)

    async def choose(self, who: str, new: NewChoice, author: str) -> HandoverShown:
        """Settle what becomes of some of what somebody owns; what was settled for the same before ends.

        Where they have left already, it is carried out at once.

        Raises:
            InvalidInput: nothing or two things are chosen, no reason is given, or they own nothing like it.
            Conflict: what goes for good is not typed.
        """
        _must_be_one_choice(new)
        now = await self._clock.now()
        person_id, silent = await looked_at(
            self._database, self._connectors, who, now, places=False
        )
        async with self._database.unit() as unit:
            person = await unit.people.resolve(person_id)
            what = "what becomes of what is owned"
            await must_be_for_others(unit, author, [person.id], what, now)
            shown = await _shown(unit, person.id, now, silent)
            named = (await unit.mentions.of([person.id])).get(person.id, ())
            _must_be_theirs(shown, named, new)
            _must_be_typed(person, new)
            heirs = await _heirs(unit, person, new, shown.at)
            decisions = [
                Decision(
                    id=str(uuid.uuid4()),
                    subject_id=person.id,
                    kind=DecisionKind.SUCCESSOR,
                    payload=Payload(
                        application=new.application,
                        item=new.thing,
                        matching=new.matching,
                        value=f"{SHARE} {n}/{len(heirs)}" if len(heirs) > 1 else _value(new),
                        person=heir_id,
                    ),
                    author=author,
                    reason=new.reason,
                    ends=end_of(new.until, now, person.time_zone, "until"),
                )
                for n, heir_id in enumerate(heirs, 1)
            ]
            await replace_choice(unit, decisions, now)
            for heir_id in filter(None, heirs):
                await unit.takeovers.again(person.id, heir_id, new.application, new.thing)
            if state_at(person, now) is PersonState.LEFT:
                await look_again(unit, [person.id], now, author, "what is owned has a new home")
                await unit.hint()
            return await _shown(unit, person.id, now, silent)


async def replace_choice(
    unit: UnitOfWork, made: Sequence[Decision], now: datetime, *, one_share: bool = False
) -> None:
    """Choices take the place of those for the same application, kind and name; with ``one_share`` only of the same share."""
    who, said = made[0].subject_id, made[0].payload
    known = choices(await unit.decisions.in_force(who, now), now, narrow=True)
    same = [
        d.id
        for d in known
        if _about(d.payload) == _about(said)
        and (not one_share or share_of(d.payload.value) == share_of(said.value))
    ]
    await unit.decisions.end_some(same, now)
    for decision in made:
        await unit.decisions.put(decision, now, None)
        event: Document = {"payload": dict(decision.payload.document()), "reason": decision.reason}
        await unit.audit.add([make_event(now, decision.author, "handover.chosen", who, event)])


def _about(said: Payload) -> tuple[str, str, str]:
    return said.application, said.item, said.matching


async def _heirs(unit: UnitOfWork, person: Person, new: NewChoice, at: datetime) -> list[str]:
    """The ids of those who take it over; nobody's where it goes or is kept."""
    if not new.to:
        return [""]
    found: dict[str, None] = {}
    for name in (new.to, *new.share):
        heir = await unit.people.resolve(name)
        await must_take_over(unit, heir, {person.id: person}, at)
        if heir.id in found:
            raise InvalidInput(
                f"{heir.user_name} is named twice.", place="share", remedy="Name each once."
            )
        found[heir.id] = None
    return list(found)


def _value(new: NewChoice) -> str:
    if new.copies:
        return COPIES
    return GOES if new.goes else KEEPS if new.keeps else ""


def _must_be_one_choice(new: NewChoice) -> None:
    """It has a reason and says one thing."""
    if not new.reason.strip():
        raise InvalidInput("A choice needs a reason.", place="reason")
    if new.copies and not new.to:
        raise InvalidInput("A copy is for somebody.", place="to", remedy="Say who gets it.")
    if new.share and (new.copies or not new.to):
        text = "Shares are of what goes to several people."
        raise InvalidInput(text, place="share", remedy="Say to whom, without copies.")
    if [bool(new.to), new.goes, new.keeps].count(True) != 1:
        text = "Things go to somebody, or with the account, or it is kept for them."
        raise InvalidInput(text, place="to", remedy="Say one of them.")
    if new.until and not new.keeps:
        text = "Only what is kept is kept until a moment."
        raise InvalidInput(text, place="until", remedy="Leave it out.")


def _must_be_typed(person: Person, new: NewChoice) -> None:
    """What does not come back is confirmed by the login."""
    if new.goes and new.typed != person.user_name:
        raise Conflict(
            "What goes with the account does not come back.",
            place="typed",
            remedy=f"Type the login: {person.user_name}.",
        )


def _must_be_theirs(shown: HandoverShown, named: Iterable[Mention], new: NewChoice) -> None:
    """They own something of the kind, or are named by one: who mistypes it is told."""
    if not (new.application or new.thing or new.matching):
        raise InvalidInput(
            "Of which application, or which kind of thing?",
            place="thing",
            remedy="For everything, name a successor: yugum people decide WHO successor.",
        )
    theirs = {(r.thing, r.application_id) for r in shown.rows}
    theirs |= {(m.kind, m.application_id) for m in named}
    mine = [kind for kind, where in theirs if new.application in ("", where)]
    if not any(new.thing in ("", kind) for kind in mine):
        there = sorted(f"{kind} in {where}" for kind, where in theirs)
        raise InvalidInput(
            f"{shown.person.user_name} owns nothing like that.",
            place="thing" if new.thing else "application",
            remedy=f"There is: {', '.join(there) or 'nothing'}.",
        )
    if not new.matching:
        return
    names = sorted(
        {
            name
            for row in shown.rows
            if new.application in ("", row.application_id) and new.thing in ("", row.thing)
            for name in row.names
        }
    )
    if not any(called(n, new.matching) for n in names):
        some = ", ".join(names[:SAMPLES]) + (", …" if len(names) > SAMPLES else "")
        raise InvalidInput(
            f"Nothing of {shown.person.user_name} is called {new.matching}.",
            place="matching",
            remedy=f"There is: {some or 'nothing'}; * stands for any text.",
        )


async def _shown(
    unit: UnitOfWork, person_id: str, now: datetime, silent: Sequence[str]
) -> HandoverShown:
    known = await unit.accounts.known([person_id])
    person = known.people[person_id]
    at = max(now, person.access_ends or now)
    subject = (await load_subjects(unit, {person_id: person}, known, at, await load_rules(unit)))[
        person_id
    ]
    applications = await load_applications(unit)
    rows = []
    for account in sorted(subject.accounts, key=lambda a: (a.application_id, a.login)):
        if account.state in GONE:
            continue
        for kind, part in parts_of(subject, account, at):
            rows.append(
                Owned(
                    application_id=account.application_id,
                    application_name=applications[account.application_id].name,
                    account_id=account.id,
                    login=account.login,
                    thing=kind,
                    matching=part.matching,
                    count=len(part.things),
                    names=[a.name for a in part.things],
                    choice=part.choice,
                )
            )
    return HandoverShown(
        person=person, at=at, rows=rows, silent=[applications[i].name for i in silent]
    )
