"""Approvals: who must agree before a docket starts, asked, reminded, delegated, answered."""

from __future__ import annotations

import secrets
import uuid
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from yugum.core import roles
from yugum.core.approvals import PURGE, Answer, ApprovalState
from yugum.core.dockets import DocketDetail
from yugum.core.documents import Document
from yugum.core.mails import Mail, MailKind, approval_mail
from yugum.core.people import full_name
from yugum.core.roles import Rules
from yugum.core.verbs import Verb
from yugum.engine.asked import (
    Waiting,
    as_asked,
    asked_by,
    deputies,
    may_stand_in,
    reminders,
    told_author,
    waiting_of,
)
from yugum.engine.changes import NOT_AGREED, take_back
from yugum.engine.context import load_rules
from yugum.engine.declined import decline
from yugum.engine.events import make_event
from yugum.engine.hashing import hashed
from yugum.engine.posting import post
from yugum.engine.standing import look_again
from yugum.errors import Conflict, Forbidden, InvalidInput, NotFound
from yugum.ports.approvals import Approval, ApprovalLine
from yugum.ports.clock import Clock
from yugum.ports.pages import ListPage
from yugum.ports.services import Vault
from yugum.ports.units import Database, UnitOfWork
from yugum.settings import Settings

LINK_DAYS = 14


@dataclass(frozen=True, slots=True)
class OpenedApproval:
    """What a link from a mail shows: the approval with its docket, and who opened it."""

    approval: Approval
    docket: DocketDetail
    name: str


