"""Whether whoever is to take something over does: asked by mail where the rules say so, answered by a link or for them."""

from __future__ import annotations

import secrets
import uuid
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from itertools import groupby
from zoneinfo import ZoneInfo

from yugum.core.decisions import Decision, DecisionKind, Payload
from yugum.core.documents import Document, Json
from yugum.core.handover import chosen
from yugum.core.heirs import AskRules
from yugum.core.mails import Mail, MailKind, takeover_mail
from yugum.core.people import Person, PersonState, state_at
from yugum.core.takeovers import SAID_NO, TakeoverAnswer
from yugum.engine.context import load_rules
from yugum.engine.events import make_event
from yugum.engine.handover import replace_choice
from yugum.engine.hashing import hashed
from yugum.engine.heirs import must_take_over
from yugum.engine.own import must_be_for_others
from yugum.engine.posting import post
from yugum.engine.standing import look_again
from yugum.errors import Conflict, InvalidInput, NotFound
from yugum.ports.clock import Clock
from yugum.ports.pages import ListPage
from yugum.ports.services import Vault
from yugum.ports.takeovers import TakeoverLine
from yugum.ports.units import Database, UnitOfWork
from yugum.settings import Settings

PORTION = 500
SHOWN = timedelta(days=14)
"""How long a link shows what became of it after the term."""
BASIS = "who takes over has answered"


@dataclass(frozen=True, slots=True, kw_only=True)
class Reply:
    """What somebody says to one question; ``to`` is the login or address of whom they pass it on to."""

    answer: TakeoverAnswer
    to: str = ""
    note: str = ""


