"""Who is asked for an approval, who may stand in for them, and what mails tell of it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from yugum.core import roles
from yugum.core.approvals import AskedPerson
from yugum.core.mails import Mail, MailKind
from yugum.core.operators import OperatorRole
from yugum.core.people import Person, full_name
from yugum.core.verbs import Verb
from yugum.engine.managers import manager_of
from yugum.errors import Forbidden
from yugum.ports.approvals import Approval
from yugum.ports.operators import OperatorRecord
from yugum.ports.units import UnitOfWork


@dataclass(frozen=True, slots=True, kw_only=True)
class Waiting:
    """A docket that must be agreed to before it starts."""

    docket_id: str
    number: str
    verb: Verb
    person: Person
    author: str
    reason: str
    digest: str
    summary: str
    applications: frozenset[str]


async def may_stand_in(
    unit: UnitOfWork, approval: Approval, keys: set[str], *, administrator: bool
) -> None:
    """Whether an administrator may answer for those who were asked.

    Raises:
        Forbidden: it is none, or their own doing.
    """
    if not administrator:
        asked = ", ".join(a.name for a in approval.asked)
        raise Forbidden(
            "You were not asked for this approval.",
            remedy=f"Asked are: {asked}." if asked else "An administrator can answer.",
        )
    docket = await unit.dockets.one(approval.docket_id)
    author = await unit.operators.by_login(docket.author)
    own = {f"operator:{docket.author}", f"person:{approval.subject_id}"}
    if author is not None and author.person_id:
        own.add(f"person:{author.person_id}")
    if keys & own:
        raise Forbidden(
            "Nobody approves their own doing.", remedy="Another administrator can answer."
        )


async def told_author(unit: UnitOfWork, approval: Approval) -> list[Mail]:
    """What whoever asked for a docket is told when nobody answered in time."""
    docket = await unit.dockets.one(approval.docket_id)
    author = await unit.operators.by_login(docket.author)
    if author is None or author.person_id is None:
        return []
    found = (await unit.people.many([author.person_id])).get(author.person_id)
    address = found[0].mail if found else ""
    if not address:
        return []
    asked = ", ".join(a.name for a in approval.asked) or "nobody"
    return [
        Mail(
            address=address,
            subject=f"Not approved in time: {docket.verb.value} of {docket.subject_name}",
            text=f"Nobody answered in time ({approval.name}; asked: {asked}). The docket is cancelled and "
            "has done nothing; it stays under Findings, from where it can be planned again.",
            kind=MailKind.REMINDER,
            subject_id=approval.subject_id,
            docket_id=approval.docket_id,
        )
    ]


def reminders(approval: Approval) -> list[Mail]:
    subject = f"Reminder: your approval ({approval.name})"
    text = "A docket still waits for you. The link is in the first mail."
    return [
        Mail(
            address=one.mail,
            subject=subject,
            text=text,
            kind=MailKind.REMINDER,
            subject_id=approval.subject_id,
            docket_id=approval.docket_id,
        )
        for one in approval.asked
        if one.mail
    ]


def as_asked(operator: OperatorRecord, why: str = "") -> AskedPerson:
    return AskedPerson(
        key=f"operator:{operator.login}", name=operator.name or operator.login, why=why
    )


async def asked_by(
    unit: UnitOfWork, rule: roles.Approval, waiting: Waiting, now: datetime
) -> tuple[AskedPerson, ...]:
    """Who is asked; where a rule leads to nobody, the administrators are, and it says why."""
    found: list[AskedPerson] = []
    missing = ""
    for who in rule.by:
        if who == "manager":
            boss = await manager_of(unit, waiting.person, now)
            if boss is None:
                missing = "there is no manager"
                continue
            mail = boss.mail or boss.outside_mail
            found.append(
                AskedPerson(key=f"person:{boss.id}", name=full_name(boss), mail=mail, why="manager")
            )
        elif who == "owner":
            applications = await unit.applications.all()
            owners = {applications[a].owner for a in waiting.applications if a in applications}
            if not owners - {""}:
                missing = "no application touched has an owner"
            for login in sorted(owners - {""}):
                found += await _of_login(unit, login, "owner")
        else:
            found += await _of_login(unit, who, "")
    own = {f"operator:{waiting.author}", f"person:{waiting.person.id}"}
    author = await unit.operators.by_login(waiting.author)
    if author is not None and author.person_id:
        own.add(f"person:{author.person_id}")
    asked = {one.key: one for one in found if one.key not in own}
    if asked:
        return tuple(asked.values())
    missing = missing or (
        "nobody may approve their own doing" if rule.by else "a second operator must agree"
    )
    page = await unit.operators.page(None, 200)
    return tuple(
        as_asked(one, f"{missing}, so administrators are asked")
        for one in page.items
        if one.role is OperatorRole.ADMINISTRATOR and one.active and one.login != waiting.author
    )


async def _of_login(unit: UnitOfWork, login: str, why: str) -> list[AskedPerson]:
    operator = await unit.operators.by_login(login)
    return [as_asked(operator, why)] if operator is not None and operator.active else []