class Approvals:
    def __init__(self, database: Database, clock: Clock, vault: Vault, settings: Settings) -> None:
        self._database = database
        self._clock = clock
        self.vault = vault
        self._settings = settings

    async def page(
        self, state: ApprovalState | None, docket: str, cursor: str | None, limit: int
    ) -> ListPage[ApprovalLine]:
        async with self._database.unit() as unit:
            docket_id = (await unit.dockets.by_name(docket)).id if docket else ""
            return await unit.approvals.page(state, docket_id, cursor, limit)

    async def ask(
        self,
        unit: UnitOfWork,
        waiting: Waiting,
        names: Sequence[str],
        rules: Rules,
        now: datetime,
        *,
        wait: bool = True,
    ) -> Sequence[Approval]:
        """Let a docket wait for approvals, and tell those who are asked; the approvals.

        Without ``wait`` the docket has begun already: what they answer is written down.
        """
        made = []
        zone = waiting.person.time_zone
        for name in names:
            rule = rules.approvals.get(name) or roles.Approval(name, ())
            made.append(
                Approval(
                    id=str(uuid.uuid4()),
                    docket_id=waiting.docket_id,
                    subject_id=waiting.person.id,
                    name=name,
                    digest=waiting.digest,
                    covers=waiting.about.get(name, ()),
                    asked=await asked_by(unit, rule, waiting, now),
                    everyone=rule.everyone,
                    made_at=now,
                    remind_at=rules.working_hours.later(now, rule.remind_hours, zone),
                    expires_at=now + timedelta(hours=rule.expire_hours),
                )
            )
        await unit.approvals.ask(made, wait=wait)
        for approval in made:
            await self._tell(unit, approval, waiting, now)
        await unit.audit.add(
            [
                make_event(
                    now,
                    waiting.author,
                    "approval.asked",
                    waiting.person.id,
                    {"name": a.name, "asked": [one.name for one in a.asked]},
                    waiting.docket_id,
                )
                for a in made
            ]
        )
        return made

    async def _tell(
        self, unit: UnitOfWork, approval: Approval, waiting: Waiting, now: datetime
    ) -> None:
        until = f"{approval.expires_at:%a %-d %b %H:%M} UTC"
        for one in approval.asked:
            if not one.mail:
                continue
            token = secrets.token_urlsafe(24)
            await unit.approvals.link(hashed(token), approval.id, one.key, one.name, LINK_DAYS)
            subject, text = approval_mail(
                one.name,
                approval.name,
                waiting.title,
                full_name(waiting.person),
                waiting.author,
                waiting.reason,
                waiting.summary,
                until,
            )
            mail = Mail(
                address=one.mail,
                subject=subject,
                text=text,
                kind=MailKind.APPROVAL,
                secret=f"{self._settings.console_url}/a#{token}",
                subject_id=waiting.person.id,
                docket_id=waiting.docket_id,
            )
            await post(unit, [mail], self.vault, now)

    async def answer(
        self,
        approval_id: str,
        login: str,
        person_id: str | None,
        *,
        agrees: bool,
        note: str,
        administrator: bool = False,
    ) -> Approval:
        """An operator agrees or refuses; an ``administrator`` may for those who were asked, and says why.

        Raises:
            Forbidden: the operator was not asked, or would approve their own doing.
            InvalidInput: an administrator does not say why.
        """
        keys = {f"operator:{login}"} | ({f"person:{person_id}"} if person_id else set())
        return await self._answer(
            approval_id, keys, login, agrees=agrees, note=note, administrator=administrator
        )

    async def opened(self, token: str) -> OpenedApproval:
        """What a link from a mail shows."""
        async with self._database.unit() as unit:
            behind = await unit.approvals.behind(hashed(token))
            approval = await unit.approvals.one(behind.approval_id)
            docket = await unit.dockets.one(approval.docket_id)
            return OpenedApproval(approval, docket, behind.name)

    async def answer_link(self, token: str, *, agrees: bool, note: str) -> Approval:
        """Somebody answers by the link in their mail, which is used up by it."""
        digest = hashed(token)
        async with self._database.unit() as unit:
            behind = await unit.approvals.behind(digest)
        approval = await self._answer(
            behind.approval_id, {behind.who}, behind.name, agrees=agrees, note=note
        )
        async with self._database.unit() as unit:
            await unit.approvals.used(digest)
        return approval

    async def _answer(
        self,
        approval_id: str,
        keys: set[str],
        name: str,
        *,
        agrees: bool,
        note: str,
        administrator: bool = False,
    ) -> Approval:
        now = await self._clock.now()
        if not agrees and not note.strip():
            raise InvalidInput("Say why you refuse.", place="note")
        async with self._database.unit() as unit:
            before = await unit.approvals.one(approval_id)
            mine = {a.key for a in before.asked} & keys
            stands_in = not mine
            if stands_in:
                await may_stand_in(unit, before, keys, administrator=administrator)
                mine = {f"operator:{name}"}
                if before.name == PURGE:  # any second administrator is one who was asked
                    stands_in = False
                else:
                    name = f"{name} (administrator, not asked)"
            if before.state is not ApprovalState.OPEN:
                raise Conflict(f"This approval is {before.state.value} already.")
            if stands_in and not note.strip():
                raise InvalidInput("Say why you answer for those who were asked.", place="note")
            answer = Answer(key=min(mine), name=name, agrees=agrees, note=note, at=now)
            answers = (*(a for a in before.answers if a.key not in mine), answer)
            state = _comes_to(before, answers)
            if stands_in and state is ApprovalState.OPEN:
                state = ApprovalState.GIVEN  # for all of those who must
            after = replace(before, answers=answers, state=state)
            await unit.approvals.answer(approval_id, answers, after.state, now)
            await self._follow_up(unit, after, answer, now)
            payload: Document = {"approval": after.name, "agrees": agrees, "note": note}
            await unit.audit.add(
                [
                    make_event(
                        now,
                        name,
                        "approval.answered",
                        after.subject_id,
                        payload,
                        after.docket_id,
                    )
                ]
            )
            return after

    async def _follow_up(
        self, unit: UnitOfWork, approval: Approval, answer: Answer, now: datetime
    ) -> None:
        """What an answer does to the docket: drop it, or let it go once nobody else is waited for."""
        if approval.state is ApprovalState.REFUSED:
            cancelled = await unit.approvals.drop(approval.docket_id, approval.state, now)
            mails = await told_author(unit, approval, answer, cancelled=cancelled)
            await post(unit, mails, self.vault, now)
            if cancelled:
                await self._undone(unit, approval, answer, now)
        elif approval.state is ApprovalState.GIVEN and not await unit.approvals.open_for(
            approval.docket_id
        ):
            await unit.approvals.release(approval.docket_id)
            await unit.leases.wake([approval.subject_id], priority=5)
            await unit.hint()

    async def _undone(
        self, unit: UnitOfWork, approval: Approval, answer: Answer, now: datetime
    ) -> None:
        """What a refused docket said of the person is taken back.

        A joiner is no person any more, if nothing was done for them yet.
        """
        _, becomes = await take_back(unit, approval.docket_id, now)
        docket = await unit.dockets.one(approval.docket_id)
        if docket.verb is Verb.JOINER and not await unit.declined.begun(approval.subject_id):
            person, _ = (await unit.people.many([approval.subject_id]))[approval.subject_id]
            await decline(unit, person, answer.name, answer.note, now, docket.id)
        elif becomes:  # access may have ended meanwhile
            await look_again(unit, [approval.subject_id], now, answer.name, NOT_AGREED)
            await unit.hint()

    async def delegate(
        self,
        approval_id: str,
        login: str,
        person_id: str | None,
        to: str,
        *,
        administrator: bool = False,
    ) -> Approval:
        """Somebody who was asked, or an administrator, asks another operator as well."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            before = await unit.approvals.one(approval_id)
            keys = {f"operator:{login}", f"person:{person_id}"}
            if not administrator and not keys & {a.key for a in before.asked}:
                raise Forbidden("Only who was asked, or an administrator, can ask somebody else.")
            docket = await unit.dockets.one(before.docket_id)
            other = await unit.operators.by_login(to)
            if other is None or not other.active:
                raise NotFound(
                    f"There is no operator {to}.", place="to", remedy="yugum operators list"
                )
            if other.login == docket.author or other.person_id == before.subject_id:
                raise Conflict("Nobody approves their own doing.", remedy="Name somebody else.")
            who = as_asked(other)
            await unit.approvals.also_ask(approval_id, who)
            payload = {"approval": before.name, "to": to}
            await unit.audit.add(
                [
                    make_event(
                        now,
                        login,
                        "approval.delegated",
                        before.subject_id,
                        payload,
                        before.docket_id,
                    )
                ]
            )
            return replace(before, asked=(*before.asked, who))

    async def remind_or_expire(self, now: datetime) -> int:
        """Remind of approvals, ask deputies too, and end those nobody answered in time; how many."""
        async with self._database.unit() as unit:
            late = await unit.approvals.remind_or_expire(now)
            rules = await load_rules(unit) if late else Rules()
            for approval in late:
                if approval.state is ApprovalState.EXPIRED:
                    cancelled = await unit.approvals.drop(approval.docket_id, approval.state, now)
                    mails = await told_author(unit, approval, cancelled=cancelled)
                    await post(unit, mails, self.vault, now)
                else:
                    await post(unit, reminders(approval), self.vault, now)
                    await self._escalate(unit, approval, rules, now)
            await unit.audit.add(
                [
                    make_event(
                        now,
                        "schedule",
                        "approval.expired"
                        if a.state is ApprovalState.EXPIRED
                        else "approval.reminded",
                        a.subject_id,
                        {"approval": a.name},
                        a.docket_id,
                    )
                    for a in late
                ]
            )
            return len(late)

    async def _escalate(
        self, unit: UnitOfWork, approval: Approval, rules: Rules, now: datetime
    ) -> None:
        """Ask those who stand in for who has not answered."""
        rule = rules.approvals.get(approval.name) or roles.Approval(approval.name, ())
        docket = await unit.dockets.one(approval.docket_id)
        waiting = await waiting_of(unit, docket, approval.digest)
        before = {a.key for a in approval.asked}
        more = [a for a in await deputies(unit, rule, waiting, now) if a.key not in before]
        for one in more:
            await unit.approvals.also_ask(approval.id, one)
        await self._tell(unit, replace(approval, asked=tuple(more)), waiting, now)


def _comes_to(approval: Approval, answers: Sequence[Answer]) -> ApprovalState:
    """What the answers come to: one refusal is enough, and one assent unless everyone must."""
    if any(not a.agrees for a in answers):
        return ApprovalState.REFUSED
    agreed = {a.key for a in answers}
    if not approval.everyone or agreed >= {a.key for a in approval.asked}:
        return ApprovalState.GIVEN
    return ApprovalState.OPEN