class Takeovers:
    def __init__(self, database: Database, clock: Clock, vault: Vault, settings: Settings) -> None:
        self._database = database
        self._clock = clock
        self._vault = vault
        self._settings = settings

    async def page(
        self, answer: TakeoverAnswer | None, cursor: str | None, limit: int
    ) -> ListPage[TakeoverLine]:
        async with self._database.unit(alone=True) as unit:
            return await unit.takeovers.page(answer, cursor, limit)

    async def tell(self) -> None:
        """Ask whoever was not asked yet, remind, and end what nobody answered in time."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            over = await unit.takeovers.lapse(now)
            if over:
                await self._ended(unit, sorted({t.person_id for t in over}), now)
            late = await unit.takeovers.to_remind(now)
            await self._send(unit, late, now, again=True)
        found = PORTION
        while found == PORTION:
            async with self._database.unit() as unit:
                some = await unit.takeovers.to_tell(PORTION)
                ask = (await load_rules(unit)).handover.ask if some else None
                if ask is None:
                    return
                found = len(some)
                await self._ask(unit, some, ask, now)

    async def _ask(
        self, unit: UnitOfWork, some: Sequence[TakeoverLine], ask: AskRules, now: datetime
    ) -> None:
        until = now + timedelta(days=ask.days)
        remind = now + timedelta(days=ask.remind_days) if ask.remind_days else None
        await unit.takeovers.told([t.id for t in some], now, remind, until)
        asked = [replace(t, asked_at=now, answer_by=until) for t in some]
        await self._send(unit, asked, now, again=False)

    async def _send(
        self, unit: UnitOfWork, some: Sequence[TakeoverLine], now: datetime, *, again: bool
    ) -> None:
        """One mail to each who is asked, about everybody of whom it is, with a link."""
        mails, events = [], []
        what = "takeover.reminded" if again else "takeover.asked"
        for heir_id, group in groupby(some, lambda t: t.heir_id):
            lines = list(group)
            one = lines[0]
            until = max(t.answer_by or now for t in lines)
            for person_id, theirs in groupby(lines, lambda t: t.person_id):
                kinds: list[Json] = [f"{t.application_id}: {t.count} {t.thing}" for t in theirs]
                told: Document = {"asked": one.heir_name, "of": kinds}
                events.append(make_event(now, "schedule", what, person_id, told))
            if not one.address:
                continue
            token = secrets.token_urlsafe(24)
            await unit.takeovers.link(hashed(token), heir_id, until + SHOWN)
            there = min(t.answer_by or now for t in lines).astimezone(ZoneInfo(one.heir_zone))
            subject, text = takeover_mail(
                one.heir_name,
                [(t.name, t.application_name, t.thing, t.count) for t in lines],
                f"{there:%a %-d %b %Y %H:%M}",
                again=again,
            )
            mails.append(
                Mail(
                    address=one.address,
                    subject=subject,
                    text=text,
                    kind=MailKind.REMINDER,
                    secret=f"{self._settings.console_url}/t#{token}",
                    subject_id=one.person_id,
                )
            )
        if mails:
            await post(unit, mails, self._vault, now)
        await unit.audit.add(events)

    async def opened(self, token: str) -> Sequence[TakeoverLine]:
        """What the link of a mail asks.

        Raises:
            NotFound: there is no such link, or nothing is asked any more.
        """
        now = await self._clock.now()
        async with self._database.unit(alone=True) as unit:
            return await unit.takeovers.behind(hashed(token), now)

    async def answer_link(
        self, token: str, takeover_id: str, said: Reply
    ) -> Sequence[TakeoverLine]:
        """Whoever has the link answers one of its questions; all of them as they are then.

        Raises:
            NotFound: the link or the question is not to be had any more, or nobody has the login or address.
            Conflict: it was answered, or whoever it is passed on to has declined.
            InvalidInput: it is declined without a reason, or passed on to somebody who cannot take over.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            lines = await unit.takeovers.behind(hashed(token), now)
            if takeover_id not in {t.id for t in lines}:
                raise NotFound("This link does not ask that.", place="id")
            name = lines[0].heir_name
            await self._answer(unit, takeover_id, said, name, now)
            return await unit.takeovers.behind(hashed(token), now)

    async def answer_for(self, takeover_id: str, said: Reply, author: str) -> TakeoverLine:
        """An operator notes what somebody has said otherwise, and how; as `answer_link`.

        Raises:
            InvalidInput: as there, or it is not said how it is known.
        """
        if not said.note.strip():
            raise InvalidInput("Say how you know.", place="note")
        now = await self._clock.now()
        async with self._database.unit() as unit:
            one = await unit.takeovers.one(takeover_id)
            what = "what becomes of what is owned"
            await must_be_for_others(unit, author, [one.person_id], what, now)
            await self._answer(unit, takeover_id, said, author, now)
            return await unit.takeovers.one(takeover_id)

    async def _answer(
        self, unit: UnitOfWork, takeover_id: str, said: Reply, author: str, now: datetime
    ) -> None:
        one = await unit.takeovers.one(takeover_id, lock=True)
        if one.answer is not TakeoverAnswer.OPEN:
            raise Conflict(
                f"It is {one.answer.value.replace('-', ' ')} already.",
                place="answer",
                remedy="An operator can choose somebody: yugum handover choose.",
            )
        if said.answer is TakeoverAnswer.PASSED_ON:
            await self._pass_on(unit, one, said, author, now)
        elif said.to:
            raise InvalidInput(
                "Only what is passed on goes to somebody else.", place="to", remedy="Leave it out."
            )
        elif said.answer is TakeoverAnswer.DECLINED:
            await self._decline(unit, one, said, now)
        await unit.takeovers.answer(
            replace(one, answer=said.answer, answered_at=now, note=said.note.strip())
        )
        told = {
            "answer": said.answer.value,
            "of": f"{one.application_id}: {one.count} {one.thing}",
            "asked": one.heir_name,
            "to": said.to,
            "note": said.note,
        }
        await unit.audit.add([make_event(now, author, "takeover.answered", one.person_id, told)])
        await self._ended(unit, [one.person_id], now)

    async def _decline(
        self, unit: UnitOfWork, one: TakeoverLine, said: Reply, now: datetime
    ) -> None:
        """What chose them for just this is over, so that it stands in the way of no other choice."""
        if not said.note.strip():
            raise InvalidInput("Say why you decline.", place="note")
        made = chosen(
            await unit.decisions.in_force(one.person_id, now), one.application_id, one.thing, now
        )
        theirs = (one.application_id, one.thing, one.heir_id)
        over = [
            d.id
            for d in made
            if (d.payload.application, d.payload.item, d.payload.person) == theirs
        ]
        await unit.decisions.end_some(over, now)

    async def _pass_on(
        self, unit: UnitOfWork, one: TakeoverLine, said: Reply, author: str, now: datetime
    ) -> None:
        """Somebody else is chosen for the kind instead of whoever was asked; they are asked in turn."""
        people = await unit.people.many([one.person_id, one.heir_id])
        person = people[one.person_id][0]
        other = await _by_login_or_address(unit, said.to)
        if other.id == one.heir_id:
            raise InvalidInput("They were asked already.", place="to", remedy="Name somebody else.")
        at = max(now, person.access_ends or now)
        await must_take_over(unit, other, {person.id: person}, at)
        before = (await unit.takeovers.of([person.id])).get(person.id, {})
        theirs = before.get((one.application_id, one.thing, other.id))
        if theirs is not None and theirs.answer in SAID_NO:
            raise Conflict(
                "They were asked before and do not take it over.",
                place="to",
                remedy="Name somebody else, or decline.",
            )
        decisions = await unit.decisions.in_force(person.id, now)
        mine = [
            (d.payload.matching, d.payload.value)
            for d in chosen(decisions, one.application_id, one.thing, at)
            if d.payload.person == one.heir_id
        ]
        for matching, value in dict.fromkeys(mine) or [("", "")]:
            decision = Decision(
                id=str(uuid.uuid4()),
                subject_id=person.id,
                kind=DecisionKind.SUCCESSOR,
                payload=Payload(
                    application=one.application_id,
                    item=one.thing,
                    matching=matching,
                    value=value,
                    person=other.id,
                ),
                author=author,
                reason=said.note.strip() or f"{one.heir_name} passed it on",
            )
            await replace_choice(unit, [decision], now, one_share=True)

    async def _ended(self, unit: UnitOfWork, person_ids: Sequence[str], now: datetime) -> None:
        """What follows from answers, for those who have left already."""
        people = await unit.people.many(person_ids)
        left = [i for i, (p, _) in people.items() if state_at(p, now) is PersonState.LEFT]
        if left:
            await look_again(unit, sorted(left), now, "schedule", BASIS)
            await unit.hint()


async def _by_login_or_address(unit: UnitOfWork, name: str) -> Person:
    """Exactly one person: whoever has a link shall not look for people with it.

    Raises:
        NotFound: nobody has the login or address, or several have.
    """
    ids = await unit.takeovers.called(name.strip()) if name.strip() else ()
    if len(ids) != 1:
        raise NotFound(
            "Nobody has this login or address.", place="to", remedy="Write it as in the directory."
        )
    return (await unit.people.many(ids))[ids[0]][0]
