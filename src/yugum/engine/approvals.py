"""Approvals: who must agree before a docket starts, asked, reminded, delegated, answered."""

from __future__ import annotations

import secrets
import uuid
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from yugum.core.actions import Action
from yugum.core.decisions import OriginKind
from yugum.core.mails import Mail, approval_mail
from yugum.core.people import Person, full_name
from yugum.core.plans import PlannedStep
from yugum.core.roles import Approval, Rules
from yugum.engine.access import hashed
from yugum.engine.events import make_event
from yugum.engine.mails import post
from yugum.engine.managers import manager_of
from yugum.errors import Conflict, Forbidden, InvalidInput
from yugum.ports import Clock, Database, ListPage, Row, UnitOfWork, Vault
from yugum.settings import Settings

GIVING = frozenset({Action.CREATE, Action.GRANT, Action.TAKE_SEAT})
LINK_DAYS = 14


@dataclass(frozen=True, slots=True, kw_only=True)
class Waiting:
    """A docket that must be agreed to before it starts."""

    docket_id: str
    number: str
    verb: str
    person: Person
    author: str
    reason: str
    digest: str
    summary: str
    applications: frozenset[str]


def needed(verb: str, steps: Iterable[PlannedStep], rules: Rules) -> tuple[str, ...]:
    """The approvals a plan needs: its procedure's, and those of the roles it newly gives."""
    names = []
    if rules.procedure(verb).approval:
        names.append(rules.procedure(verb).approval)
    by_role = {r.name: r.approval for r in rules.roles if r.approval}
    for step in steps:
        if step.action in GIVING and step.origin and step.origin.kind is OriginKind.ROLE:
            name = by_role.get(step.origin.name, "")
            if name and name not in names:
                names.append(name)
    return tuple(names)


def afterwards(verb: str, rules: Rules) -> tuple[str, ...]:
    """The approvals asked for when an urgent docket of this verb has begun already."""
    procedure = rules.procedure(verb)
    return (procedure.approval,) if procedure.approval and procedure.urgent_afterwards else ()


