"""Whether unused seats are still needed: asked by mail where the rules say so, and kept on an answer."""

from __future__ import annotations

import secrets
from collections.abc import Sequence
from dataclasses import replace
from datetime import datetime, timedelta

from yugum.core.documents import Document
from yugum.core.licenses import License
from yugum.core.mails import Mail, MailKind, unused_mail
from yugum.core.questions import SeatAnswer
from yugum.core.seats import Pool
from yugum.engine.context import load_rules
from yugum.engine.events import make_event
from yugum.engine.hashing import hashed
from yugum.engine.posting import post
from yugum.engine.reclaim import look_at
from yugum.engine.seats import shown_pool
from yugum.errors import Conflict, InvalidInput
from yugum.ports.clock import Clock
from yugum.ports.pages import ListPage
from yugum.ports.questions import QuestionLine, Unused
from yugum.ports.services import Vault
from yugum.ports.units import Database, UnitOfWork
from yugum.settings import Settings

PORTION = 100


class Questions:
    def __init__(self, database: Database, clock: Clock, vault: Vault, settings: Settings) -> None:
        self._database = database
        self._clock = clock
        self._vault = vault
        self._settings = settings

    async def page(self, pool_id: str, cursor: str | None, limit: int) -> ListPage[QuestionLine]:
        """Who was asked about seats of a pool, the latest first.

        Raises:
            NotFound: there is no such pool.
        """
        async with self._database.unit(alone=True) as unit:
            await shown_pool(unit, pool_id)
            return await unit.questions.page(pool_id, cursor, limit)

    async def ask(self, pool_id: str, author: str) -> int:
        """Ask everybody who does not use a seat of a pool and was not asked; how many.

        Raises:
            NotFound: there is no such pool.
            InvalidInput: the rules do not have anybody asked.
        """
        async with self._database.unit(alone=True) as unit:
            pool = (await shown_pool(unit, pool_id)).pool
            license = (await load_rules(unit)).license(pool.application_id, pool.license)
        if not license.ask_days:
            raise InvalidInput(
                f"The rules have nobody asked about {pool.license}.",
                place="pool_id",
                remedy="Say in the rules how long to wait for an answer: ask_days.",
            )
        return await self._ask(pool, author)

    async def ask_all(self) -> int:
        """Ask wherever the rules say so; how many were asked."""
        async with self._database.unit(alone=True) as unit:
            licenses = (await load_rules(unit)).licenses
            pools = await unit.seats.pools() if any(x.ask_days for x in licenses.values()) else {}
        asked = [p for key, p in pools.items() if key in licenses and licenses[key].ask_days]
        return sum([await self._ask(pool, "schedule") for pool in asked])

    async def _ask(self, pool: Pool, author: str) -> int:
        found, count = PORTION, 0
        while found == PORTION:
            now = await self._clock.now()
            async with self._database.unit() as unit:
                looked = await look_at(unit, pool, now)
                some = await unit.questions.to_ask(looked, PORTION)
                found = len(some)
                count += await self._send(unit, pool, looked.license, some, author, now)
        return count

    async def _send(
        self,
        unit: UnitOfWork,
        pool: Pool,
        license: License,
        some: Sequence[Unused],
        author: str,
        now: datetime,
    ) -> int:
        if not some:
            return 0
        application = (await unit.applications.all())[pool.application_id].name
        answer_by = now + timedelta(days=license.ask_days)
        tokens = {one.claim_id: secrets.token_urlsafe(24) for one in some}
        links = {claim: hashed(token) for claim, token in tokens.items()}
        mine = {*await unit.questions.ask(links, now, answer_by)}
        mails = []
        for one in some:
            if one.claim_id not in mine:
                continue
            used = f"last used on {one.last_used:%-d %b %Y}" if one.last_used else "never used"
            subject, text = unused_mail(
                one.person_name,
                pool.license,
                application,
                one.login,
                used,
                f"{answer_by:%a %-d %b %Y}",
            )
            mails.append(
                Mail(
                    address=one.mail,
                    subject=subject,
                    text=text,
                    kind=MailKind.REMINDER,
                    secret=f"{self._settings.console_url}/k#{tokens[one.claim_id]}",
                    subject_id=one.person_id,
                )
            )
        await post(unit, mails, self._vault, now)
        name = f"{pool.application_id}/{pool.license}"
        told: Document = {"people": len(mails), "answer_by": answer_by.isoformat()}
        await unit.audit.add([make_event(now, author, "seats.asked", name, told)])
        return len(mails)

    async def opened(self, token: str) -> QuestionLine:
        """What the link of a mail asks.

        Raises:
            NotFound: the link was used, or the seat has come back.
        """
        async with self._database.unit(alone=True) as unit:
            return await unit.questions.behind(hashed(token))

    async def answer(self, token: str, *, keeps: bool) -> QuestionLine:
        """Somebody still needs a seat, or does not; said once.

        Raises:
            NotFound: the link is not known, or the seat has come back.
            Conflict: it was answered.
        """
        now = await self._clock.now()
        async with self._database.unit() as unit:
            line = await unit.questions.behind(hashed(token), lock=True)
            if line.answer is not SeatAnswer.OPEN:
                raise Conflict(f"It was answered: {line.answer.value}.")
            license = (await load_rules(unit)).license(line.application_id, line.license)
            until = now + timedelta(days=license.unused_days or license.never_used_days)
            answered = replace(
                line,
                answer=SeatAnswer.KEPT if keeps else SeatAnswer.GIVEN_UP,
                answered_at=now,
                kept_until=until if keeps else None,
            )
            await unit.questions.answer(answered)
            name = f"{line.application_id}/{line.license}"
            told = {"login": line.login, "answer": answered.answer.value}
            author = line.person_name or line.login
            await unit.audit.add([make_event(now, author, "seats.answered", name, told)])
            return answered