class Approvals:
    def __init__(self, database: Database, clock: Clock, vault: Vault, settings: Settings) -> None:
        self._database = database
        self._clock = clock
        self._vault = vault
        self._settings = settings

    async def page(self, state: str, docket_id: str, cursor: str | None, limit: int) -> ListPage:
        async with self._database.unit() as unit:
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
    ) -> None:
        """Let a docket wait for approvals, and tell those who are asked.

        Without ``wait`` the docket has begun already: what they answer is written down.
        """
        rows: list[dict[str, Any]] = []
        for name in names:
            approval = rules.approvals.get(name) or Approval(name, (), remind_hours=24)
            asked = await _asked(unit, approval, waiting, now)
            row: dict[str, Any] = {
                "id": str(uuid.uuid4()),
                "docket_id": waiting.docket_id,
                "subject_id": waiting.person.id,
                "name": name,
                "digest": waiting.digest,
                "asked": asked,
                "everyone": approval.everyone,
                "made_at": now,
                "remind_at": now + timedelta(hours=approval.remind_hours),
                "expires_at": now + timedelta(hours=approval.expire_hours),
            }
            rows.append(row)
        await unit.approvals.ask(rows, wait=wait)
        for row in rows:
            await self._tell(unit, row, row["asked"], waiting, now)
        await unit.audit.add(
            [
                make_event(
                    now,
                    waiting.author,
                    "approval.asked",
                    waiting.person.id,
                    {"name": r["name"], "asked": [a["name"] for a in r["asked"]]},
                    waiting.docket_id,
                )
                for r in rows
            ]
        )

    async def _tell(
        self,
        unit: UnitOfWork,
        row: Row,
        asked: Sequence[Row],
        waiting: Waiting,
        now: datetime,
    ) -> None:
        until = f"{row['expires_at']:%a %-d %b %H:%M} UTC"
        for one in asked:
            if not one["mail"]:
                continue
            token = secrets.token_urlsafe(24)
            await unit.approvals.link(hashed(token), row["id"], one["key"], one["name"], LINK_DAYS)
            subject, text = approval_mail(
                one["name"],
                row["name"],
                waiting.verb,
                full_name(waiting.person),
                waiting.author,
                waiting.reason,
                waiting.summary,
                until,
            )
            mail = Mail(
                address=one["mail"],
                subject=subject,
                text=text,
                kind="approval",
                secret=f"{self._settings.console_url}/a#{token}",
                subject_id=waiting.person.id,
                docket_id=waiting.docket_id,
            )
            await post(unit, [mail], self._vault, now)

    async def answer(
        self, approval_id: str, login: str, person_id: str | None, *, agrees: bool, note: str
    ) -> Row:
        """An operator agrees or refuses.

        Raises:
            Forbidden: the operator was not asked, or would approve their own doing.
        """
        keys = {f"operator:{login}"} | ({f"person:{person_id}"} if person_id else set())
        return await self._answer(approval_id, keys, login, agrees=agrees, note=note)

    async def opened(self, token: str) -> Row:
        """What a link from a mail shows: the approval with its docket."""
        async with self._database.unit() as unit:
            behind = await unit.approvals.behind(hashed(token))
            row = await unit.approvals.one(behind["approval_id"])
            docket = await unit.dockets.one(row["docket_id"])
            return {"approval": row, "docket": docket, "name": behind["name"]}

    async def answer_link(self, token: str, *, agrees: bool, note: str) -> Row:
        """Somebody answers by the link in their mail, which is used up by it."""
        digest = hashed(token)
        async with self._database.unit() as unit:
            behind = await unit.approvals.behind(digest)
        row = await self._answer(
            behind["approval_id"], {behind["who"]}, behind["name"], agrees=agrees, note=note
        )
        async with self._database.unit() as unit:
            await unit.approvals.used(digest)
        return row

    async def _answer(
        self, approval_id: str, keys: set[str], name: str, *, agrees: bool, note: str
    ) -> Row:
        now = await self._clock.now()
        if not agrees and not note.strip():
            raise InvalidInput("Say why you refuse.", place="note")
        async with self._database.unit() as unit:
            row = await unit.approvals.one(approval_id)
            asked = {a["key"] for a in row["asked"]}
            mine = asked & keys
            if not mine:
                raise Forbidden(
                    "You were not asked for this approval.",
                    remedy=f"Asked are: {', '.join(a['name'] for a in row['asked'])}.",
                )
            if row["state"] != "open":
                raise Conflict(f"This approval is {row['state']} already.")
            answers = [a for a in row["answers"] if a["key"] not in mine]
            answers.append(
                {
                    "key": min(mine),
                    "name": name,
                    "agrees": agrees,
                    "note": note,
                    "at": now.isoformat(),
                }
            )
            agreed = {a["key"] for a in answers if a["agrees"]}
            state = "open"
            if not agrees:
                state = "refused"
            elif not row["everyone"] or agreed >= asked:
                state = "given"
            await unit.approvals.answer(approval_id, answers, state, now)
            if state == "refused":
                await unit.approvals.drop(row["docket_id"], "refused", now)
            elif state == "given" and not await unit.approvals.open_for(row["docket_id"]):
                await unit.approvals.release(row["docket_id"])
                await unit.leases.wake([row["subject_id"]], priority=5)
                await unit.hint()
            payload = {"approval": row["name"], "agrees": agrees, "note": note}
            await unit.audit.add(
                [
                    make_event(
                        now, name, "approval.answered", row["subject_id"], payload, row["docket_id"]
                    )
                ]
            )
            return {**row, "answers": answers, "state": state}

    async def delegate(self, approval_id: str, login: str, person_id: str | None, to: str) -> Row:
        """Somebody who was asked asks another operator as well."""
        now = await self._clock.now()
        async with self._database.unit() as unit:
            row = await unit.approvals.one(approval_id)
            keys = {f"operator:{login}", f"person:{person_id}"}
            if not keys & {a["key"] for a in row["asked"]}:
                raise Forbidden("Only who was asked can ask somebody else.")
            docket = await unit.dockets.one(row["docket_id"])
            other = await unit.operators.by_login(to)
            if other is None or not other["active"]:
                raise InvalidInput(f"There is no operator {to}.", place="to")
            if other["login"] == docket["author"] or other["person_id"] == row["subject_id"]:
                raise Conflict("Nobody approves their own doing.", remedy="Name somebody else.")
            who = _operator(other)
            await unit.approvals.also_ask(approval_id, who)
            payload = {"approval": row["name"], "to": to}
            await unit.audit.add(
                [
                    make_event(
                        now,
                        login,
                        "approval.delegated",
                        row["subject_id"],
                        payload,
                        row["docket_id"],
                    )
                ]
            )
            return {**row, "asked": [*row["asked"], who]}

    async def press(self, now: datetime) -> int:
        """Remind of approvals and end those nobody answered in time."""
        async with self._database.unit() as unit:
            rows = await unit.approvals.press(now)
            for row in rows:
                if row["state"] == "expired":
                    await unit.approvals.drop(row["docket_id"], "expired", now)
                    continue
                subject = f"Reminder: your approval ({row['name']})"
                text = "A docket still waits for you. The link is in the first mail."
                mails = [
                    Mail(
                        address=a["mail"],
                        subject=subject,
                        text=text,
                        kind="reminder",
                        subject_id=row["subject_id"],
                        docket_id=row["docket_id"],
                    )
                    for a in row["asked"]
                    if a["mail"]
                ]
                await post(unit, mails, self._vault, now)
            await unit.audit.add(
                [
                    make_event(
                        now,
                        "schedule",
                        "approval.expired" if r["state"] == "expired" else "approval.reminded",
                        r["subject_id"],
                        {"approval": r["name"]},
                        r["docket_id"],
                    )
                    for r in rows
                ]
            )
            return len(rows)


def _operator(row: Row) -> dict[str, Any]:
    return {
        "key": f"operator:{row['login']}",
        "name": row["name"] or row["login"],
        "mail": "",
        "why": "",
    }


async def _asked(
    unit: UnitOfWork, approval: Approval, waiting: Waiting, now: datetime
) -> list[dict[str, Any]]:
    """Who is asked; where a rule leads to nobody, the administrators are, and it says why."""
    found: dict[str, dict[str, Any]] = {}
    missing = ""
    for who in approval.by:
        if who == "manager":
            boss = await manager_of(unit, waiting.person, now)
            if boss is None:
                missing = "there is no manager"
                continue
            found[f"person:{boss.id}"] = {
                "key": f"person:{boss.id}",
                "name": full_name(boss),
                "mail": boss.mail or boss.outside_mail,
                "why": "manager",
            }
        elif who == "owner":
            applications = await unit.applications.all()
            owners = {applications[a].owner for a in waiting.applications if a in applications}
            if not owners - {""}:
                missing = "no application touched has an owner"
            for login in sorted(owners - {""}):
                row = await unit.operators.by_login(login)
                if row is not None and row["active"]:
                    found[f"operator:{login}"] = {**_operator(row), "why": "owner"}
        else:
            row = await unit.operators.by_login(who)
            if row is not None and row["active"]:
                found[f"operator:{who}"] = _operator(row)
    own = {f"operator:{waiting.author}", f"person:{waiting.person.id}"}
    author = await unit.operators.by_login(waiting.author)
    if author is not None and author["person_id"]:
        own.add(f"person:{author['person_id']}")
    asked = [a for key, a in found.items() if key not in own]
    if asked:
        return asked
    missing = missing or (
        "nobody may approve their own doing" if approval.by else "a second operator must agree"
    )
    page = await unit.operators.page(None, 200)
    return [
        {**_operator(row), "why": f"{missing}, so administrators are asked"}
        for row in page.items
        if row["role"] == "administrator" and row["active"] and row["login"] != waiting.author
    ]
